import type { Api } from "../../api/client";

export type RuleSet = Api["RuleSet"];
export type Rule = Api["Rule"];
export type Occasion = Api["Occasion"];

/** Every occasion, in the order they are read. */
export const allOccasions: readonly Occasion[] = ["new", "reply", "forward"];

/** One thing an administrator does to the rules. */
export type RuleAction =
  | { kind: "place"; id: string; at: number }
  | { kind: "switch"; id: string; isOn: boolean }
  | { kind: "occasions"; id: string; occasions: readonly Occasion[] }
  | { kind: "design"; id: string; design: string | null }
  | { kind: "add"; id: string }
  | { kind: "take out"; id: string };

/** The rules after the action; an action that changes nothing gives the same object. */
export function reduce(rules: RuleSet, action: RuleAction): RuleSet {
  const change = (apply: (rule: Rule) => Rule): RuleSet => ({
    signature: rules.signature.map((rule) => (rule.id === action.id ? apply(rule) : rule)),
  });
  switch (action.kind) {
    case "place":
      return place(rules, action.id, action.at);
    case "switch":
      return change((rule) => ({ ...rule, isOn: action.isOn }));
    case "occasions":
      // A rule without any occasion could never match: the last one stays.
      return action.occasions.length === 0
        ? rules
        : change((rule) => ({ ...rule, conditions: conditionsFor(action.occasions) }));
    case "design":
      return change((rule) => ({ ...rule, design: action.design }));
    case "add":
      return { signature: [...rules.signature, { id: action.id, isOn: true, conditions: [], design: null }] };
    case "take out":
      return { signature: rules.signature.filter((rule) => rule.id !== action.id) };
  }
}

/** The occasions a rule covers; without a condition, all. */
export function occasionsOf(rule: Rule): readonly Occasion[] {
  return rule.conditions[0]?.occasions ?? allOccasions;
}

function conditionsFor(occasions: readonly Occasion[]): Rule["conditions"] {
  const ordered = allOccasions.filter((occasion) => occasions.includes(occasion));
  return ordered.length === allOccasions.length ? [] : [{ kind: "occasion", occasions: ordered }];
}

function place(rules: RuleSet, id: string, at: number): RuleSet {
  const from = rules.signature.findIndex((rule) => rule.id === id);
  const rule = rules.signature[from];
  if (!rule || at === from || at < 0 || at >= rules.signature.length) return rules;
  const rest = rules.signature.filter((candidate) => candidate.id !== id);
  return { signature: [...rest.slice(0, at), rule, ...rest.slice(at)] };
}
