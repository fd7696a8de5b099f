import type { Api } from "../api/client";

const rule: Api["FieldRule"] = { isOpen: false, needsApproval: false, pattern: "", maxLength: 0, choices: [] };

/** A field of people, text unless said otherwise. */
export function aField(name: string, label: string, more: Partial<Api["FieldAnswer"]> = {}): Api["FieldAnswer"] {
  return {
    name,
    label,
    kind: "text",
    isCompanyMade: false,
    holders: ["person"],
    rule,
    display: "international",
    attributes: [name],
    isOfMailbox: false,
    profile: null,
    ...more,
  };
}

/** The rule of a field, not checked and closed unless said otherwise. */
export function aRule(more: Partial<Api["FieldRule"]> = {}): Api["FieldRule"] {
  return { ...rule, ...more };
}

/** How entries are read, by the standard fields unless said otherwise. */
export function aMapping(more: Partial<Api["Mapping"]> = {}): Api["Mapping"] {
  return { key: ["uid"], addresses: ["mail"], fields: [], hasStandardFields: true, columns: null, ...more };
}

/** A source of LDIF files with a hundred people. */
export function aSource(more: Partial<Api["SourceAnswer"]> = {}): Api["SourceAnswer"] {
  return {
    id: "s1",
    kind: "ldif",
    name: "Clinics",
    revision: 3,
    mapping: aMapping(),
    hasOwnMapping: false,
    brake: { leavingPercent: 5, emptiedPercent: 5, atLeast: 5 },
    joinBy: [],
    everyMinutes: null,
    hasSecret: false,
    people: 100,
    lastRun: null,
    ...more,
  };
}

/** A run of a file that waits to be applied and changes nobody yet. */
export function aRun(more: Partial<Api["SourceRun"]> = {}): Api["SourceRun"] {
  return {
    id: "r1",
    sourceId: "s1",
    sourceName: "Clinics",
    kind: "file",
    name: "people.ldif",
    state: "planned",
    listed: 100,
    unchanged: 100,
    otherEntries: 0,
    counts: { joining: 0, changing: 0, leaving: 0, returning: 0, known: 0 },
    problems: [],
    refused: [],
    refusedCount: 0,
    brake: [],
    collisions: [],
    isStale: false,
    mayUndo: false,
    startedBy: "Ines Albrecht",
    startedAt: "2026-11-02T09:00:00Z",
    appliedBy: null,
    appliedAt: null,
    ...more,
  };
}

/** A run with whom it touches. */
export function aPlan(run: Partial<Api["SourceRun"]>, more: Partial<Api["RunAnswer"]> = {}): Api["RunAnswer"] {
  return { run: aRun(run), mayApply: true, renamed: 0, joining: [], changing: [], leaving: [], ...more };
}

/** Somebody a run touches. */
export function aPlanned(name: string, more: Partial<Api["PlannedPerson"]> = {}): Api["PlannedPerson"] {
  const address = `${name.toLowerCase().replace(" ", ".")}@brackenfold.example`;
  return { personId: name, name, address, line: 0, isReturning: false, isKnown: false, changes: [], ...more };
}

/** A fact of a person, from the directory unless said otherwise. */
export function aFact(
  name: string,
  label: string,
  text: string,
  more: Partial<Api["PersonField"]> = {},
): Api["PersonField"] {
  return {
    name,
    label,
    kind: "text",
    text,
    stored: text,
    origin: "source",
    recordName: "Clinics",
    doubt: "",
    isOpen: false,
    layers: [{ layer: "source", record: "s1", recordName: "Clinics", stored: text, isWinner: true }],
    ...more,
  };
}

/** Somebody with one account and a title. */
export function aPerson(more: Partial<Api["PersonAnswer"]> = {}): Api["PersonAnswer"] {
  return {
    id: "p1",
    name: "Maren Holtkamp",
    isRetired: false,
    isRetiredByHand: false,
    address: "maren.holtkamp@brackenfold.example",
    accounts: [{ id: "a1", address: "maren.holtkamp@brackenfold.example", kind: "own", overridden: [] }],
    entries: [
      { source: "s1", sourceName: "Clinics", key: "mh", distinguishedName: "uid=mh,dc=brackenfold,dc=example" },
    ],
    fields: [aFact("title", "Title", "Veterinary surgeon")],
    lacks: [],
    ...more,
  };
}
