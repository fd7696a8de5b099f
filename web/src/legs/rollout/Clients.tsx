import { keepPreviousData, useInfiniteQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, take, type Api } from "../../api/client";
import { Button } from "../../kit/Button";
import { Choice } from "../../kit/Choice";
import { timeText } from "../../kit/dates";
import { shownStates, StateBar, stateWord } from "../../kit/StateBar";
import { Trouble } from "../../kit/Trouble";
import { shownState } from "./rolloutState";

const refreshEvery = 1500; // milliseconds; the leg is live

type ClientsProps = {
  rollout: Api["RolloutStatus"] | null;
  selected: string | undefined;
  kinds: readonly Api["KindCounts"][];
};

/** Every client, trouble first. */
export function Clients({ rollout, selected, kinds }: ClientsProps) {
  const [kind, setKind] = useState("");
  const [state, setState] = useState("");
  const [search, setSearch] = useState("");
  const pages = useInfiniteQuery({
    queryKey: ["rollout", "clients", kind, state, search],
    queryFn: ({ pageParam }) =>
      take(api.GET("/api/clients", { params: { query: { kind, state, search, after: pageParam } } })),
    initialPageParam: 0,
    getNextPageParam: (page) => page.next ?? undefined,
    refetchInterval: refreshEvery,
    placeholderData: keepPreviousData,
  });
  const clients = pages.data?.pages.flatMap((page) => page.clients) ?? [];
  return (
    <section aria-label="Clients" className="flex flex-col gap-2">
      <div className="flex items-center gap-4">
        <Choice
          label="Kind"
          look="condition"
          value={kind}
          options={[{ value: "", label: "every kind" }, ...kinds.map((one) => ({ value: one.kind, label: one.name }))]}
          onChange={setKind}
        />
        <Choice
          label="State"
          look="condition"
          value={state}
          options={[
            { value: "", label: "every state, trouble first" },
            ...shownStates.map((one) => ({ value: one, label: stateWord(one) })),
          ]}
          onChange={setState}
        />
        <input
          aria-label="Find a person's clients"
          placeholder="Find a person"
          value={search}
          onChange={(event) => setSearch(event.target.value)}
          className="min-h-8 w-48 rounded-[4px] border border-field bg-sheet px-2.5"
        />
        <a href="/api/rollout/summary.csv" download className="ml-auto text-lens hover:underline">
          All as CSV
        </a>
      </div>
      <Trouble error={pages.error} />
      <Table clients={clients} rollout={rollout} selected={selected} />
      {pages.data && clients.length === 0 && <p className="text-soft">No client is like that.</p>}
      {pages.hasNextPage && (
        <Button disabled={pages.isFetchingNextPage} onClick={() => void pages.fetchNextPage()}>
          Show more
        </Button>
      )}
    </section>
  );
}

type TableProps = {
  clients: readonly Api["ClientStanding"][];
  rollout: Api["RolloutStatus"] | null;
  selected: string | undefined;
};

function Table({ clients, rollout, selected }: TableProps) {
  const navigate = useNavigate();
  return (
    <table className="w-full table-fixed">
      <caption className="sr-only">Clients, trouble first</caption>
      <thead>
        <tr className="border-b border-ink text-left text-small text-soft">
          <th className="w-[26%] py-1 pl-3 font-semibold">Person</th>
          <th className="w-[28%] py-1 font-semibold">Client</th>
          <th className="py-1 font-semibold">State</th>
          <th className="w-20 py-1 font-semibold">Since</th>
        </tr>
      </thead>
      <tbody>
        {clients.map((row) => (
          <tr
            key={row.clientId}
            onClick={() => void navigate(`/rollout/now/${row.clientId}`)}
            className={`border-b border-line ${row.clientId === selected ? "bg-sheet shadow-[inset_3px_0_0_var(--color-baton)]" : "hover:bg-sheet"}`}
          >
            <td className="truncate py-1.5 pr-3 pl-3" title={row.person}>
              <button
                type="button"
                className="min-h-6 max-w-full truncate align-bottom font-semibold hover:underline"
                onClick={() => void navigate(`/rollout/now/${row.clientId}`)}
              >
                {row.person}
              </button>
            </td>
            <td className="truncate pr-3" title={row.client}>
              <span className="text-soft">{row.kind.replace("-", " ")}</span> {row.client}
            </td>
            <td className="truncate">
              {row.edition === null && !rollout ? (
                <span className="text-soft">{row.lastSeenAt ? "asks, nothing to get" : "not heard of"}</span>
              ) : (
                <span className="inline-flex items-center gap-2">
                  <StateBar state={shownState(row)} />
                  {stateWord(shownState(row))}
                  {row.isByHand && <span className="text-second text-soft">as the person says</span>}
                  <Note row={row} />
                </span>
              )}
            </td>
            <td className="text-soft">{row.state === "waits" ? "" : timeText(row.changedAt)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Note({ row }: { row: Api["ClientStanding"] }) {
  if (row.trouble)
    return (
      <span className="text-second text-madder" title={row.trouble}>
        {row.isSetAside && "set aside: "}
        {row.trouble}
      </span>
    );
  if (row.state === "drifted")
    return (
      <span className="text-second text-madder">
        {row.differing.length === 1 ? row.differing[0] : `${row.differing.length} places`}
      </span>
    );
  if (row.putRightAt) return <span className="text-second text-soft">put right {timeText(row.putRightAt)}</span>;
  return null;
}
