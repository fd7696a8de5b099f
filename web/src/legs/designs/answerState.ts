import type { Api } from "../../api/client";
import { freeName } from "./disclaimerState";

/** A ready answer to begin with, under a name that no other has. */
export function newAnswer(names: readonly string[]): Api["ReadyAnswer"] {
  return { name: freeName("New answer", names), subject: "", text: "Hello,\n\n\n\n{displayName}\n" };
}

/** The text with a field in place of what is selected, and where the caret goes. */
export function insertedField(text: string, start: number, end: number, field: string) {
  const chip = `{${field}}`;
  return { text: text.slice(0, start) + chip + text.slice(end), caret: start + chip.length };
}
