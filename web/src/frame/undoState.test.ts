import { expect, test } from "vitest";
import { noEdits, record, redo, undo, type Edit } from "./undoState";

const edit = (after: number, mergeKey = "", at = 0, draft = "design/1"): Edit => ({
  draft,
  label: "edit",
  before: after - 1,
  after,
  mergeKey,
  at,
});

test("an edit is undone and redone", () => {
  const one = record(noEdits, edit(1));
  const undone = undo(one);
  expect(undone?.edit.before).toBe(0);
  expect(redo(undone?.state ?? noEdits)?.edit.after).toBe(1);
});

test("nothing to undo or redo gives null", () => {
  expect(undo(noEdits)).toBeNull();
  expect(redo(noEdits)).toBeNull();
});

test("keystrokes in one place become one step, and a pause ends it", () => {
  const typed = [edit(1, "name", 0), edit(2, "name", 300), edit(3, "name", 600), edit(4, "name", 9000)].reduce(
    record,
    noEdits,
  );
  expect(typed.past.map((step) => [step.before, step.after])).toEqual([
    [0, 3],
    [3, 4],
  ]);
});

test("keystrokes in two drafts stay two steps", () => {
  const typed = [edit(1, "name", 0), edit(2, "name", 10, "design/2")].reduce(record, noEdits);
  expect(typed.past).toHaveLength(2);
});

test("a new edit after an undo forgets what was undone", () => {
  const undone = undo(record(noEdits, edit(1)));
  expect(record(undone?.state ?? noEdits, edit(5)).future).toHaveLength(0);
});
