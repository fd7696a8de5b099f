import type { Api } from "../../api/client";
import type { Transform } from "./transformState";

type Mapping = Api["Mapping"];

/** A field's name, "addresses", or "" for a column that is not used. */
export type TableField = string;

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

/** Steps a column's values go through. */
export function transformsOf(mapping: Mapping, column: string): readonly Transform[] {
  return mapping.fields.find((field) => field.joiner === null && field.attributes.includes(column))?.transforms ?? [];
}

/** Sets a column's steps. The joined name is written as its parts are. */
export function setTransforms(mapping: Mapping, column: string, transforms: Transform[]): Mapping {
  return joinName({
    ...mapping,
    fields: mapping.fields.map((field) =>
      field.joiner === null && field.attributes.includes(column) ? { ...field, transforms } : field,
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
