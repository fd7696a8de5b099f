import { describe, expect, it } from "vitest";
import type { Api } from "../../api/client";
import { fieldOf, isUsable, setField, setKey, setTransforms, transformsOf } from "./mappingState";

const empty: Api["Mapping"] = { key: [], addresses: [], fields: [], hasStandardFields: false };

describe("what a table's columns are", () => {
  it("makes the name of given name and surname while no column is the name", () => {
    const both = setField(setField(empty, "First", "givenName"), "Last", "surname");
    expect(both.fields[0]).toMatchObject({ field: "displayName", attributes: ["First", "Last"], joiner: " " });
    const named = setField(both, "Whole", "displayName");
    expect(named.fields.filter((field) => field.field === "displayName")).toHaveLength(1);
    expect(setField(named, "Whole", "").fields[0]?.joiner).toBe(" ");
  });

  it("gives a field to one column only", () => {
    const moved = setField(setField(empty, "A", "title"), "B", "title");
    expect(fieldOf(moved, "A")).toBe("");
    expect(fieldOf(moved, "B")).toBe("title");
  });

  it("knows people by their address until another column is said", () => {
    const mapped = setField(empty, "Mail", "addresses");
    expect(mapped.key).toEqual(["Mail"]);
    expect(setKey(mapped, "No.").key).toEqual(["No."]);
    expect(isUsable(mapped)).toBe(false);
    expect(isUsable(setField(mapped, "Name", "displayName"))).toBe(true);
  });

  it("writes a joined name as its surname is written", () => {
    const both = setField(setField(empty, "First", "givenName"), "Last", "surname");
    const cased = setTransforms(both, "Last", [{ kind: "case", style: "name" }]);
    expect(transformsOf(cased, "Last")).toEqual([{ kind: "case", style: "name" }]);
    expect(cased.fields[0]?.transforms).toEqual([{ kind: "case", style: "name" }]);
    expect(transformsOf(setTransforms(cased, "Last", []), "Last")).toEqual([]);
  });
});
