import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate, useParams } from "react-router";
import { api, take, type Api } from "../../api/client";
import { count } from "../../frame/legs";
import { Button } from "../../kit/Button";
import { momentText, timeText } from "../../kit/dates";
import { Empty, Page } from "../../kit/Page";
import { StateBar, stateWord, type DeliveryState } from "../../kit/StateBar";
import { Trouble } from "../../kit/Trouble";
import { AddComputer } from "./AddComputer";
import { ComputerStory } from "./ComputerStory";

const refreshEvery = 1000; // milliseconds; the leg is live
const troubleFirst: readonly DeliveryState[] = ["failed", "drifted", "waits", "onItsWay", "inPlace"];

/** Is it really there? */
export function Rollout() {
  const { computer } = useParams();
  const queries = useQueryClient();
  const [isAdding, setAdding] = useState(false);
  const rollout = useQuery({
    queryKey: ["rollout"],
    queryFn: () => take(api.GET("/api/rollout")),
    refetchInterval: refreshEvery,
  });
  const start = useMutation({
    mutationFn: (edition: number) => take(api.POST("/api/rollout", { body: { edition } })),
    onSettled: () => queries.invalidateQueries(),
  });
  if (!rollout.data)
    return (
      <div className="p-6">
        <Trouble error={rollout.error} />
      </div>
    );
  const data = rollout.data;
  const mayStart = data.latestEdition > 0 && data.rollout?.edition !== data.latestEdition && data.computers.length > 0;
  return (
    <Page
      title={data.rollout ? `Edition ${data.rollout.edition}` : "Nothing is rolled out"}
      lede={lede(data)}
      action={
        <>
          <Button onClick={() => setAdding(!isAdding)}>Add a computer</Button>
          {mayStart && (
            <Button look="main" disabled={start.isPending} onClick={() => start.mutate(data.latestEdition)}>
              Roll out edition {data.latestEdition}
            </Button>
          )}
        </>
      }
    >
      <div className="flex h-full min-h-0 flex-col gap-3">
        <Trouble error={start.error ?? rollout.error} />
        {data.rollout && <Totals totals={data.totals} whole={data.computers.length} />}
        <div className="grid min-h-0 flex-1 grid-cols-[1fr_360px] gap-7">
          {data.computers.length === 0 ? (
            <Empty step={<Button onClick={() => setAdding(true)}>Add a computer</Button>}>
              Every computer with a Relevo agent stands here, and whether it holds what it should. Add one: you get a
              token for its agent.
            </Empty>
          ) : (
            <Computers computers={data.computers} selected={computer} isRolledOut={data.rollout !== null} />
          )}
          {isAdding ? (
            <AddComputer onClose={() => setAdding(false)} />
          ) : computer ? (
            <ComputerStory
              key={computer}
              id={computer}
              standing={data.computers.find((row) => row.computerId === computer)}
            />
          ) : (
            <p className="border-l-[3px] border-line pl-5 text-soft">Choose a computer to see its story.</p>
          )}
        </div>
      </div>
    </Page>
  );
}

function lede(data: Api["RolloutAnswer"]) {
  if (!data.rollout)
    return data.latestEdition === 0
      ? "Publish an edition on the Proof leg first."
      : `Edition ${data.latestEdition} is published and waits. ${count(data.computers.length, "computer", "computers")} would get it.`;
  const waiting =
    data.latestEdition > data.rollout.edition ? ` Edition ${data.latestEdition} is published and waits.` : "";
  return `Started ${momentText(data.rollout.startedAt)} by ${data.rollout.startedBy}.${waiting}`;
}

function Totals({ totals, whole }: { totals: Api["RolloutTotals"]; whole: number }) {
  const states: readonly DeliveryState[] = ["inPlace", "onItsWay", "waits", "drifted", "failed"];
  return (
    <ul aria-label="Totals" className="flex gap-8">
      {states.map((state) => (
        <li key={state} className="flex items-center gap-2">
          <StateBar state={state} />
          <b className="font-semibold">{totals[state]}</b>
          <span className="text-soft">{stateWord(state)}</span>
        </li>
      ))}
      <li className="text-soft">of {count(whole, "computer", "computers")}</li>
    </ul>
  );
}

function Computers({
  computers,
  selected,
  isRolledOut,
}: {
  computers: readonly Api["ComputerStanding"][];
  selected: string | undefined;
  isRolledOut: boolean;
}) {
  const navigate = useNavigate();
  const sorted = [...computers].sort(
    (left, right) => troubleFirst.indexOf(left.state) - troubleFirst.indexOf(right.state),
  );
  return (
    <div className="min-h-0 overflow-y-auto">
      <table className="w-full">
        <caption className="sr-only">Computers, trouble first</caption>
        <thead>
          <tr className="border-b border-ink text-left text-small text-soft">
            <th className="py-1 pl-3 font-semibold">Computer</th>
            <th className="py-1 font-semibold">Person</th>
            <th className="py-1 font-semibold">State</th>
            <th className="py-1 font-semibold">Since</th>
          </tr>
        </thead>
        <tbody>
          {sorted.map((row) => (
            <tr
              key={row.computerId}
              onClick={() => void navigate(`/rollout/${row.computerId}`)}
              className={`border-b border-line ${row.computerId === selected ? "bg-sheet shadow-[inset_3px_0_0_var(--color-baton)]" : "hover:bg-sheet"}`}
            >
              <td className="py-1.5 pl-3">
                <button
                  type="button"
                  className="min-h-6 font-semibold hover:underline"
                  onClick={() => void navigate(`/rollout/${row.computerId}`)}
                >
                  {row.computer}
                </button>
              </td>
              <td>{row.person}</td>
              <td>
                {isRolledOut ? (
                  <span className="inline-flex items-center gap-2">
                    <StateBar state={row.state} />
                    {stateWord(row.state)}
                    <Note row={row} />
                  </span>
                ) : (
                  <span className="text-soft">{row.lastSeenAt ? "asks, nothing to get" : "not heard of"}</span>
                )}
              </td>
              <td className="text-soft">
                {isRolledOut && row.state !== "waits" && row.changedAt ? timeText(row.changedAt) : ""}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function Note({ row }: { row: Api["ComputerStanding"] }) {
  if (row.trouble) return <span className="text-second text-madder">{row.trouble}</span>;
  if (row.state === "drifted") return <span className="text-second text-madder">{row.differing.join(", ")}</span>;
  if (row.putRightAt) return <span className="text-second text-soft">put right {timeText(row.putRightAt)}</span>;
  return null;
}
