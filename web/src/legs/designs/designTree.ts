import type { Block, Design } from "./designState";

/** Where a block stands: in the root (parent null) or in a column, and how far down. */
type Place = { parent: string | null; column: number; index: number };

/** The design with one more block below the given one; in columns when columns are given, at the end when nothing is. */
export function added(design: Design, key: string, block: Block, below: string | null): Design {
  const blocks = { ...design.blocks, [key]: block };
  const above = below === null ? undefined : design.blocks[below];
  if (below !== null && above?.kind === "columns") {
    const empty = above.children.findIndex((keys) => keys.length === 0);
    const column = empty >= 0 ? empty : above.children.length - 1;
    const place = { parent: below, column, index: above.children[column]?.length ?? 0 };
    return inserted({ ...design, blocks }, place, key);
  }
  const place = below === null ? null : placeOf(design, below);
  return inserted(
    { ...design, blocks },
    place ? { ...place, index: place.index + 1 } : { parent: null, column: 0, index: design.root.length },
    key,
  );
}

/** The design without a block and what stands in it. */
export function removed(design: Design, key: string): Design {
  const gone = new Set(within(design, key));
  const without = lifted(design, key);
  return {
    ...without,
    blocks: Object.fromEntries(Object.entries(without.blocks).filter(([other]) => !gone.has(other))),
  };
}

/** The design with a block, and all that stands in it, a second time below the first. */
export function copied(design: Design, key: string, copy: string): Design {
  const block = design.blocks[key];
  const place = placeOf(design, key);
  if (!block || !place) return design;
  let all = { ...design.blocks };
  const clone = (original: string, name: string): string => {
    const source = design.blocks[original];
    if (!source) return name;
    all = { ...all, [name]: source };
    if (source.kind === "columns") {
      const children = source.children.map((keys) =>
        keys.map((child) => clone(child, freshKey({ ...design, blocks: all }, design.blocks[child]?.kind ?? "block"))),
      );
      all = { ...all, [name]: { ...source, children } };
    }
    return name;
  };
  clone(key, copy);
  return inserted({ ...design, blocks: all }, { ...place, index: place.index + 1 }, copy);
}

/** Moves a block to the next column (1) or the one before (-1): out of the outermost ones, and into columns that stand beside it. */
export function movedAcross(design: Design, key: string, by: -1 | 1): Design {
  const place = placeOf(design, key);
  if (!place) return design;
  const parent = place.parent === null ? undefined : design.blocks[place.parent];
  if (place.parent !== null && parent?.kind === "columns") {
    const column = place.column + by;
    const keys = parent.children[column];
    if (keys) return inserted(lifted(design, key), { parent: place.parent, column, index: keys.length }, key);
    const out = placeOf(design, place.parent);
    return out ? inserted(lifted(design, key), { ...out, index: out.index + (by > 0 ? 1 : 0) }, key) : design;
  }
  if (by < 0) return design;
  const beside = [design.root[place.index - 1], design.root[place.index + 1]].find(
    (other) => other !== undefined && design.blocks[other]?.kind === "columns",
  );
  const columns = beside === undefined ? undefined : design.blocks[beside];
  if (beside === undefined || columns?.kind !== "columns") return design;
  return inserted(lifted(design, key), { parent: beside, column: 0, index: columns.children[0]?.length ?? 0 }, key);
}

/** The block put before or after another, wherever that stands; a block is never put into itself. */
export function movedBeside(design: Design, key: string, other: string, side: "before" | "after"): Design {
  if (within(design, key).includes(other) || !placeOf(design, key)) return design;
  const without = lifted(design, key);
  const place = placeOf(without, other);
  if (!place) return design;
  return inserted(without, { ...place, index: place.index + (side === "after" ? 1 : 0) }, key);
}

/** A key that no block has. */
export function freshKey(design: Pick<Design, "blocks">, kind: string): string {
  let number = 1;
  while (design.blocks[`${kind}${number}`]) number += 1;
  return `${kind}${number}`;
}

/** The block to look at when this one goes: the one below it, else above, else the columns it was in. */
export function neighbour(design: Design, key: string): string | null {
  const place = placeOf(design, key);
  if (!place) return null;
  const stack = stackAt(design, place);
  return stack[place.index + 1] ?? stack[place.index - 1] ?? place.parent;
}

function within(design: Design, key: string): string[] {
  const block = design.blocks[key];
  return block?.kind === "columns" ? [key, ...block.children.flat().flatMap((child) => within(design, child))] : [key];
}

function placeOf(design: Design, key: string): Place | null {
  const index = design.root.indexOf(key);
  if (index >= 0) return { parent: null, column: 0, index };
  for (const [parent, block] of Object.entries(design.blocks)) {
    if (block.kind !== "columns") continue;
    for (const [column, keys] of block.children.entries()) {
      if (keys.includes(key)) return { parent, column, index: keys.indexOf(key) };
    }
  }
  return null;
}

function stackAt(design: Design, place: Place): readonly string[] {
  const block = place.parent === null ? undefined : design.blocks[place.parent];
  return block?.kind === "columns" ? (block.children[place.column] ?? []) : design.root;
}

function withStack(design: Design, place: Place, keys: string[]): Design {
  if (place.parent === null) return { ...design, root: keys };
  const block = design.blocks[place.parent];
  if (block?.kind !== "columns") return design;
  const children = block.children.map((column, index) => (index === place.column ? keys : column));
  return { ...design, blocks: { ...design.blocks, [place.parent]: { ...block, children } } };
}

function inserted(design: Design, place: Place, key: string): Design {
  const stack = stackAt(design, place);
  return withStack(design, place, [...stack.slice(0, place.index), key, ...stack.slice(place.index)]);
}

function lifted(design: Design, key: string): Design {
  const place = placeOf(design, key);
  return place
    ? withStack(
        design,
        place,
        stackAt(design, place).filter((other) => other !== key),
      )
    : design;
}
