import { describe, expect, it } from "vitest";
import {
  choose,
  everybody,
  filterFrom,
  filterTo,
  isNarrowed,
  nobody,
  pagesOf,
  selectionRequest,
  toggle,
} from "./peopleState";

describe("the filter of the list", () => {
  it("is the same again after it stood in an address", () => {
    const filter = { ...everybody, search: "holt & kamp", missing: "mobile", state: "retired" as const };
    expect(filterFrom(new URLSearchParams(filterTo(filter).toString()))).toEqual(filter);
  });

  it("leaves an address clean when everybody is shown", () => {
    expect(filterTo(everybody).toString()).toBe("");
    expect(isNarrowed({ ...everybody, search: "mia" })).toBe(false);
    expect(isNarrowed({ ...everybody, office: "1" })).toBe(true);
  });

  it("passes over a state it does not know", () => {
    expect(filterFrom(new URLSearchParams("state=nonsense")).state).toBe("active");
  });

  it("takes a choice back when it is made again", () => {
    const chosen = choose(everybody, "office", "1");
    expect(chosen.office).toBe("1");
    expect(choose(chosen, "office", "1")).toEqual(everybody);
    expect(choose({ ...everybody, state: "retired" }, "state", "retired").state).toBe("active");
  });
});

describe("the selection", () => {
  it("goes from the last one touched to this one", () => {
    const one = toggle(nobody, "b", null);
    expect([...toggle(one, "d", ["a", "b", "c", "d"]).ids]).toEqual(["b", "c", "d"]);
    expect([...toggle(one, "b", null).ids]).toEqual([]);
  });

  it("names people, or asks for everybody that is found", () => {
    expect(selectionRequest(toggle(nobody, "a", null), everybody)).toEqual({ ids: ["a"], query: null });
    const all = selectionRequest({ ...nobody, all: true }, { ...everybody, search: "mia" });
    expect(all.ids).toBeNull();
    expect(all.query?.search).toBe("mia");
  });
});

describe("pages", () => {
  it("cover the rows in sight and no others", () => {
    expect(pagesOf(0, 40, 200, 238)).toEqual([0]);
    expect(pagesOf(190, 210, 200, 238)).toEqual([0, 1]);
    expect(pagesOf(99_990, 100_100, 200, 100_000)).toEqual([499]);
    expect(pagesOf(0, 0, 200, 0)).toEqual([0]);
  });
});
