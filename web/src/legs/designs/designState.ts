import type { Api } from "../../api/client";
import { added, copied, movedAcross, movedBeside, removed } from "./designTree";

export type Design = Api["DesignDocument"];
export type Block = Api["Block"];
export type TextLine = Api["BlockTextLine"];
export type ContactList = Api["BlockContactList"];
export type OwnMarkup = Api["BlockOwnMarkup"];
export type Run = Api["Run"];
export type LinkItem = Api["LinkItem"];
export type BlockCondition = Api["BlockCondition"];

/** One thing an editor does to a design. */
export type DesignAction =
  | { kind: "rename"; name: string }
  | { kind: "theme"; theme: Design["theme"] }
  | { kind: "set"; set: string; theme: Design["theme"] }
  | { kind: "smaller"; smaller: string }
  | { kind: "languages"; languages: Languages }
  | { kind: "replace"; design: Design }
  | { kind: "block"; key: string; block: Block }
  | { kind: "move"; key: string; by: -1 | 1 }
  | { kind: "across"; key: string; by: -1 | 1 }
  | { kind: "beside"; key: string; other: string; side: "before" | "after" }
  | { kind: "add"; key: string; block: Block; below: string | null }
  | { kind: "copy"; key: string; copy: string }
  | { kind: "remove"; key: string };

/** Texts by language, then by the text as it stands in a block. */
export type Languages = NonNullable<Design["languages"]>;

/** A row of the outline: a block with its depth. */
export type OutlineRow = { key: string; block: Block; depth: number };

/** The design after the action. The given one is untouched; an action that changes nothing gives the same object. */
export function reduce(design: Design, action: DesignAction): Design {
  switch (action.kind) {
    case "rename":
      return { ...design, name: action.name };
    case "theme":
      return { ...design, theme: action.theme };
    case "set":
      return { ...design, set: action.set, theme: action.theme };
    case "smaller":
      return { ...design, smaller: action.smaller };
    case "languages":
      return { ...design, languages: action.languages };
    case "replace":
      return action.design;
    case "block":
      return { ...design, blocks: { ...design.blocks, [action.key]: action.block } };
    case "move":
      return move(design, action.key, action.by);
    case "across":
      return movedAcross(design, action.key, action.by);
    case "beside":
      return movedBeside(design, action.key, action.other, action.side);
    case "add":
      return added(design, action.key, action.block, action.below);
    case "copy":
      return copied(design, action.key, action.copy);
    case "remove":
      return removed(design, action.key);
  }
}

/** Every block from top to bottom, children under their columns. */
export function outline(design: Design): OutlineRow[] {
  const walk = (keys: readonly string[], depth: number): OutlineRow[] =>
    keys.flatMap((key) => {
      const block = design.blocks[key];
      if (!block) return [];
      const children = block.kind === "columns" ? walk(block.children.flat(), depth + 1) : [];
      return [{ key, block, depth }, ...children];
    });
  return walk(design.root, 0);
}

/** Moves a block within its own stack; at the end of it nothing happens. */
function move(design: Design, key: string, by: -1 | 1): Design {
  const root = swapped(design.root, key, by);
  if (root) return { ...design, root };
  for (const [parent, block] of Object.entries(design.blocks)) {
    if (block.kind !== "columns") continue;
    const column = block.children.findIndex((keys) => swapped(keys, key, by) !== null);
    if (column < 0) continue;
    const children = block.children.map((keys, index) => (index === column ? (swapped(keys, key, by) ?? keys) : keys));
    return { ...design, blocks: { ...design.blocks, [parent]: { ...block, children } } };
  }
  return design;
}

function swapped(keys: readonly string[], key: string, by: -1 | 1): string[] | null {
  const at = keys.indexOf(key);
  const other = keys[at + by];
  if (at < 0 || other === undefined) return null;
  return keys.map((candidate, index) => (index === at ? other : index === at + by ? key : candidate));
}

