import type { Api } from "../../api/client";

export type Design = Api["DesignDocument"];
export type Block = Api["Block"];
export type TextLine = Api["BlockTextLine"];
export type ContactList = Api["BlockContactList"];
export type Run = Api["Run"];

/** One thing an editor does to a design. */
export type DesignAction =
  | { kind: "rename"; name: string }
  | { kind: "theme"; theme: Design["theme"] }
  | { kind: "block"; key: string; block: Block }
  | { kind: "move"; key: string; by: -1 | 1 };

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
  }
}
