import type { Api } from "../../api/client";
import { choose, type Facet, type PeopleFilter } from "./peopleState";

const shown = 7; // values of one facet; the search finds the others

const facets: readonly { facet: Facet; label: string }[] = [
  { facet: "office", label: "Office" },
  { facet: "team", label: "Team" },
  { facet: "entity", label: "Legal entity" },
  { facet: "source", label: "Source" },
];

const states: readonly { key: PeopleFilter["state"]; label: string }[] = [
  { key: "doubtful", label: "with a doubtful value" },
  { key: "overridden", label: "with an override" },
  { key: "retired", label: "retired" },
];

type FacetsProps = {
  counts: Record<string, Api["FacetCount"][]>;
  filter: PeopleFilter;
  onFilter: (filter: PeopleFilter) => void;
};

/** What the people found have in common, with counts; a click narrows the list. */
export function Facets({ counts, filter, onFilter }: FacetsProps) {
  const stateCount = (key: string) => counts.state?.find((count) => count.key === key)?.count ?? 0;
  return (
    <aside aria-label="Narrow down" className="min-h-0 overflow-y-auto pr-1">
      {facets.map(({ facet, label }) => {
        const values = counts[facet] ?? [];
        if (values.length < 2 && filter[facet] === "") return null;
        const chosen = values.filter((value) => value.key === filter[facet]);
        const listed = [...chosen, ...values.filter((value) => value.key !== filter[facet]).slice(0, shown)];
        return (
          <Group key={facet} label={label}>
            {listed.map((value) => (
              <Value
                key={value.key}
                label={value.label}
                count={value.count}
                isChosen={value.key === filter[facet]}
                onChoose={() => onFilter(choose(filter, facet, value.key))}
              />
            ))}
            {values.length > listed.length && (
              <li className="px-1.5 text-small text-soft">and {values.length - listed.length} smaller</li>
            )}
          </Group>
        );
      })}
      <Group label="Also">
        {states
          .filter((state) => stateCount(state.key) > 0 || filter.state === state.key)
          .map((state) => (
            <Value
              key={state.key}
              label={state.label}
              count={stateCount(state.key)}
              isChosen={filter.state === state.key}
              onChoose={() => onFilter(choose(filter, "state", state.key))}
            />
          ))}
        {states.every((state) => stateCount(state.key) === 0) && (
          <li className="px-1.5 text-second text-soft">nothing odd</li>
        )}
      </Group>
    </aside>
  );
}

function Group({ label, children }: { label: string; children: React.ReactNode }) {
  return (
    <section aria-label={label} className="mb-3">
      <h2 className="px-1.5 text-small font-semibold text-soft">{label}</h2>
      <ul>{children}</ul>
    </section>
  );
}

type ValueProps = { label: string; count: number; isChosen: boolean; onChoose: () => void };

function Value({ label, count, isChosen, onChoose }: ValueProps) {
  return (
    <li>
      <button
        type="button"
        aria-pressed={isChosen}
        onClick={onChoose}
        className={`flex min-h-6 w-full justify-between gap-2 rounded-[3px] px-1.5 text-left text-second hover:bg-fold ${isChosen ? "bg-fold font-semibold" : ""}`}
      >
        <span className="truncate">{label}</span>
        <span className="text-soft">{isChosen ? `${count} ✕` : count}</span>
      </button>
    </li>
  );
}
