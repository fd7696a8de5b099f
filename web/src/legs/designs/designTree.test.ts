import { expect, test } from "vitest";
import { plainTheme } from "./designSamples";
import { outline, reduce, type Block, type Design } from "./designState";
import { added, copied, freshKey, movedAcross, movedBeside, neighbour, removed } from "./designTree";

const gap: Block = { kind: "gap", height: 4 };
const design: Design = {
  name: "Full",
  theme: plainTheme,
  root: ["first", "columns", "last"],
  blocks: {
    first: gap,
    columns: { kind: "columns", space: 16, children: [["logo"], []] },
    logo: gap,
    last: gap,
  },
};

const read = (of: Design) =>
  outline(of)
    .map((row) => `${row.depth}${row.key}`)
    .join(" ");

test("a block is added below the one that is selected, in columns when they are, else at the end", () => {
  expect(read(added(design, "new", gap, "first"))).toBe("0first 0new 0columns 1logo 0last");
  expect(read(added(design, "new", gap, "logo"))).toBe("0first 0columns 1logo 1new 0last");
  expect(read(added(design, "new", gap, null))).toBe("0first 0columns 1logo 0last 0new");
  const inEmpty = added(design, "new", gap, "columns").blocks.columns;
  expect(inEmpty?.kind === "columns" && inEmpty.children).toEqual([["logo"], ["new"]]);
});

test("columns go with what stands in them", () => {
  const without = removed(design, "columns");
  expect(read(without)).toBe("0first 0last");
  expect(Object.keys(without.blocks).sort()).toEqual(["first", "last"]);
  expect(Object.keys(removed(design, "logo").blocks).sort()).toEqual(["columns", "first", "last"]);
});

test("a copy has keys of its own and stands below", () => {
  const twice = copied(design, "columns", freshKey(design, "columns"));
  expect(read(twice)).toBe("0first 0columns 1logo 0columns1 1gap1 0last");
  expect(copied(design, "nothing", "x")).toBe(design);
});

test("a block goes across columns, out of them and into them", () => {
  const right = movedAcross(design, "logo", 1).blocks.columns;
  expect(right?.kind === "columns" && right.children).toEqual([[], ["logo"]]);
  expect(read(movedAcross(design, "logo", -1))).toBe("0first 0logo 0columns 0last");
  expect(read(movedAcross(movedAcross(design, "logo", 1), "logo", 1))).toBe("0first 0columns 0logo 0last");
  expect(read(movedAcross(design, "first", 1))).toBe("0columns 1logo 1first 0last");
  expect(movedAcross(design, "first", -1)).toBe(design);
});

test("a block is put beside another, into columns and out of them, and never into itself", () => {
  expect(read(movedBeside(design, "last", "first", "before"))).toBe("0last 0first 0columns 1logo");
  expect(read(movedBeside(design, "first", "logo", "after"))).toBe("0columns 1logo 1first 0last");
  expect(read(movedBeside(design, "logo", "last", "after"))).toBe("0first 0columns 0last 0logo");
  expect(movedBeside(design, "columns", "logo", "before")).toBe(design);
  expect(movedBeside(design, "first", "first", "after")).toBe(design);
  expect(movedBeside(design, "nothing", "first", "after")).toBe(design);
});

test("every step keeps each block in one place", () => {
  const steps = [
    (of: Design) => reduce(of, { kind: "add", key: freshKey(of, "gap"), block: gap, below: "columns" }),
    (of: Design) => reduce(of, { kind: "across", key: "logo", by: 1 }),
    (of: Design) => reduce(of, { kind: "copy", key: "columns", copy: freshKey(of, "columns") }),
    (of: Design) => reduce(of, { kind: "across", key: "last", by: 1 }),
    (of: Design) => reduce(of, { kind: "beside", key: "first", other: "columns1", side: "after" }),
    (of: Design) => reduce(of, { kind: "remove", key: "columns" }),
  ];
  let now = design;
  for (const step of steps) {
    now = step(now);
    const standing = outline(now).map((row) => row.key);
    expect(new Set(standing).size).toBe(standing.length);
    expect([...standing].sort()).toEqual(Object.keys(now.blocks).sort());
  }
});

test("when a block goes, the one below it is looked at, else the one above", () => {
  expect(neighbour(design, "first")).toBe("columns");
  expect(neighbour(design, "last")).toBe("columns");
  expect(neighbour(design, "logo")).toBe("columns");
});
