import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState, type ReactNode } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, take, type Api } from "../../api/client";
import { count } from "../../frame/legs";
import { Button } from "../../kit/Button";
import { momentText } from "../../kit/dates";
import { Page } from "../../kit/Page";
import { Trouble } from "../../kit/Trouble";
import { ChangeLine } from "./PersonDetail";
import { runWord } from "./runWords";

/** What a run would do, before it does it; or what it did. */
export function RunPage() {
  const { id = "" } = useParams();
  const navigate = useNavigate();
  const queries = useQueryClient();
  const [isAccepted, setAccepted] = useState(false);
  const plan = useQuery({
    queryKey: ["run", id],
    queryFn: () => take(api.GET("/api/runs/{id}", { params: { path: { id } } })),
    refetchInterval: (query) => (query.state.data?.run.state === "reading" ? 500 : false),
  });
  const after = async () => {
    await queries.invalidateQueries();
    void navigate("/people");
  };
  const apply = useMutation({
    mutationFn: () => take(api.POST("/api/runs/{id}/apply", { params: { path: { id } }, body: { isAccepted } })),
    onSuccess: after,
  });
  const undo = useMutation({
    mutationFn: () => take(api.POST("/api/runs/{id}/undo", { params: { path: { id } } })),
    onSuccess: after,
  });
  const putAway = useMutation({
    mutationFn: () => take(api.POST("/api/runs/{id}/put-away", { params: { path: { id } } })),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: ["runs"] });
      void navigate("/people");
    },
  });
  if (!plan.data)
    return (
      <div className="p-6">
        <Trouble error={plan.error} />
      </div>
    );
  const { run } = plan.data;
  const changes = run.counts.joining + run.counts.returning + run.counts.changing + run.counts.leaving;
  const isHeld = run.state === "held";
  const isDone = run.state === "applied";
  return (
    <Page
      title={isDone ? `What ${run.name} did` : `What ${run.name} would do`}
      lede={lede(plan.data, changes)}
      action={
        <>
          {isDone ? (
            <>
              {run.mayUndo && (
                <Button disabled={undo.isPending} onClick={() => undo.mutate()}>
                  Take it back
                </Button>
              )}
              <Button onClick={() => void navigate("/people/sources")}>All runs</Button>
            </>
          ) : (
            <Button onClick={() => putAway.mutate()}>Put away</Button>
          )}
          {plan.data.mayApply && (
            <Button look="main" disabled={apply.isPending || (isHeld && !isAccepted)} onClick={() => apply.mutate()}>
              {isHeld ? "Apply all the same" : `Apply to ${count(changes, "person", "people")}`}
            </Button>
          )}
        </>
      }
    >
      <div className="flex h-full min-h-0 flex-col gap-4">
        <Trouble error={apply.error ?? undo.error ?? putAway.error} />
        {isHeld && <Held reasons={run.brake} isAccepted={isAccepted} onAccept={setAccepted} />}
        {run.collisions.length > 0 && !isDone && <Collisions run={run} />}
        {run.problems.length > 0 ? (
          <Problems problems={run.problems} />
        ) : (
          <>
            {run.refusedCount > 0 && <Refused run={run} />}
            <Effects plan={plan.data} />
          </>
        )}
      </div>
    </Page>
  );
}

function lede(plan: Api["RunAnswer"], changes: number) {
  const { run } = plan;
  if (run.state === "applied")
    return `Applied ${momentText(run.appliedAt ?? run.startedAt)} by ${run.appliedBy}. ${run.counts.joining + run.counts.returning} joined, ${run.counts.changing} changed, ${run.counts.leaving} left.`;
  if (run.state === "reading") return `${run.sourceName} is being asked. You may leave; the run stays in the list.`;
  if (run.state === "failed") return "The source could not be read. It changed nobody; the next reading starts anew.";
  if (run.state === "putAway") return `This run ${runWord(run.state)}; it changed nobody.`;
  if (run.problems.length > 0)
    return `${count(run.problems.length, "place", "places")} cannot be read, so nothing of this is applied. Mend the file and drop it again.`;
  if (run.isStale) return "People have changed since this was read. Read it again to see what it would do now.";
  const others =
    run.otherEntries > 0 ? ` ${count(run.otherEntries, "entry is", "entries are")} not people and passed over.` : "";
  const known = run.counts.known > 0 ? ` (${run.counts.known} known from another source)` : "";
  const renamed = plan.renamed > 0 ? ` (${plan.renamed} with another name or address)` : "";
  return changes === 0
    ? `Nothing: all ${count(run.unchanged, "person is", "people are")} as they are already.${others}`
    : `${run.counts.joining + run.counts.returning} join${known}, ${run.counts.changing} change${renamed}, ${run.counts.leaving} leave, ${run.unchanged} stay as they are.${others}`;
}

type HeldProps = { reasons: readonly string[]; isAccepted: boolean; onAccept: (accepted: boolean) => void };

