import { expect, test } from "vitest";
import { blockName, outline, reduce, withRuns, type Design, type TextLine } from "./designState";

const line = (...fields: string[]): TextLine => ({
  kind: "textLine",
  role: "text",
  separator: ", ",
  parts: fields.map((field) => ({ runs: [{ kind: "field", field }] })),
});

const design: Design = {
  name: "Full",
  theme: {
    colours: { name: "#000000", text: "#000000", soft: "#000000", line: "#000000" },
    fontStack: "Arial, Helvetica, sans-serif",
    sizes: { name: 15, text: 13, small: 11 },
    lineHeight: 145,
  },
  root: ["columns", "last"],
  blocks: {
    columns: { kind: "columns", space: 16, children: [["logo"], ["name", "role"]] },
    logo: { kind: "gap", height: 4 },
    name: line("displayName"),
    role: line("title"),
    last: { kind: "divider" },
  },
};

test("the outline reads from top to bottom with children under their columns", () => {
  expect(outline(design).map((row) => `${row.depth} ${row.key}`)).toEqual([
    "0 columns",
    "1 logo",
    "1 name",
    "1 role",
    "0 last",
  ]);
});

test("a block moves within its own column and leaves the rest as it was", () => {
  const moved = reduce(design, { kind: "move", key: "role", by: -1 });
  expect(outline(moved).map((row) => row.key)).toEqual(["columns", "logo", "role", "name", "last"]);
  expect(outline(design).map((row) => row.key)).toEqual(["columns", "logo", "name", "role", "last"]);
});

test("a block at the end of its stack stays", () => {
  expect(reduce(design, { kind: "move", key: "logo", by: -1 })).toBe(design);
  expect(reduce(design, { kind: "move", key: "last", by: 1 })).toBe(design);
});

test("moving topmost blocks changes their order", () => {
  expect(reduce(design, { kind: "move", key: "last", by: -1 }).root).toEqual(["last", "columns"]);
});

test("a part that loses its last run goes", () => {
  expect(withRuns(line("title", "department"), 0, []).parts).toEqual([
    { runs: [{ kind: "field", field: "department" }] },
  ]);
});

test("a text line is called by what it holds", () => {
  expect(blockName(line("title", "department"), (field) => field.toUpperCase())).toBe("TITLE, DEPARTMENT");
});
