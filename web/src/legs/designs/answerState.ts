import type { Api } from "../../api/client";

/** A ready answer to begin with, under a name that no other has. */
export function newAnswer(names: readonly string[]): Api["ReadyAnswer"] {
  const name = "New answer";
  let number = 1;
  while (names.includes(number === 1 ? name : `${name} ${number}`)) number += 1;
  return { name: number === 1 ? name : `${name} ${number}`, subject: "", text: "Hello,\n\n\n\n{displayName}\n" };
}

/** The text with a field in place of what is selected, and where the caret goes. */
export function insertedField(text: string, start: number, end: number, field: string) {
  const chip = `{${field}}`;
  return { text: text.slice(0, start) + chip + text.slice(end), caret: start + chip.length };
}
