import { expect, test } from "vitest";
import type { Api } from "../../api/client";
import { readTable, rowOf, seenAttributes, seenValues, tableText, withoutRow, withRow } from "./transformState";

const mapping: Api["Mapping"] = { key: ["uid"], addresses: ["mail"], fields: [], hasStandardFields: true };
const title = { name: "title" } as Api["FieldAnswer"];
const entries: Api["SampleEntry"][] = [
  {
    name: "",
    values: [
      { attribute: "title", text: "vet" },
      { attribute: "cn", text: "Mia" },
    ],
  },
  {
    name: "",
    values: [
      { attribute: "cn", text: "Joel" },
      { attribute: "CN", text: "J" },
    ],
  },
];

test("a lookup table is typed as lines and half a line is not one yet", () => {
  expect(readTable("HR = Human resources\nIT=Computers\nF\n = x")).toEqual({ HR: "Human resources", IT: "Computers" });
  expect(tableText({ a: "b", c: "" })).toBe("a = b\nc = ");
});

test("a field is read from its standard attributes until it is read in a way of its own", () => {
  expect(rowOf(mapping, title, ["title"]).attributes).toEqual(["title"]);
  const changed = withRow(mapping, { field: "title", attributes: ["position"], joiner: null, transforms: [] });
  expect(rowOf(changed, title, ["title"]).attributes).toEqual(["position"]);
  expect(withoutRow(changed, "title")).toEqual(mapping);
  expect(rowOf({ ...mapping, hasStandardFields: false }, title, ["title"]).attributes).toEqual([]);
});

test("what entries hold is seen once and without regard to the case of names", () => {
  expect(seenValues(entries, ["CN"])).toEqual(["Mia", "Joel", "J"]);
  expect(seenAttributes(entries)).toContainEqual({ name: "cn", people: 2 });
});
