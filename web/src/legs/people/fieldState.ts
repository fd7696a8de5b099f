import type { Api } from "../../api/client";

type FieldSet = Api["FieldSet"];

/** What is filled in to make a field. */
export type NewField = {
  label: string;
  kind: Api["FieldKind"];
  choices: string;
  attribute: string;
  holders: readonly Api["FieldHolder"][];
  profile: Api["ProfileKind"];
};

export const kindWords: Record<Api["FieldKind"], string> = {
  text: "text",
  phone: "telephone",
  mail: "mail address",
  web: "web address",
  date: "day",
  choice: "one of a list",
  picture: "picture",
};

/** What a profile link leads to, in the words of a list. */
export const profileWords: Record<NonNullable<Api["ProfileKind"]>, string> = {
  web: "a page or site",
  video: "films",
  photos: "pictures",
  posts: "short posts",
  profession: "a professional profile",
  code: "source code",
  podcast: "a podcast",
  booking: "a calendar to book a time",
  map: "a place on a map",
  chat: "a chat",
};

export const holderWords: Record<Api["FieldHolder"], string> = {
  person: "person",
  team: "team",
  office: "office",
  entity: "legal entity",
  company: "company",
};

export const displayWords: readonly { value: Api["PhoneDisplay"]; label: string }[] = [
  { value: "international", label: "internationally" },
  { value: "nationalAtHome", label: "as at home, for readers there" },
  { value: "asTyped", label: "as typed in the source" },
];

/** A stable name from a label: "Licence no. (vet)" becomes licenceNoVet. */
export function fieldName(label: string) {
  const words = label
    .normalize("NFD")
    .replace(/[\u0300-\u036f]/g, "")
    .replace(/[^A-Za-z0-9 ]/g, " ")
    .trim()
    .split(/\s+/)
    .filter((word) => word !== "");
  const name = words
    .map((word, index) =>
      index === 0 ? word.toLowerCase() : word.charAt(0).toUpperCase() + word.slice(1).toLowerCase(),
    )
    .join("")
    .slice(0, 40);
  return /^[a-z]/.test(name) ? name : `field${name}`;
}

/** The field set with one more field. */
export function addField(set: FieldSet, field: NewField): FieldSet {
  const choices = field.choices
    .split(",")
    .map((choice) => choice.trim())
    .filter((choice) => choice !== "");
  return {
    ...set,
    own: [
      ...set.own,
      {
        name: fieldName(field.label),
        label: field.label.trim(),
        kind: field.kind,
        attributes: field.attribute.trim() === "" ? [] : [field.attribute.trim()],
        holders: [...field.holders],
        rule: {
          isOpen: false,
          needsApproval: false,
          pattern: "",
          maxLength: 0,
          choices: field.kind === "choice" ? choices : [],
        },
        display: "international",
        isRetired: false,
        profile: field.kind === "web" ? field.profile : null,
      },
    ],
  };
}

/** What employees may do with a field. */
export type EmployeeWay = "fixed" | "set" | "ask";

export const employeeWords: readonly { value: EmployeeWay; label: string }[] = [
  { value: "fixed", label: "fixed" },
  { value: "set", label: "may set it" },
  { value: "ask", label: "may ask for it" },
];

/** What employees may do with a field now. */
export function employeeWay(field: Api["FieldAnswer"]): EmployeeWay {
  return !field.rule.isOpen ? "fixed" : field.rule.needsApproval ? "ask" : "set";
}

/** The field set with a field opened to employees in some way, or closed. */
export function setEmployeeWay(set: FieldSet, field: Api["FieldAnswer"], way: EmployeeWay): FieldSet {
  const rule = { ...field.rule, isOpen: way !== "fixed", needsApproval: way === "ask" };
  return withSetting(set, field, { rule, display: field.display });
}

/** The field set with a telephone field shown in another way. */
export function setDisplay(set: FieldSet, field: Api["FieldAnswer"], display: Api["PhoneDisplay"]): FieldSet {
  return withSetting(set, field, { rule: field.rule, display });
}

function withSetting(set: FieldSet, field: Api["FieldAnswer"], setting: Api["StandardFieldSetting"]): FieldSet {
  return field.isCompanyMade
    ? { ...set, own: set.own.map((own) => (own.name === field.name ? { ...own, ...setting } : own)) }
    : { ...set, standard: { ...set.standard, [field.name]: setting } };
}

/** What is typed of a field's check. */
export type CheckDraft = { maxLength: string; pattern: string; choices: string };

/** The check in few words. */
export function checkText(rule: Api["FieldRule"]) {
  const said = [
    rule.maxLength > 0 && `at most ${rule.maxLength}`,
    rule.pattern !== "" && `like ${rule.pattern}`,
    rule.choices.length > 0 && `one of ${rule.choices.join(", ")}`,
  ].filter((part) => part !== false);
  return said.length === 0 ? "not checked further" : said.join(", ");
}

/** The rule with the check that was typed. */
export function ruleOf(rule: Api["FieldRule"], draft: CheckDraft): Api["FieldRule"] {
  return {
    ...rule,
    maxLength: Number(draft.maxLength) || 0,
    pattern: draft.pattern.trim(),
    choices: draft.choices
      .split(",")
      .map((choice) => choice.trim())
      .filter((choice) => choice !== ""),
  };
}

/** The field set with another check for a field. */
export function setRule(set: FieldSet, field: Api["FieldAnswer"], rule: Api["FieldRule"]): FieldSet {
  return withSetting(set, field, { rule, display: field.display });
}
