import type { Api } from "../../api/client";
import { choose, type PeopleFilter } from "./peopleState";

type LackingProps = {
  counts: readonly Api["FacetCount"][];
  whole: number;
  filter: PeopleFilter;
  onFilter: (filter: PeopleFilter) => void;
};

/** What is missing for the designs in use: for each field they show, how many of the people found have no value. */
export function Lacking({ counts, whole, filter, onFilter }: LackingProps) {
  const sorted = [...counts].sort((left, right) => right.count - left.count);
  return (
    <section aria-label="What is missing" className="min-h-0 overflow-y-auto border-l border-line pl-5">
      <h2 className="font-semibold">Missing for the designs in use</h2>
      <p className="mt-0.5 mb-3 text-second text-soft">
        A signature goes without a field nobody gives a value. Click one to see whose, or choose somebody to see every
        fact and where it comes from.
      </p>
      {sorted.length === 0 && <p className="text-pine">Nothing: everybody has every field that the designs show.</p>}
      <ul>
        {sorted.map((field) => (
          <li key={field.key}>
            <button
              type="button"
              aria-pressed={filter.missing === field.key}
              onClick={() => onFilter(choose(filter, "missing", field.key))}
              className={`grid min-h-8 w-full grid-cols-[120px_1fr_88px] items-center gap-3 rounded-[3px] px-1.5 text-left hover:bg-fold ${filter.missing === field.key ? "bg-fold font-semibold" : ""}`}
            >
              <span className="truncate">{field.label}</span>
              <span aria-hidden className="h-1.5 rounded-full bg-line">
                <span
                  className="block h-1.5 rounded-full bg-ochre"
                  style={{ width: `${whole === 0 ? 0 : Math.max(1, (100 * field.count) / whole)}%` }}
                />
              </span>
              <span className="text-right text-second text-soft">
                {field.count} of {whole}
              </span>
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}
