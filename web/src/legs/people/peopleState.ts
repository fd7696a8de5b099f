import type { Api } from "../../api/client";

/** What the list shows: kept in the address, so that a link shows the same people. */
export type PeopleFilter = {
  search: string;
  entity: string;
  office: string;
  team: string;
  source: string;
  missing: string;
  state: "active" | "doubtful" | "overridden" | "retired";
};

export type Facet = Exclude<keyof PeopleFilter, "search">;

export const everybody: PeopleFilter = {
  search: "",
  entity: "",
  office: "",
  team: "",
  source: "",
  missing: "",
  state: "active",
};

const states: readonly PeopleFilter["state"][] = ["active", "doubtful", "overridden", "retired"];

/** Reads the filter from an address; what is not known is passed over. */
export function filterFrom(parameters: URLSearchParams): PeopleFilter {
  const text = (name: keyof PeopleFilter) => parameters.get(name) ?? "";
  return {
    search: text("search"),
    entity: text("entity"),
    office: text("office"),
    team: text("team"),
    source: text("source"),
    missing: text("missing"),
    state: states.find((state) => state === parameters.get("state")) ?? "active",
  };
}

/** Writes the filter into an address, only what differs from everybody. */
export function filterTo(filter: PeopleFilter): URLSearchParams {
  const parameters = new URLSearchParams();
  for (const [name, value] of Object.entries(filter))
    if (value !== "" && value !== everybody[name as keyof PeopleFilter]) parameters.set(name, value);
  return parameters;
}

/** The filter as the API takes it. */
export function filterQuery(filter: PeopleFilter) {
  return Object.fromEntries(Object.entries(filter).filter(([, value]) => value !== "")) as {
    search?: string;
    state: PeopleFilter["state"];
  };
}

/** True when anything but the search is asked. */
export function isNarrowed(filter: PeopleFilter) {
  return filterTo({ ...filter, search: "" }).size > 0;
}

/** Chooses a facet's value; choosing it again takes it back. */
export function choose(filter: PeopleFilter, facet: Facet, key: string): PeopleFilter {
  return { ...filter, [facet]: filter[facet] === key ? everybody[facet] : key };
}

/** Who is selected: some by id, or everybody that is found. */
export type Selection = { ids: ReadonlySet<string>; all: boolean; last: string | null };

export const nobody: Selection = { ids: new Set(), all: false, last: null };

/** Selects or leaves out one person. `range`: everybody between the last one touched and this one, in the order of the list. */
export function toggle(selection: Selection, id: string, range: readonly string[] | null): Selection {
  const ids = new Set(selection.ids);
  const from = selection.last && range ? range.indexOf(selection.last) : -1;
  const to = range?.indexOf(id) ?? -1;
  if (range && from >= 0 && to >= 0)
    for (const between of range.slice(Math.min(from, to), Math.max(from, to) + 1)) ids.add(between);
  else if (ids.has(id)) ids.delete(id);
  else ids.add(id);
  return { ids, all: false, last: id };
}

/** The selection as the API takes it. */
export function selectionRequest(selection: Selection, filter: PeopleFilter): Api["PeopleSelection"] {
  const query = {
    search: filter.search || null,
    entity: filter.entity || null,
    office: filter.office || null,
    team: filter.team || null,
    source: filter.source || null,
    missing: filter.missing || null,
    state: filter.state,
  };
  return selection.all ? { ids: null, query } : { ids: [...selection.ids], query: null };
}

/** The pages that hold the rows from first to last. */
export function pagesOf(first: number, last: number, pageSize: number, total: number): number[] {
  if (total === 0) return [0];
  const from = Math.max(0, Math.floor(first / pageSize));
  const to = Math.min(Math.floor((total - 1) / pageSize), Math.floor(Math.max(first, last) / pageSize));
  return Array.from({ length: to - from + 1 }, (_, index) => from + index);
}
