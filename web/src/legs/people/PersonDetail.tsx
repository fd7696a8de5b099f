import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, take, type Api } from "../../api/client";
import { Button } from "../../kit/Button";
import { momentText } from "../../kit/dates";
import { PictureInput, pictureAddress } from "../../kit/PictureInput";
import { Trouble } from "../../kit/Trouble";
import { useLens } from "../../lens/lensState";

/** One person: facts with their origins, accounts, what is lacking, and what happened. */
export function PersonDetail({ id, closePath }: { id: string; closePath: string }) {
  const { look, setOpen } = useLens();
  const [address, setAddress] = useState<string | null>(null);
  const [showsEmpty, setShowsEmpty] = useState(false);
  const person = useQuery({
    queryKey: ["person", id, address],
    queryFn: () => take(api.GET("/api/people/{id}", { params: { path: { id }, query: address ? { address } : {} } })),
    placeholderData: (before) => (before?.id === id ? before : undefined),
    meta: { followsDrafts: true },
  });
  if (person.isError) return <Trouble error={person.error} />;
  if (!person.data) return <div className="border-l border-line" />;
  const data = person.data;
  const shown = data.fields.filter((field) => showsEmpty || field.origin !== null);
  return (
    <section aria-label="Person" className="min-h-0 overflow-x-hidden overflow-y-auto border-l border-line pl-5">
      <div className="flex items-start justify-between gap-2">
        <h2 className="font-title text-[20px] leading-6 font-medium">{data.name}</h2>
        <Link to={closePath} aria-label="Close" className="min-h-6 px-1.5 text-soft hover:text-ink">
          ✕
        </Link>
      </div>
      <p className="mb-2 text-small [overflow-wrap:anywhere] text-soft">
        {data.isRetiredByHand ? "Retired by hand. " : data.isRetired && "Retired. "}
        {data.entries.map((entry) => `${entry.sourceName}: ${entry.distinguishedName || entry.key}`).join("; ")}
      </p>
      {data.accounts.length > 1 && (
        <div role="radiogroup" aria-label="Account" className="mb-2 flex flex-wrap gap-1.5">
          {data.accounts.map((account) => (
            <button
              key={account.id}
              type="button"
              role="radio"
              aria-checked={account.address === data.address}
              onClick={() => setAddress(account.address)}
              className={`min-h-6 max-w-full truncate rounded-[3px] border px-1.5 text-small ${account.address === data.address ? "border-lens font-semibold text-lens" : "border-line text-soft"}`}
            >
              {account.address}
              {account.kind === "shared" && " (shared)"}
            </button>
          ))}
        </div>
      )}
      <Button
        onClick={() => {
          look({ person: id, address: data.address });
          setOpen(true);
        }}
      >
        Look as {data.name}
      </Button>
      {data.isRetiredByHand && <BringBack person={data} />}
      {data.lacks.length > 0 && (
        <p className="mt-2.5 text-second text-ochre">
          The designs in use also show {data.lacks.join(", ")}; no value here.
        </p>
      )}
      <ul aria-label="Facts" className="mt-3">
        {shown.map((field) => (
          <FactRow key={field.name} person={data} field={field} />
        ))}
      </ul>
      <Button look="quiet" onClick={() => setShowsEmpty(!showsEmpty)}>
        {showsEmpty ? "Hide fields without a value" : "Show fields without a value"}
      </Button>
      <History id={id} />
    </section>
  );
}

function BringBack({ person }: { person: Api["PersonAnswer"] }) {
  const queries = useQueryClient();
  const back = useMutation({
    mutationFn: () =>
      take(api.POST("/api/people/retire", { body: { people: { ids: [person.id], query: null }, isRetired: false } })),
    onSuccess: () => queries.invalidateQueries(),
  });
  return (
    <div className="mt-2 flex flex-col items-start gap-1">
      <Button disabled={back.isPending} onClick={() => back.mutate()}>
        Bring {person.name} back
      </Button>
      <Trouble error={back.error} />
    </div>
  );
}

const layerWords: Record<NonNullable<Api["Layer"]>, string> = {
  account: "account",
  own: "own",
  override: "override",
  source: "directory",
  team: "team",
  office: "office",
  entity: "entity",
  company: "company",
};

/** Where a value came from, in few words. */
function originText(field: Api["PersonField"]) {
  if (field.origin === null) return "no value";
  if (field.origin === "source" || field.origin === "team" || field.origin === "office" || field.origin === "entity")
    return field.origin === "source" ? field.recordName : `${layerWords[field.origin]} ${field.recordName}`;
  return layerWords[field.origin];
}

/** What signatures show of a field. */
function Shown({ field }: { field: Api["PersonField"] }) {
  if (field.kind === "picture" && field.stored !== "")
    return <img src={pictureAddress(field.stored)} alt={field.label} className="size-14 object-contain" />;
  if (field.text !== "" || field.origin === null) return field.text;
  return <span className="text-soft">left blank on purpose</span>;
}

