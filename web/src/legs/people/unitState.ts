import type { Api } from "../../api/client";

type Unit = Pick<Api["UnitAnswer"], "id" | "name" | "parent">;

/** Units in the order of a tree, each with its depth; one whose parent is not among them stands at the top. */
export function teamTree<T extends Unit>(units: readonly T[]): readonly { unit: T; depth: number }[] {
  const known = new Set(units.map((unit) => unit.id));
  const below = (parent: string | null, depth: number): { unit: T; depth: number }[] =>
    units
      .filter((unit) => (unit.parent && known.has(unit.parent) ? unit.parent : null) === parent)
      .flatMap((unit) => [{ unit, depth }, ...below(unit.id, depth + 1)]);
  return below(null, 0);
}
