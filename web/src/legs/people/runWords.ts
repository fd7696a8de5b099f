import type { Api } from "../../api/client";

const words: Record<Api["RunState"], string> = {
  reading: "is being read, or was cut off",
  planned: "waits to be applied",
  held: "is held by the brake",
  refused: "cannot be read in places",
  failed: "could not be read",
  applied: "applied",
  putAway: "was put away",
};

/** Where a run stands, as words. */
export function runWord(state: Api["RunState"]) {
  return words[state];
}

const kinds: Record<Api["RunKind"], string> = {
  file: "file",
  byHand: "asked by hand",
  schedule: "asked on schedule",
  push: "pushed",
  undo: "taken back",
};

/** How a run came about, as words. */
export function kindWord(kind: Api["RunKind"]) {
  return kinds[kind];
}

/** "3 join, 4 change, 2 leave", only what there is; "nothing" when nothing changes. */
export function countsText(counts: Api["RunCounts"]) {
  const parts = [
    counts.joining + counts.returning > 0 && `${counts.joining + counts.returning} join`,
    counts.changing > 0 && `${counts.changing} change`,
    counts.leaving > 0 && `${counts.leaving} leave`,
  ].filter(Boolean);
  return parts.length === 0 ? "nothing" : parts.join(", ");
}