function FactRow({ person, field }: { person: Api["PersonAnswer"]; field: Api["PersonField"] }) {
  const [isOpen, setOpen] = useState(false);
  const canSet = field.name !== "mail";
  return (
    <li className="border-b border-line py-1.5">
      <div className="grid grid-cols-[96px_minmax(0,1fr)_auto] items-baseline gap-x-3">
        <span className="text-second text-soft">{field.label}</span>
        <span className="text-second [overflow-wrap:anywhere]">
          <Shown field={field} />
          {field.doubt && <span className="block text-small text-ochre">{field.doubt}</span>}
        </span>
        <span>
          <button
            type="button"
            aria-expanded={isOpen}
            aria-label={`${field.label} comes from: ${originText(field)}`}
            title={originText(field)}
            onClick={() => setOpen(!isOpen)}
            className={`min-h-6 max-w-36 truncate rounded-[3px] px-1.5 text-small hover:bg-fold ${field.origin === "override" || field.origin === "own" ? "font-semibold text-lens" : "text-soft"}`}
          >
            {originText(field)}
          </button>
        </span>
      </div>
      {isOpen && (
        <div className="mt-1.5 mb-1 rounded-[4px] bg-fold px-2.5 py-2">
          <ol aria-label={`Layers of ${field.label}`} className="text-second">
            {field.layers.map((layer) => (
              <li
                key={`${layer.layer}${layer.record}${layer.recordName}`}
                className={`grid grid-cols-[130px_minmax(0,1fr)_auto] gap-2 py-0.5 ${layer.isWinner ? "font-semibold" : "text-soft"}`}
              >
                <span className="truncate" title={layer.recordName}>
                  {layerWords[layer.layer ?? "source"]}, {layer.recordName}
                </span>
                <span className={`[overflow-wrap:anywhere] ${layer.isWinner ? "" : "line-through"}`}>
                  {field.kind === "picture" && layer.stored !== "" ? "a picture" : layer.stored || "blank"}
                </span>
                <span className="text-small">{layer.isWinner ? "shown" : ""}</span>
              </li>
            ))}
            {field.layers.length === 0 && <li className="text-soft">No layer has a value.</li>}
          </ol>
          {canSet && <OverrideForm person={person} field={field} />}
          {field.layers.some(
            (layer) => layer.layer === "office" || layer.layer === "team" || layer.layer === "entity",
          ) && (
            <Link to="/people/company" className="text-small text-lens underline">
              Change it for everybody there
            </Link>
          )}
        </div>
      )}
    </li>
  );
}

function OverrideForm({ person, field }: { person: Api["PersonAnswer"]; field: Api["PersonField"] }) {
  const queries = useQueryClient();
  const [value, setValue] = useState(field.stored);
  const hasSeveral = person.accounts.length > 1;
  const account = person.accounts.find((candidate) => candidate.address === person.address);
  const [forAccount, setForAccount] = useState(false);
  const hasOverride = field.layers.some(
    (layer) => layer.layer === "override" && layer.record === (forAccount ? account?.id : person.id),
  );
  const set = useMutation({
    mutationFn: (next: string | null) =>
      take(
        api.PUT("/api/people/{id}/fields/{field}", {
          params: { path: { id: person.id, field: field.name } },
          body: { account: forAccount ? (account?.id ?? null) : null, value: next },
        }),
      ),
    onSuccess: () => queries.invalidateQueries(),
  });
  return (
    <form
      className="mt-1.5 flex flex-col gap-1.5"
      onSubmit={(event) => {
        event.preventDefault();
        set.mutate(value);
      }}
    >
      <div className="flex gap-1.5">
        {field.kind === "picture" ? (
          <div className="min-w-0 flex-1">
            <PictureInput label={field.label} place="field" value={value} onChange={setValue} />
          </div>
        ) : (
          <input
            aria-label={`Override ${field.label}`}
            value={value}
            onChange={(event) => setValue(event.target.value)}
            className="min-w-0 flex-1 rounded-[4px] border border-field bg-sheet px-2 py-1 text-second"
          />
        )}
        <Button type="submit" disabled={set.isPending}>
          Override
        </Button>
        {hasOverride && (
          <Button look="quiet" disabled={set.isPending} onClick={() => set.mutate(null)}>
            Take out
          </Button>
        )}
      </div>
      {hasSeveral && (
        <label className="flex items-center gap-1.5 text-small">
          <input
            type="checkbox"
            checked={forAccount}
            className="size-4 accent-baton"
            onChange={(event) => setForAccount(event.target.checked)}
          />
          only when sending from {person.address}
        </label>
      )}
      <Trouble error={set.error} />
    </form>
  );
}

function History({ id }: { id: string }) {
  const [isOpen, setOpen] = useState(false);
  const history = useQuery({
    queryKey: ["person", id, "history"],
    queryFn: () => take(api.GET("/api/people/{id}/history", { params: { path: { id } } })),
    enabled: isOpen,
  });
  return (
    <div className="mt-1 pb-3">
      <Button look="quiet" onClick={() => setOpen(!isOpen)}>
        {isOpen ? "Hide history" : "History"}
      </Button>
      <Trouble error={history.error} />
      {isOpen && (
        <ol aria-label="History" className="mt-1">
          {history.data?.map((event) => (
            <li key={`${event.at}${event.what}`} className="border-b border-line py-1.5 text-second">
              <span className="font-semibold">{event.what}</span>{" "}
              <span className="text-soft">
                {momentText(event.at)}, {event.by}
              </span>
              {event.changes.map((change) => (
                <ChangeLine key={change.field} change={change} />
              ))}
            </li>
          ))}
        </ol>
      )}
    </div>
  );
}

/** One field's change: what it was, what it becomes. */
export function ChangeLine({ change }: { change: Api["FieldChange"] }) {
  return (
    <div className="grid grid-cols-[110px_minmax(0,1fr)] gap-x-3 text-second">
      <span className="text-soft">{change.field}</span>
      <span className="break-words">
        {change.before === null ? "nothing" : <del className="text-soft">{change.before || "blank"}</del>} becomes{" "}
        {change.after === null ? "nothing" : <ins className="no-underline">{change.after || "blank"}</ins>}
      </span>
    </div>
  );
}
