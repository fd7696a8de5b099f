/** One edit of one draft, with what it was before. `mergeKey` joins keystrokes in the same place into one step. */
export type Edit = {
  draft: string;
  label: string;
  before: unknown;
  after: unknown;
  mergeKey: string;
  at: number;
};

/** Edits of the whole visit, over all legs. */
export type UndoState = { past: readonly Edit[]; future: readonly Edit[] };

const mergeWithin = 1500; // milliseconds between two keystrokes of one step
const longestPast = 200; // steps; a visit has fewer

export const noEdits: UndoState = { past: [], future: [] };

/** Adds an edit; what was undone before can no longer be redone. */
export function record(state: UndoState, edit: Edit): UndoState {
  const last = state.past.at(-1);
  const joins =
    last?.draft === edit.draft &&
    edit.mergeKey !== "" &&
    last.mergeKey === edit.mergeKey &&
    edit.at - last.at < mergeWithin;
  const past = joins ? [...state.past.slice(0, -1), { ...edit, before: last.before }] : [...state.past, edit];
  return { past: past.slice(-longestPast), future: [] };
}

/** Moves the last edit to the future. Gives it back so that its `before` can be saved; null when there is none. */
export function undo(state: UndoState): { state: UndoState; edit: Edit } | null {
  const edit = state.past.at(-1);
  return edit ? { edit, state: { past: state.past.slice(0, -1), future: [edit, ...state.future] } } : null;
}

/** Moves the next edit back to the past. Gives it back so that its `after` can be saved; null when there is none. */
export function redo(state: UndoState): { state: UndoState; edit: Edit } | null {
  const edit = state.future[0];
  return edit ? { edit, state: { past: [...state.past, edit], future: state.future.slice(1) } } : null;
}
