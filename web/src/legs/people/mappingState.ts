import type { Api } from "../../api/client";

type Mapping = Api["Mapping"];
type Transform = Api["FieldMapping"]["transforms"][number];

/** A field's name, "addresses", or "" for a column that is not used. */
export type TableField = string;

export type Case = "asItIs" | "name" | "sentence" | "upper" | "lower";

export const caseWords: readonly { value: Case; label: string }[] = [
  { value: "asItIs", label: "as it is" },
  { value: "name", label: "as names are" },
  { value: "sentence", label: "first letter large" },
  { value: "upper", label: "all large" },
  { value: "lower", label: "all small" },
];

const joinedName = "displayName";

/** What a column is. A column that is only a part of the joined name counts for its own field. */
export function fieldOf(mapping: Mapping, column: string): TableField {
  if (mapping.addresses.includes(column)) return "addresses";
  return mapping.fields.find((field) => field.joiner === null && field.attributes.includes(column))?.field ?? "";
}

/** Makes a column another field; whatever was that field before is not used. The name follows from given name and surname while no column is the name. */
export function setField(mapping: Mapping, column: string, field: TableField): Mapping {
  const others = mapping.fields.filter(
    (other) => other.joiner === null && other.field !== field && !other.attributes.includes(column),
  );
  const addresses = mapping.addresses.filter((other) => other !== column);
  const next: Mapping = {
    ...mapping,
    addresses: field === "addresses" ? [column] : addresses,
    fields:
      field === "" || field === "addresses"
        ? others
        : [...others, { field, attributes: [column], joiner: null, transforms: [] }],
  };
  return joinName({ ...next, key: next.key.length > 0 ? next.key : next.addresses });
}

/** Says by which column people are known again. */
export function setKey(mapping: Mapping, column: string): Mapping {
  return { ...mapping, key: column === "" ? [] : [column] };
}

/** How a column's case is set. */
export function caseOf(mapping: Mapping, column: string): Case {
  const transforms =
    mapping.fields.find((field) => field.joiner === null && field.attributes.includes(column))?.transforms ?? [];
  return transforms.flatMap((transform) => (transform.kind === "case" ? [transform.style] : []))[0] ?? "asItIs";
}

/** Sets a column's case; other transforms stay. The joined name is written as its parts are. */
export function setCase(mapping: Mapping, column: string, style: Case): Mapping {
  const own: Transform[] = style === "asItIs" ? [] : [{ kind: "case", style }];
  return joinName({
    ...mapping,
    fields: mapping.fields.map((field) =>
      field.joiner === null && field.attributes.includes(column)
        ? { ...field, transforms: [...field.transforms.filter((transform) => transform.kind !== "case"), ...own] }
        : field,
    ),
  });
}

/** True when somebody could be made of a row: there is a name and something to know people by. */
export function isUsable(mapping: Mapping) {
  return mapping.key.length > 0 && mapping.fields.some((field) => field.field === joinedName);
}

function joinName(mapping: Mapping): Mapping {
  const fields = mapping.fields.filter((field) => field.joiner === null);
  if (fields.some((field) => field.field === joinedName)) return { ...mapping, fields };
  const parts = ["givenName", "surname"].map((name) => fields.find((field) => field.field === name));
  const [given, surname] = parts;
  if (!given || !surname) return { ...mapping, fields };
  return {
    ...mapping,
    fields: [
      {
        field: joinedName,
        attributes: [...given.attributes, ...surname.attributes],
        joiner: " ",
        transforms: surname.transforms,
      },
      ...fields,
    ],
  };
}
