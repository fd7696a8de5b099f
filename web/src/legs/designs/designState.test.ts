import { expect, test } from "vitest";
import { plainTheme } from "./designSamples";
import {
  blockName,
  bySet,
  conditionWords,
  fieldRun,
  leadingTo,
  linkChoice,
  literalTexts,
  newBlock,
  outline,
  reduce,
  shownSize,
  translated,
  typedOver,
  withColumns,
  withRuns,
  type Block,
  type Design,
  type Run,
  type TextLine,
} from "./designState";

const line = (...fields: string[]): TextLine => ({
  kind: "textLine",
  role: "text",
  separator: ", ",
  parts: fields.map((field) => ({ runs: [fieldRun(field)] })),
});

const labelled = (label: string): Run => ({ kind: "field", field: "title", fallback: "", label });

const design: Design = {
  name: "Full",
  theme: plainTheme,
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
  expect(withRuns(line("title", "department"), 0, []).parts).toEqual([{ runs: [fieldRun("department")] }]);
});

test("a text line is called by what it holds", () => {
  expect(blockName(line("title", "department"), (field) => field.toUpperCase())).toBe("TITLE, DEPARTMENT");
});

test("columns of a smaller number keep what stood in those that go", () => {
  const columns = { kind: "columns" as const, space: 8, children: [["a"], ["b"], ["c", "d"]] };
  expect(withColumns(columns, 2).children).toEqual([["a"], ["b", "c", "d"]]);
  expect(withColumns(columns, 4).children).toEqual([["a"], ["b"], ["c", "d"], []]);
});

test("a picture first stands at most 100 px wide and high, and is never made larger", () => {
  expect(shownSize({ width: 1024, height: 512 })).toEqual({ width: 100, height: 50 });
  expect(shownSize({ width: 10, height: 400 })).toEqual({ width: 3, height: 100 });
  expect(shownSize({ width: 64, height: 64 })).toEqual({ width: 64, height: 64 });
});

test("new links lead to the profile links there are, and a button to the one for booking", () => {
  const web = { kind: "web" as const };
  const fields = [
    { ...web, name: "webAddress", profile: null },
    { ...web, name: "films", profile: "video" as const },
    { ...web, name: "bookingPage", profile: "booking" as const },
  ];
  const row = newBlock("linkRow", fields);
  expect(row.kind === "linkRow" && row.items.map((item) => item.field)).toEqual(["films", "bookingPage"]);
  const button = newBlock("button", fields);
  expect(button.kind === "button" && button.item.field).toBe("bookingPage");
  const alone = newBlock("button", fields.slice(0, 1));
  expect(alone.kind === "button" && alone.item.field).toBe("webAddress");
});

test("texts that stand in other languages are each named once, in the order of the outline", () => {
  const worded: Design = {
    ...design,
    blocks: {
      ...design.blocks,
      name: { ...line("displayName"), parts: [{ runs: [{ kind: "text", text: "Dr" }, fieldRun("displayName")] }] },
      role: {
        kind: "contactList",
        role: "text",
        arrangement: "stacked",
        separator: "",
        items: [
          { label: "T", field: "telephone" },
          { label: "", field: "mobile" },
        ],
      },
      last: {
        kind: "button",
        item: { label: "T", field: "webAddress", address: "" },
        textForm: [{ runs: [{ kind: "text", text: "Visit us" }] }],
      },
    },
  };
  expect(literalTexts(worded)).toEqual(["Dr", "T", "Visit us"]);
});

test("a text's form in a language is set, and an empty one is taken away", () => {
  const german = translated({}, "de", "Mobile", "Mobil");
  expect(german).toEqual({ de: { Mobile: "Mobil" } });
  expect(translated(german, "de", "Mobile", "")).toEqual({ de: {} });
  expect(reduce(design, { kind: "languages", languages: german }).languages).toEqual(german);
});

test("a condition reads as words", () => {
  const label = (field: string) => (field === "location" ? "Location" : field);
  expect(conditionWords({ kind: "occasion", occasions: ["new", "reply"] }, label)).toBe(
    "the message is new or a reply",
  );
  expect(conditionWords({ kind: "audience", audiences: ["inside"] }, label)).toBe("read inside");
  expect(conditionWords({ kind: "field", field: "location", test: "oneOf", values: ["York", "Lund"] }, label)).toBe(
    "location is York or Lund",
  );
  expect(conditionWords({ kind: "field", field: "location", test: "absent", values: [] }, label)).toBe(
    "there is no location",
  );
});

test("designs stand by their sets, and those that stand alone come last", () => {
  const rows = ["", "Clinics", "", "Laboratory", "Clinics"].map((set, at) => ({
    id: String(at),
    name: `Design ${at}`,
    set,
    revision: 1,
    isEdited: false,
    ruleNumbers: [],
  }));
  expect(bySet(rows).map(([set, members]) => [set, members.map((row) => row.id)])).toEqual([
    ["Clinics", ["1", "4"]],
    ["Laboratory", ["3"]],
    ["", ["0", "2"]],
  ]);
});

test("a design that joins a set takes its theme", () => {
  const theme = { ...plainTheme, lineHeight: 160 };
  expect(reduce(design, { kind: "set", set: "Clinics", theme })).toEqual({ ...design, set: "Clinics", theme });
});

test("a text leads to one thing at a time: nothing, a field's link or an address", () => {
  const text: Run = { kind: "text", text: "Book a visit" };
  expect(linkChoice(text)).toBe("");
  const field = leadingTo(text, "field booking");
  expect([linkChoice(field), field.linkField, field.linkAddress]).toEqual(["field booking", "booking", ""]);
  const address = leadingTo(field, "address");
  expect([linkChoice(address), address.linkField, address.linkAddress]).toEqual(["address", "", "https://"]);
  expect(linkChoice(leadingTo(address, ""))).toBe("");
});

test("a text in the rendered signature is typed over where it stands", () => {
  const block: TextLine = {
    ...line("title"),
    parts: [
      {
        runs: [{ kind: "text", text: "Dr " }, labelled("as")],
      },
    ],
  };
  const typed = typedOver(typedOver(block, "0.0", "Prof. "), "0.1", "who is");
  expect(typed).toEqual({
    ...block,
    parts: [
      {
        runs: [{ kind: "text", text: "Prof. " }, labelled("who is")],
      },
    ],
  });
  const button: Block = { kind: "button", item: { label: "Book", field: "", address: "https://x.example/a" } };
  expect(typedOver(button, "0", "Come")).toEqual({ ...button, item: { ...button.item, label: "Come" } });
  expect(typedOver({ kind: "divider" }, "0", "x")).toEqual({ kind: "divider" });
});

test("a field's label is among the texts that can be translated", () => {
  const block = { ...line("title"), parts: [{ runs: [labelled("as")] }] };
  expect(literalTexts({ ...design, root: ["a"], blocks: { a: block } })).toEqual(["as"]);
});
