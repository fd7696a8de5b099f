import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { useNavigate, useParams } from "react-router";
import { api, take, type Api } from "../../api/client";
import { count } from "../../frame/legs";
import { Button } from "../../kit/Button";
import { Page } from "../../kit/Page";
import { Trouble } from "../../kit/Trouble";

/** What a file would do, before it does it. */
export function ImportPlan() {
  const { id = "" } = useParams();
  const navigate = useNavigate();
  const queries = useQueryClient();
  const plan = useQuery({
    queryKey: ["import", id],
    queryFn: () => take(api.GET("/api/people/imports/{id}", { params: { path: { id } } })),
  });
  const apply = useMutation({
    mutationFn: () => take(api.POST("/api/people/imports/{id}/apply", { params: { path: { id } } })),
    onSuccess: async () => {
      await queries.invalidateQueries();
      void navigate("/people");
    },
  });
  if (!plan.data)
    return (
      <div className="p-6">
        <Trouble error={plan.error} />
      </div>
    );
  const data = plan.data;
  const changes = data.joiningCount + data.changedCount + data.leavingCount;
  return (
    <Page
      title={`What ${data.fileName} would do`}
      lede={lede(data, changes)}
      action={
        <>
          <Button onClick={() => void navigate("/people")}>Put away</Button>
          {data.mayApply && changes > 0 && (
            <Button look="main" disabled={apply.isPending} onClick={() => apply.mutate()}>
              Apply to {count(changes, "person", "people")}
            </Button>
          )}
        </>
      }
    >
      <div className="flex h-full min-h-0 flex-col gap-4">
        <Trouble error={apply.error} />
        {data.problems.length > 0 ? <Problems problems={data.problems} /> : <Effects plan={data} />}
      </div>
    </Page>
  );
}

function lede(plan: Api["ImportAnswer"], changes: number) {
  if (plan.isApplied) return "This file has been applied.";
  if (plan.problems.length > 0)
    return `${count(plan.problems.length, "place", "places")} cannot be read, so nothing of this file is applied. Mend the file and drop it again.`;
  if (plan.isStale) return "People have changed since this file was read. Drop it again to see what it would do now.";
  const others =
    plan.otherEntries > 0 ? ` ${count(plan.otherEntries, "entry is", "entries are")} not people and passed over.` : "";
  return changes === 0
    ? `Nothing: all ${count(plan.unchanged, "person is", "people are")} as they are already.${others}`
    : `${plan.joiningCount} join, ${plan.changedCount} change, ${plan.leavingCount} leave, ${plan.unchanged} stay as they are.${others}`;
}

function Problems({ problems }: { problems: Api["ImportAnswer"]["problems"] }) {
  return (
    <table className="w-full max-w-4xl">
      <caption className="sr-only">Lines that cannot be read</caption>
      <thead>
        <tr className="border-b border-ink text-left text-small text-soft">
          <th className="w-28 py-1 font-semibold">Line</th>
          <th className="py-1 font-semibold">What is wrong</th>
        </tr>
      </thead>
      <tbody>
        {problems.map((problem) => (
          <tr key={`${problem.line}${problem.message}`} className="border-b border-line">
            <td className="py-1.5 font-semibold text-madder">line {problem.line}</td>
            <td className="py-1.5">{problem.message}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Effects({ plan }: { plan: Api["ImportAnswer"] }) {
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[1fr_1.4fr_1fr] gap-7">
      <People title={`${plan.joiningCount} join`} people={plan.joining} whole={plan.joiningCount} />
      <People title={`${plan.changedCount} change`} people={plan.changed} whole={plan.changedCount}>
        {(person) =>
          person.changes.map((change) => (
            <div key={change.field} className="grid grid-cols-[110px_1fr] gap-x-3 text-second">
              <span className="text-soft">{change.field}</span>
              <span className="break-words">
                {change.before === null ? "nothing" : <del className="text-soft">{change.before}</del>} becomes{" "}
                {change.after === null ? "nothing" : <ins className="no-underline">{change.after}</ins>}
              </span>
            </div>
          ))
        }
      </People>
      <People title={`${plan.leavingCount} leave`} people={plan.leaving} whole={plan.leavingCount} />
    </div>
  );
}

type PeopleProps = {
  title: string;
  people: readonly Api["PlannedPerson"][];
  whole: number;
  children?: (person: Api["PlannedPerson"]) => ReactNode;
};

function People({ title, people, whole, children }: PeopleProps) {
  return (
    <section aria-label={title} className="flex min-h-0 flex-col">
      <h2 className="border-b border-ink pb-1 font-semibold">{title}</h2>
      <ul className="min-h-0 flex-1 overflow-y-auto">
        {people.map((person) => (
          <li key={`${person.name}${person.address}`} className="border-b border-line py-1.5">
            <span className="font-semibold">{person.name}</span>{" "}
            <span className="text-second text-soft">
              {person.address}
              {person.line > 0 && `, line ${person.line}`}
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
