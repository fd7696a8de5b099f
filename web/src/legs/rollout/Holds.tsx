import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, take, type Api } from "../../api/client";
import { Choice } from "../../kit/Choice";
import { Trouble } from "../../kit/Trouble";

/** What each client kind can hold, what share of all situations it honours exactly, and where it cannot. */
export function Holds({ data }: { data: Api["RolloutAnswer"] }) {
  const [edition, setEdition] = useState("0");
  const fitting = useQuery({
    queryKey: ["fitting", edition],
    queryFn: () => take(api.GET("/api/fitting", { params: { query: { edition: Number(edition) } } })),
    placeholderData: keepPreviousData,
  });
  const editions = [data.latestEdition, data.settledEdition ?? 0].filter(
    (one, at, all) => one > 0 && all.indexOf(one) === at,
  );
  return (
    <div className="flex h-full min-h-0 flex-col gap-3 overflow-y-auto">
      <p className="text-soft">
        A slot of an installed client stands for several situations. Where the rules want different things there, it
        gets what the most cautious one carries. Of{" "}
        <Choice
          label="What is fitted"
          look="condition"
          value={edition}
          options={[
            { value: "0", label: "the drafts as they are" },
            ...editions.map((one) => ({ value: String(one), label: `edition ${one}` })),
          ]}
          onChange={setEdition}
        />
        , this is what each kind can honour:
      </p>
      <Trouble error={fitting.error} />
      {fitting.isPending && <p className="text-soft">Every account is being fitted …</p>}
      {fitting.data && (
        <ol aria-label="Client kinds" className="border-t border-line">
          {fitting.data.kinds.map((kind) => (
            <Kind key={kind.kind} kind={kind} helpers={fitting.data.helpers} />
          ))}
        </ol>
      )}
    </div>
  );
}

const shown = 4; // sentences; the rest is opened

function Kind({ kind, helpers }: { kind: Api["KindFitting"]; helpers: readonly string[] }) {
  const [isOpen, setOpen] = useState(false);
  const { situations, honoured } = kind.report;
  const share = situations === 0 ? 100 : Math.floor((100 * honoured) / situations);
  const sentences = isOpen ? kind.sentences : kind.sentences.slice(0, shown);
  return (
    <li className="grid grid-cols-[200px_150px_minmax(0,1fr)] gap-x-6 border-b border-line py-3">
      <div>
        <h2 className="font-semibold">{kind.name}</h2>
        <p className="text-second text-soft">{kind.limits}</p>
      </div>
      <div>
        <p>
          <b className="font-title text-title font-medium tabular-nums">{share} %</b>
        </p>
        <p className="text-second text-soft">
          {honoured.toLocaleString("en-GB")} of {situations.toLocaleString("en-GB")} situations exactly
        </p>
        <span aria-hidden className="mt-1 block h-2 border border-line">
          <span className="block h-full bg-pine" style={{ width: `${share}%` }} />
        </span>
      </div>
      <div>
        {kind.sentences.length === 0 ? (
          <p className="text-soft">Every message looks exactly as the rules want it.</p>
        ) : (
          <>
            <ul className="flex flex-col gap-1">
              {sentences.map((sentence) => (
                <li key={sentence}>{sentence}</li>
              ))}
            </ul>
            {kind.sentences.length > shown && (
              <button type="button" className="mt-1 min-h-6 text-lens hover:underline" onClick={() => setOpen(!isOpen)}>
                {isOpen ? "Fewer" : `${kind.sentences.length - shown} more`}
              </button>
            )}
            {kind.report.losses.length > 0 && (
              <p className="mt-1 text-second text-soft">The {helpers.join(" or the ")} would set this right.</p>
            )}
          </>
        )}
      </div>
    </li>
  );
}