/** The block with one of its literal texts typed over. place: as the rendered signature names it, "part.run" in a text line, else the item's number. */
export function typedOver(block: Block, place: string, text: string): Block {
  const [first = -1, second = -1] = place.split(".").map(Number);
  const relabelled = (items: LinkItem[]) =>
    items.map((item, index) => (index === first ? { ...item, label: text } : item));
  switch (block.kind) {
    case "textLine": {
      const typed = (run: Run): Run => (run.kind === "text" ? { ...run, text } : { ...run, label: text });
      const parts = block.parts.map((part, index) =>
        index === first ? { runs: part.runs.map((run, at) => (at === second ? typed(run) : run)) } : part,
      );
      return { ...block, parts };
    }
    case "contactList":
      return {
        ...block,
        items: block.items.map((item, index) => (index === first ? { ...item, label: text } : item)),
      };
    case "linkRow":
      return { ...block, items: relabelled(block.items) };
    case "button":
      return { ...block, item: { ...block.item, label: text } };
    default:
      return block;
  }
}

/** The parts of a text line with one part's runs replaced; a part without runs goes. */
export function withRuns(line: TextLine, part: number, runs: Run[]): TextLine {
  const parts = line.parts.map((before, index) => (index === part ? { runs } : before));
  return { ...line, parts: parts.filter((candidate) => candidate.runs.length > 0) };
}

/** Columns of another number; what stood in those that go moves to the last one left. */
export function withColumns(columns: Api["BlockColumns"], count: number): Api["BlockColumns"] {
  const kept = columns.children.slice(0, count);
  const moved = columns.children.slice(count).flat();
  const filled = kept.map((keys, index) => (index === count - 1 ? [...keys, ...moved] : keys));
  return { ...columns, children: [...filled, ...Array.from({ length: count - kept.length }, () => [])] };
}

/** The size at which a picture first stands in a signature: as it is, or smaller. Common practice: a mark is about 100 px wide. */
export function shownSize(size: { width: number; height: number }) {
  const most = 100;
  const scale = Math.min(1, most / size.width, most / size.height);
  return { width: Math.max(1, Math.round(size.width * scale)), height: Math.max(1, Math.round(size.height * scale)) };
}

export type DesignRow = Api["DesignRow"];

/** Designs by their set, sets in the order of their first design; those that stand alone come last, under no name. */
export function bySet(designs: readonly DesignRow[]): [string, DesignRow[]][] {
  const names = [...new Set(designs.map((design) => design.set))];
  return [...names.filter((set) => set !== ""), ...names.filter((set) => set === "")].map((set) => [
    set,
    designs.filter((design) => design.set === set),
  ]);
}

/** What a block is called in the outline. */
export function blockName(block: Block, label: (field: string) => string): string {
  switch (block.kind) {
    case "textLine":
      return (
        block.parts
          .map((part) => part.runs.map((run) => (run.kind === "field" ? label(run.field) : run.text)).join(""))
          .join(block.separator) || "Empty line"
      );
    case "contactList":
      return "Contact list";
    case "picture":
      return block.field ? label(block.field) : "Picture";
    case "bannerPlace":
      return "Banner place";
    case "noticePlace":
      return "Notice";
    case "ownMarkup":
      return "Own HTML";
    case "divider":
      return "Divider";
    case "gap":
      return `Gap, ${block.height} px`;
    case "columns":
      return "Columns";
    case "linkRow":
      return `Links: ${block.items.map((item) => linkName(item, label)).join(", ") || "none yet"}`;
    case "button":
      return `Button: ${linkName(block.item, label)}`;
  }
}

/** A field inside a text. */
export function fieldRun(field: string): Run {
  return { kind: "field", field, fallback: "" };
}

/** Where a piece of text leads, as one choice: "" nowhere, "field NAME", or "address". */
export function linkChoice(run: Run) {
  if (run.linkField) return `field ${run.linkField}`;
  return run.linkAddress ? "address" : "";
}

/** The piece of text leading elsewhere. */
export function leadingTo(run: Run, choice: string): Run {
  if (choice === "address") return { ...run, linkField: "", linkAddress: run.linkAddress || "https://" };
  return { ...run, linkField: choice.startsWith("field ") ? choice.slice("field ".length) : "", linkAddress: "" };
}

/** What a link reads. */
export function linkName(item: LinkItem, label: (field: string) => string) {
  return item.label || (item.field === "" ? item.address : label(item.field));
}

/** Kinds of blocks that can be added without anything else, as a menu calls them. */
export const newBlocks: readonly { kind: Exclude<Block["kind"], "picture">; label: string }[] = [
  { kind: "textLine", label: "Text line" },
  { kind: "contactList", label: "Contact list" },
  { kind: "linkRow", label: "Link row" },
  { kind: "button", label: "Button" },
  { kind: "columns", label: "Columns" },
  { kind: "divider", label: "Divider" },
  { kind: "gap", label: "Gap" },
  { kind: "bannerPlace", label: "Banner place" },
  { kind: "noticePlace", label: "Notice" },
  { kind: "ownMarkup", label: "Own HTML" },
];

