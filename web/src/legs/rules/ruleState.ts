import type { Api } from "../../api/client";

export type RuleSet = Required<Api["RuleSet"]>;
export type Rule = Api["Rule"];
export type RuleTest = Api["RuleTest"];
export type Condition = Api["Condition"];
export type Outcome = Api["Outcome"];
export type Occasion = Api["Occasion"];

/** Where rules run, in the order they are shown. */
export const tracks = ["signature", "disclaimer", "banner"] as const;
export type Track = (typeof tracks)[number];

/** Every occasion, in the order they are read. */
export const allOccasions: readonly Occasion[] = ["new", "reply", "forward"];

/** One thing an administrator does to the rules. */
export type RuleAction =
  | { kind: "place"; track: Track; id: string; at: number }
  | { kind: "switch"; track: Track; id: string; isOn: boolean }
  | { kind: "set"; track: Track; rule: Rule }
  | { kind: "add"; track: Track; rule: Rule; at?: number }
  | { kind: "copy"; track: Track; id: string; as: string }
  | { kind: "take out"; track: Track; id: string }
  | { kind: "set test"; test: RuleTest }
  | { kind: "take out test"; id: string };

/** The rules after the action; an action that changes nothing gives the same object. */
export function reduce(rules: RuleSet, action: RuleAction): RuleSet {
  switch (action.kind) {
    case "place":
      return place(rules, action.track, action.id, action.at);
    case "switch":
      return withRule(rules, action.track, action.id, (rule) => ({ ...rule, isOn: action.isOn }));
    case "set":
      return withRule(rules, action.track, action.rule.id, () => action.rule);
    case "add": {
      const at = action.at ?? rules[action.track].length;
      return { ...rules, [action.track]: rules[action.track].toSpliced(at, 0, action.rule) };
    }
    case "copy": {
      const at = rules[action.track].findIndex((rule) => rule.id === action.id);
      const rule = rules[action.track][at];
      return rule
        ? { ...rules, [action.track]: rules[action.track].toSpliced(at + 1, 0, { ...rule, id: action.as }) }
        : rules;
    }
    case "take out":
      return { ...rules, [action.track]: rules[action.track].filter((rule) => rule.id !== action.id) };
    case "set test":
      return rules.tests.some((test) => test.id === action.test.id)
        ? { ...rules, tests: rules.tests.map((test) => (test.id === action.test.id ? action.test : test)) }
        : { ...rules, tests: [...rules.tests, action.test] };
    case "take out test":
      return { ...rules, tests: rules.tests.filter((test) => test.id !== action.id) };
  }
}

/** A new rule of a track: every message, and the first thing that could follow. */
export function newRule(id: string, track: Track, first: string | undefined): Rule {
  return { id, isOn: true, conditions: [], then: firstOutcome(track, first) };
}

function firstOutcome(track: Track, first: string | undefined): Outcome {
  switch (track) {
    case "signature":
      return { kind: "nothing" };
    case "disclaimer":
      return first ? { kind: "disclaimers", disclaimers: [first] } : { kind: "stop" };
    case "banner":
      return { kind: "banner", banner: first ?? "", link: "" };
  }
}

/** A rule with one of its conditions replaced, or added at the end. */
export function withCondition(rule: Rule, at: number, condition: Condition): Rule {
  return at >= 0 && at < rule.conditions.length
    ? { ...rule, conditions: rule.conditions.with(at, condition) }
    : { ...rule, conditions: [...rule.conditions, condition] };
}

/** A rule without one of its conditions. */
export function withoutCondition(rule: Rule, at: number): Rule {
  return { ...rule, conditions: rule.conditions.toSpliced(at, 1) };
}

/** The kinds of condition that can be added, with what they ask about. */
export const conditionKinds = [
  { kind: "occasion", label: "the kind of message" },
  { kind: "audience", label: "who reads" },
  { kind: "client", label: "the client kind" },
  { kind: "unit", label: "office, team or legal entity" },
  { kind: "value", label: "a field of the person" },
  { kind: "group", label: "a group" },
  { kind: "person", label: "people picked by hand" },
  { kind: "account", label: "the kind of account" },
  { kind: "address", label: "the address" },
  { kind: "domain", label: "the address’s domain" },
  { kind: "time", label: "the time" },
  { kind: "any", label: "any of several" },
  { kind: "all", label: "all of several" },
  { kind: "none", label: "none of several" },
] as const satisfies readonly { kind: Condition["kind"]; label: string }[];

/** A condition to begin with. zone: the time zone of whoever writes it. */
export function newCondition(kind: Condition["kind"], zone: string): Condition {
  switch (kind) {
    case "occasion":
      return { kind, occasions: ["new"] };
    case "audience":
      return { kind, audiences: ["outside"] };
    case "client":
      return { kind, clients: ["desk-app"] };
    case "unit":
      return { kind, unit: "office", names: [], withParts: false };
    case "value":
      return { kind, field: "title", test: "present", values: [] };
    case "group":
      return { kind, groups: [] };
    case "person":
      return { kind, people: [] };
    case "account":
      return { kind, kinds: ["shared"] };
    case "address":
      return { kind, addresses: [] };
    case "domain":
      return { kind, domains: [], withParts: false };
    case "time":
      return { kind, zone };
    case "any":
    case "all":
    case "none":
      return { kind, conditions: [newCondition("occasion", zone)] };
  }
}

/** True when a condition says nothing yet, so that it could never hold: it is tried and kept once it does. */
export function isUnsaid(condition: Condition): boolean {
  switch (condition.kind) {
    case "occasion":
      return condition.occasions.length === 0;
    case "audience":
      return condition.audiences.length === 0;
    case "client":
      return condition.clients.length === 0;
    case "unit":
      return condition.names.length === 0;
    case "value":
      return condition.test !== "present" && condition.values.length === 0;
    case "group":
      return condition.groups.length === 0;
    case "person":
      return condition.people.length === 0;
    case "account":
      return condition.kinds.length === 0;
    case "address":
      return condition.addresses.length === 0;
    case "domain":
      return condition.domains.length === 0;
    case "time":
      return false;
    case "any":
    case "all":
    case "none":
      return condition.conditions.length === 0 || condition.conditions.some(isUnsaid);
  }
}

/** True when something of a rule is not said yet. */
export function isUnfinished(rule: Rule): boolean {
  if (rule.conditions.some(isUnsaid)) return true;
  switch (rule.then.kind) {
    case "designs":
      return rule.then.designs.length === 0;
    case "disclaimers":
      return rule.then.disclaimers.length === 0;
    case "banner":
      return rule.then.banner === "";
    default:
      return false;
  }
}

function withRule(rules: RuleSet, track: Track, id: string, apply: (rule: Rule) => Rule): RuleSet {
  return { ...rules, [track]: rules[track].map((rule) => (rule.id === id ? apply(rule) : rule)) };
}

function place(rules: RuleSet, track: Track, id: string, at: number): RuleSet {
  const list = rules[track];
  const from = list.findIndex((rule) => rule.id === id);
  const rule = list[from];
  if (!rule || at === from || at < 0 || at >= list.length) return rules;
  return { ...rules, [track]: list.filter((candidate) => candidate.id !== id).toSpliced(at, 0, rule) };
}
