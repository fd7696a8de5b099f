import type { Api } from "../../api/client";

export type AudienceBook = Api["AudienceBook"];
export type Audience = Api["Audience"];

/** A new audience under a key and a name that no other has. */
export function newAudience(book: AudienceBook): Audience {
  for (let number = 1; ; number += 1) {
    const key = number === 1 ? "new-audience" : `new-audience-${number}`;
    const name = number === 1 ? "new audience" : `new audience ${number}`;
    if (!book.named.some((one) => one.key === key || one.name === name)) return { key, name, members: [] };
  }
}

/** The members with more, each once, without empty ones. */
export function addMembers(members: readonly string[], more: readonly string[]): string[] {
  return [...new Set([...members, ...more.map((member) => member.trim().toLowerCase())])].filter(Boolean);
}