type FieldHead = Pick<Api["FieldAnswer"], "name" | "kind" | "profile">;

/** True for fields that lead somewhere. */
export function leads(field: FieldHead) {
  return field.kind === "web" || field.kind === "mail" || field.kind === "phone";
}

/** A block as it is added: something to see at once. */
export function newBlock(kind: Exclude<Block["kind"], "picture">, fields: readonly FieldHead[]): Block {
  const profiles = fields.filter((field) => field.profile);
  const link = (field: string): LinkItem => ({ label: "", field, address: "" });
  switch (kind) {
    case "textLine":
      return { kind, role: "text", separator: ", ", parts: [{ runs: [fieldRun("displayName")] }] };
    case "contactList":
      return {
        kind,
        role: "text",
        arrangement: "stacked",
        separator: "  |  ",
        items: [{ label: "T", field: "telephone" }],
      };
    case "linkRow":
      return {
        kind,
        role: "text",
        separator: "  |  ",
        items: (profiles.length > 0 ? profiles.map((field) => field.name) : ["webAddress"]).map(link),
      };
    case "button":
      return { kind, item: link(profiles.find((field) => field.profile === "booking")?.name ?? "webAddress") };
    case "columns":
      return { kind, space: 16, children: [[], []] };
    case "divider":
      return { kind };
    case "gap":
      return { kind, height: 8 };
    case "bannerPlace":
      return { kind, most: 1, width: 480 };
    case "noticePlace":
      return { kind, role: "small" };
    case "ownMarkup":
      return { kind, markup: "<p>{displayName}</p>" };
  }
}

/** A portrait as it is added: a circle, from the person's own field. */
export const portraitBlock: Block = {
  kind: "picture",
  sha256: "",
  field: "portrait",
  width: 96,
  height: 96,
  shape: "circle",
  altText: "Portrait of",
  altField: "displayName",
  link: "",
};

/** The company's mark as it is added: the newest picture of the library. */
export function logoBlock(logo: Api["LibraryPicture"]): Block {
  return { kind: "picture", sha256: logo.sha256, ...shownSize(logo), altText: logo.name, link: "" };
}

/** The texts of a design that are the same for everybody, in the order of the outline. */
export function literalTexts(design: Design): string[] {
  const inParts = (parts: readonly Api["Part"][]) =>
    parts.flatMap((part) => part.runs.map((run) => (run.kind === "text" ? run.text : (run.label ?? ""))));
  const inBlock = (block: Block): string[] => {
    switch (block.kind) {
      case "textLine":
        return inParts(block.parts);
      case "contactList":
      case "linkRow":
        return block.items.map((item) => item.label);
      case "button":
        return [block.item.label];
      case "picture":
        return [block.altText];
      default:
        return [];
    }
  };
  const all = outline(design).flatMap((row) => [...inBlock(row.block), ...inParts(row.block.textForm ?? [])]);
  return [...new Set(all.filter((text) => text.trim() !== ""))];
}

/** A text's form in a language; an empty one is taken away. */
export function translated(languages: Languages, language: string, text: string, form: string): Languages {
  const rest = Object.fromEntries(Object.entries(languages[language] ?? {}).filter(([key]) => key !== text));
  return { ...languages, [language]: form === "" ? rest : { ...rest, [text]: form } };
}

/** A condition as words that stand after "Shown when". */
export function conditionWords(condition: BlockCondition, label: (field: string) => string): string {
  const list = (words: readonly string[]) => words.join(" or ");
  switch (condition.kind) {
    case "occasion":
      return `the message is ${list(condition.occasions.map((occasion) => (occasion === "new" ? "new" : `a ${occasion}`)))}`;
    case "audience":
      return `read ${list(condition.audiences)}`;
    case "field":
      switch (condition.test) {
        case "present":
          return `there is a ${label(condition.field).toLowerCase()}`;
        case "absent":
          return `there is no ${label(condition.field).toLowerCase()}`;
        case "oneOf":
          return `${label(condition.field).toLowerCase()} is ${list(condition.values)}`;
        case "noneOf":
          return `${label(condition.field).toLowerCase()} is not ${list(condition.values)}`;
      }
  }
}
