import { shownStates, StateBar, stateColour, stateWord } from "../../kit/StateBar";
import { total, type Counts } from "./rolloutState";

/** How many stand where, each with its mark and word; those of whom there are none are left out. */
export function StateCounts({ label, counts }: { label: string; counts: Counts }) {
  return (
    <ul aria-label={label} className="flex flex-wrap gap-x-5 gap-y-1">
      {shownStates
        .filter((state) => counts[state] > 0)
        .map((state) => (
          <li key={state} className="flex items-center gap-1.5">
            <StateBar state={state} />
            <b className="font-semibold tabular-nums">{counts[state]}</b>
            <span className="text-soft">{stateWord(state)}</span>
          </li>
        ))}
      {total(counts) === 0 && <li className="text-soft">no clients</li>}
    </ul>
  );
}

/** The same as one long mark: what is in place is full, what is to come hollow, trouble stands apart. The counts beside it say it in words. */
export function CountsBar({ counts }: { counts: Counts }) {
  const all = Math.max(1, total(counts));
  return (
    <span aria-hidden className="flex h-2 w-full gap-px overflow-hidden rounded-[2px] border border-line">
      {shownStates.map((state) =>
        counts[state] === 0 ? null : (
          <span
            key={state}
            className={`${stateColour(state)} ${state === "waits" || state === "silent" ? "" : "bg-current"} ${state === "onItsWay" ? "opacity-60" : ""}`}
            style={{ width: `${(100 * counts[state]) / all}%` }}
          />
        ),
      )}
    </span>
  );
}
