import type { Api } from "../../api/client";
import { added, copied, movedAcross, removed } from "./designTree";

export type Design = Api["DesignDocument"];
export type Block = Api["Block"];
export type TextLine = Api["BlockTextLine"];
export type ContactList = Api["BlockContactList"];
export type Run = Api["Run"];
export type LinkItem = Api["LinkItem"];

/** One thing an editor does to a design. */
export type DesignAction =
  | { kind: "rename"; name: string }
  | { kind: "theme"; theme: Design["theme"] }
  | { kind: "block"; key: string; block: Block }
  | { kind: "move"; key: string; by: -1 | 1 }
  | { kind: "across"; key: string; by: -1 | 1 }
  | { kind: "add"; key: string; block: Block; below: string | null }
  | { kind: "copy"; key: string; copy: string }
  | { kind: "remove"; key: string };

/** A row of the outline: a block with its depth. */
export type OutlineRow = { key: string; block: Block; depth: number };

/** The design after the action. The given one is untouched; an action that changes nothing gives the same object. */
export function reduce(design: Design, action: DesignAction): Design {
  switch (action.kind) {
    case "rename":
      return { ...design, name: action.name };
    case "theme":
      return { ...design, theme: action.theme };
    case "block":
      return { ...design, blocks: { ...design.blocks, [action.key]: action.block } };
    case "move":
      return move(design, action.key, action.by);
    case "across":
      return movedAcross(design, action.key, action.by);
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
      return "Picture";
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
  }
}
