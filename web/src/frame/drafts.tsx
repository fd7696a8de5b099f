import { useQueryClient } from "@tanstack/react-query";
import { createContext, use, useMemo, useRef, useState, type ReactNode } from "react";
import { ProblemError } from "../api/client";
import { noEdits, record, redo, undo, type Edit, type UndoState } from "./undoState";

/** How one draft is read and saved. */
export type DraftDoor = {
  /** Key of the draft's query, whose data is `{ revision, value }`. */
  queryKey: readonly unknown[];
  /** Saves a value made on a revision. */
  save: (value: unknown, revision: number) => Promise<void>;
};

/** A draft as the query cache keeps it. */
export type DraftData<T> = { revision: number; value: T };

type Waiting = { value: unknown; isSending: boolean };

export type Drafts = {
  /** Shows a value at once, saves it, and remembers the step for undo. */
  change: (draft: string, door: DraftDoor, label: string, value: unknown, mergeKey?: string) => void;
  undo: () => void;
  redo: () => void;
  undoLabel: string | null;
  redoLabel: string | null;
  /** The last failure of a draft's saving; the typed value stays on screen. */
  failures: ReadonlyMap<string, ProblemError>;
  /** Drops the typed value and loads what the server has. */
  reload: (draft: string) => void;
};

const Context = createContext<Drafts | null>(null);

/** Drafts and their undo. */
export function useDrafts(): Drafts {
  const drafts = use(Context);
  if (!drafts) throw new Error("useDrafts stands outside its provider.");
  return drafts;
}

/**
 * Saves every change at once, one request at a time per draft: while one is on its way the newest value waits, so that no revision is
 * skipped and no keystroke is lost.
 */
export function DraftsProvider({ children }: { children: ReactNode }) {
  const queries = useQueryClient();
  const [undoState, setUndoState] = useState<UndoState>(noEdits);
  const undoRef = useRef<UndoState>(noEdits);
  const [failures, setFailures] = useState<ReadonlyMap<string, ProblemError>>(new Map());
  const doors = useRef(new Map<string, DraftDoor>());
  const waiting = useRef(new Map<string, Waiting>());

  const drafts = useMemo<Drafts>(() => {
    const fail = (draft: string, problem: ProblemError | null) =>
      setFailures((before) => {
        const after = new Map(before);
        if (problem) after.set(draft, problem);
        else after.delete(draft);
        return after;
      });

    const send = async (draft: string, door: DraftDoor) => {
      const entry = waiting.current.get(draft);
      if (!entry || entry.isSending) return;
      entry.isSending = true;
      const sent = entry.value;
      const data = queries.getQueryData<DraftData<unknown>>(door.queryKey);
      try {
        await door.save(sent, data?.revision ?? 0);
        queries.setQueryData<DraftData<unknown>>(
          door.queryKey,
          (now) => now && { ...now, revision: (data?.revision ?? 0) + 1 },
        );
        fail(draft, null);
        if (waiting.current.get(draft)?.value === sent) waiting.current.delete(draft);
        else entry.isSending = false;
        void queries.invalidateQueries({ predicate: (query) => query.meta?.["followsDrafts"] === true });
        void send(draft, door);
      } catch (error) {
        waiting.current.delete(draft);
        fail(
          draft,
          error instanceof ProblemError
            ? error
            : new ProblemError(0, "page", "The change was not saved.", "Load the page again.", []),
        );
      }
    };

    const show = (draft: string, door: DraftDoor, value: unknown) => {
      doors.current.set(draft, door);
      queries.setQueryData<DraftData<unknown>>(door.queryKey, (now) => now && { ...now, value });
      const entry = waiting.current.get(draft);
      if (entry) entry.value = value;
      else waiting.current.set(draft, { value, isSending: false });
      void send(draft, door);
    };

    const keep = (state: UndoState) => {
      undoRef.current = state;
      setUndoState(state);
    };

    const step = (move: typeof undo, side: "before" | "after") => {
      const moved = move(undoRef.current);
      const door = moved && doors.current.get(moved.edit.draft);
      if (!moved || !door) return;
      keep(moved.state);
      show(moved.edit.draft, door, moved.edit[side]);
    };

    return {
      change: (draft, door, label, value, mergeKey = "") => {
        const before = queries.getQueryData<DraftData<unknown>>(door.queryKey)?.value;
        const edit: Edit = { draft, label, before, after: value, mergeKey, at: Date.now() };
        keep(record(undoRef.current, edit));
        show(draft, door, value);
      },
      undo: () => step(undo, "before"),
      redo: () => step(redo, "after"),
      undoLabel: undoState.past.at(-1)?.label ?? null,
      redoLabel: undoState.future[0]?.label ?? null,
      failures,
      reload: (draft) => {
        fail(draft, null);
        const door = doors.current.get(draft);
        if (door) void queries.invalidateQueries({ queryKey: door.queryKey });
      },
    };
  }, [queries, undoState, failures]);

  return <Context value={drafts}>{children}</Context>;
}
