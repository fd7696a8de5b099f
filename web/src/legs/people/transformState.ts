import type { Api } from "../../api/client";

export type Transform = Api["FieldMapping"]["transforms"][number];
export type TransformKind = Transform["kind"];

export const transformWords: readonly { value: TransformKind; label: string }[] = [
  { value: "case", label: "set its case" },
  { value: "split", label: "take one part" },
  { value: "lookup", label: "look it up" },
  { value: "extract", label: "take what a pattern finds" },
];

export const caseWords: readonly { value: Api["CaseStyle"]; label: string }[] = [
  { value: "name", label: "as names are" },
  { value: "sentence", label: "first letter large" },
  { value: "upper", label: "all large" },
  { value: "lower", label: "all small" },
];

/** What a step begins with when it is added. */
export function freshTransform(kind: TransformKind): Transform {
  switch (kind) {
    case "case":
      return { kind, style: "name" };
    case "split":
      return { kind, separator: ",", index: 0 };
    case "lookup":
      return { kind, table: {}, isStrict: false };
    case "extract":
      return { kind, pattern: ".*" };
  }
}

/** A lookup's table as lines: HR = Human resources. */
export function tableText(table: Readonly<Record<string, string>>) {
  return Object.entries(table)
    .map(([from, to]) => `${from} = ${to}`)
    .join("\n");
}

/** The table of such lines; a line without an equals sign is not one yet and is left out. */
export function readTable(text: string): Record<string, string> {
  return Object.fromEntries(
    text
      .split("\n")
      .map((line) => {
        const at = line.indexOf("=");
        const pair: [string, string] = at < 0 ? ["", ""] : [line.slice(0, at).trim(), line.slice(at + 1).trim()];
        return pair;
      })
      .filter(([from]) => from !== ""),
  );
}

type Mapping = Api["Mapping"];
type Row = Api["FieldMapping"];

/** How a field is read: in a way of its own, or from its standard attributes. */
export function rowOf(mapping: Mapping, field: Api["FieldAnswer"], standard: readonly string[]): Row {
  return (
    mapping.fields.find((row) => row.field === field.name) ?? {
      field: field.name,
      attributes: mapping.hasStandardFields ? [...standard] : [],
      joiner: null,
      transforms: [],
    }
  );
}

/** The mapping with a field read in another way. */
export function withRow(mapping: Mapping, row: Row): Mapping {
  return { ...mapping, fields: [...mapping.fields.filter((other) => other.field !== row.field), row] };
}

/** The mapping with a field read as usual again. */
export function withoutRow(mapping: Mapping, field: string): Mapping {
  return { ...mapping, fields: mapping.fields.filter((row) => row.field !== field) };
}

/** Names parted by commas. */
export function readNames(text: string) {
  return text
    .split(",")
    .map((name) => name.trim())
    .filter((name) => name !== "");
}

/** What entries hold in some attributes, without regard to case, at most three different values. */
export function seenValues(entries: readonly Api["SampleEntry"][], attributes: readonly string[]) {
  const wanted = attributes.map((attribute) => attribute.toLowerCase());
  const found = entries.flatMap((entry) =>
    entry.values.filter((value) => wanted.includes(value.attribute.toLowerCase())).map((value) => value.text),
  );
  return [...new Set(found)].slice(0, 3);
}

/** Every attribute that entries show, with how many have it, most filled first. */
export function seenAttributes(entries: readonly Api["SampleEntry"][]) {
  const counts = new Map<string, number>();
  for (const entry of entries)
    for (const attribute of new Set(entry.values.map((value) => value.attribute)))
      counts.set(attribute, (counts.get(attribute) ?? 0) + 1);
  return [...counts].sort(([, left], [, right]) => right - left).map(([name, people]) => ({ name, people }));
}