function Held({ reasons, isAccepted, onAccept }: HeldProps) {
  return (
    <section aria-label="The brake" className="rounded-[4px] border border-ochre bg-sheet px-3.5 py-2.5">
      <p className="font-semibold text-ochre">The brake holds this run: it looks like an accident at the source.</p>
      <ul className="list-disc pl-5">
        {reasons.map((reason) => (
          <li key={reason}>{reason}</li>
        ))}
      </ul>
      <label className="mt-1.5 flex items-center gap-2">
        <input
          type="checkbox"
          checked={isAccepted}
          className="size-4 accent-baton"
          onChange={(event) => onAccept(event.target.checked)}
        />
        I have looked at who leaves and what is lost; it is meant.
      </label>
    </section>
  );
}

/** One address, two people: the other keeps it, unless they are the same person. */
function Collisions({ run }: { run: Api["SourceRun"] }) {
  return (
    <section aria-label="One address, two people" className="rounded-[4px] border border-line bg-sheet px-3.5 py-2.5">
      <p className="font-semibold">
        {count(run.collisions.length, "address belongs", "addresses belong")} to somebody else already, who keeps{" "}
        {run.collisions.length === 1 ? "it" : "them"}.
      </p>
      <ul tabIndex={0} aria-label="Addresses" className="max-h-28 overflow-y-auto">
        {run.collisions.map((collision) => (
          <li key={collision.address} className="text-second">
            {collision.address}: wanted for {collision.person}, is of {collision.otherPerson}
          </li>
        ))}
      </ul>
      <p className="text-second text-soft">
        If these are the same people in two sources, let {run.sourceName} know them again by address or number under{" "}
        <Link to="/people/sources" className="text-lens underline">
          Sources and runs
        </Link>
        , and read it again.
      </p>
    </section>
  );
}

function Refused({ run }: { run: Api["SourceRun"] }) {
  const [isOpen, setOpen] = useState(false);
  return (
    <section aria-label="Values left out" className="text-second">
      <Button look="quiet" onClick={() => setOpen(!isOpen)}>
        {count(run.refusedCount, "value is", "values are")} left out; {isOpen ? "hide" : "see which and why"}
      </Button>
      {isOpen && (
        <table className="mt-1 w-full max-w-4xl">
          <caption className="sr-only">Values left out</caption>
          <tbody>
            {run.refused.map((value) => (
              <tr key={`${value.line}${value.person}${value.field}${value.value}`} className="border-b border-line">
                <td className="w-20 py-1 text-soft">{value.line > 0 && `line ${value.line}`}</td>
                <td className="py-1 font-semibold">{value.person}</td>
                <td className="py-1">{value.field}</td>
                <td className="py-1">{value.value}</td>
                <td className="py-1 text-soft">{value.reason}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}

function Problems({ problems }: { problems: Api["SourceRun"]["problems"] }) {
  return (
    <table className="w-full max-w-4xl">
      <caption className="sr-only">Places that cannot be read</caption>
      <thead>
        <tr className="border-b border-ink text-left text-small text-soft">
          <th className="w-28 py-1 font-semibold">Where</th>
          <th className="py-1 font-semibold">What is wrong</th>
        </tr>
      </thead>
      <tbody>
        {problems.map((problem) => (
          <tr key={`${problem.line}${problem.message}`} className="border-b border-line">
            <td className="py-1.5 font-semibold text-madder">
              {problem.line > 0 ? `line ${problem.line}` : "the source"}
            </td>
            <td className="py-1.5">{problem.message}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Effects({ plan }: { plan: Api["RunAnswer"] }) {
  const { counts } = plan.run;
  const joining = counts.joining + counts.returning;
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[1fr_1.4fr_1fr] gap-7">
      <Group title={`${joining} join`} people={plan.joining} whole={joining} />
      <Group title={`${counts.changing} change`} people={plan.changing} whole={counts.changing}>
        {(person) => person.changes.map((change) => <ChangeLine key={change.field} change={change} />)}
      </Group>
      <Group title={`${counts.leaving} leave`} people={plan.leaving} whole={counts.leaving} />
    </div>
  );
}

type GroupProps = {
  title: string;
  people: readonly Api["PlannedPerson"][];
  whole: number;
  children?: (person: Api["PlannedPerson"]) => ReactNode;
};

function Group({ title, people, whole, children }: GroupProps) {
  return (
    <section aria-label={title} className="flex min-h-0 flex-col">
      <h2 className="border-b border-ink pb-1 font-semibold">{title}</h2>
      <ul tabIndex={0} aria-label={title} className="min-h-0 flex-1 overflow-y-auto">
        {people.map((person) => (
          <li key={`${person.personId}${person.name}`} className="border-b border-line py-1.5">
            <span className="font-semibold">{person.name}</span>{" "}
            <span className="text-second text-soft">
              {person.address}
              {person.line > 0 && `, line\u00a0${person.line}`}
              {person.isReturning && ", returns"}
              {person.isKnown && ", known from another source"}
            </span>
            {children?.(person)}
          </li>
        ))}
        {whole > people.length && <li className="py-1.5 text-soft">and {whole - people.length} more</li>}
        {whole === 0 && <li className="py-1.5 text-soft">Nobody.</li>}
      </ul>
    </section>
  );
}
