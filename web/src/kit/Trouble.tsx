import { ProblemError } from "../api/client";

/** What went wrong, where, and what to do next. Nothing when nothing did. */
export function Trouble({ error }: { error: unknown }) {
  if (!error) return null;
  const problem = error instanceof ProblemError ? error : null;
  return (
    <div role="alert" className="rounded-[4px] border border-madder bg-sheet px-3.5 py-2.5">
      <p className="font-semibold text-madder">{problem?.title ?? "Something went wrong on this page."}</p>
      <p>{problem?.detail ?? "Load the page again."}</p>
      {problem && problem.faults.length > 0 && (
        <ul className="mt-1 list-disc pl-5">
          {problem.faults.map((fault) => (
            <li key={`${fault.pointer}${fault.line}${fault.code}`}>
              {fault.message} {fault.pointer && <span className="text-soft">({fault.pointer})</span>}
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}
