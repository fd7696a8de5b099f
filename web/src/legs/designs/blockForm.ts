import type { Api } from "../../api/client";
import type { Block } from "./designState";

/** The fields a block may use. */
export type Fields = readonly Api["FieldAnswer"][];

/** What the properties of a block are given. An edit with the same merge key as the one before is undone with it. */
export type Props<T> = { block: T; fields: Fields; onChange: (label: string, block: Block, mergeKey: string) => void };

export const roles = [
  { value: "name", label: "Name: large, bold" },
  { value: "text", label: "Text" },
  { value: "soft", label: "Second text" },
  { value: "small", label: "Small print" },
] as const;
