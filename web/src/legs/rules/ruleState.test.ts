import { expect, test } from "vitest";
import {
  conditionKinds,
  isUnfinished,
  isUnsaid,
  newCondition,
  newRule,
  reduce,
  withCondition,
  withoutCondition,
  type RuleSet,
} from "./ruleState";

const rules: RuleSet = {
  signature: [
    { id: "a", isOn: true, conditions: [{ kind: "occasion", occasions: ["new"] }], then: { kind: "nothing" } },
    { id: "b", isOn: true, conditions: [], then: { kind: "designs", designs: ["short"] } },
    { id: "c", isOn: false, conditions: [], then: { kind: "nothing" } },
  ],
  disclaimer: [],
  banner: [],
  tests: [],
};
const order = (set: RuleSet) => set.signature.map((rule) => rule.id).join("");

test("a rule is put in another place and the others keep their order", () => {
  expect(order(reduce(rules, { kind: "place", track: "signature", id: "c", at: 0 }))).toBe("cab");
  expect(order(reduce(rules, { kind: "place", track: "signature", id: "a", at: 2 }))).toBe("bca");
});

test("a rule cannot leave the track", () => {
  expect(reduce(rules, { kind: "place", track: "signature", id: "a", at: -1 })).toBe(rules);
  expect(reduce(rules, { kind: "place", track: "signature", id: "c", at: 3 })).toBe(rules);
  expect(reduce(rules, { kind: "place", track: "banner", id: "c", at: 0 })).toBe(rules);
});

test("switching touches one rule only", () => {
  const after = reduce(rules, { kind: "switch", track: "signature", id: "b", isOn: false });
  expect(after.signature.map((rule) => rule.isOn)).toEqual([true, false, false]);
  expect(rules.signature[1]?.isOn).toBe(true);
});

test("a new rule stands where it is put and says nothing; taking it out gives the rules as before", () => {
  const rule = newRule("d", "signature", undefined);
  const added = reduce(rules, { kind: "add", track: "signature", rule, at: 0 });
  expect(order(added)).toBe("dabc");
  expect(reduce(added, { kind: "take out", track: "signature", id: "d" })).toEqual(rules);
});

test("a copy stands directly under what it was copied from", () => {
  const copied = reduce(rules, { kind: "copy", track: "signature", id: "a", as: "z" });
  expect(order(copied)).toBe("azbc");
  expect(copied.signature[1]?.conditions).toEqual(rules.signature[0]?.conditions);
});

test("a condition is replaced, added and taken out", () => {
  const [rule] = rules.signature;
  if (!rule) throw new Error("there is a first rule");
  const inside = { kind: "audience", audiences: ["inside"] } as const;
  expect(withCondition(rule, 0, { ...inside, audiences: ["inside"] }).conditions).toHaveLength(1);
  expect(withCondition(rule, -1, { ...inside, audiences: ["inside"] }).conditions).toHaveLength(2);
  expect(withoutCondition(rule, 0).conditions).toEqual([]);
});

test("what is not said yet is known, inside others too", () => {
  const unsaid = conditionKinds.map(({ kind }) => newCondition(kind, "UTC")).filter(isUnsaid);
  expect(unsaid.map((condition) => condition.kind)).toEqual(["unit", "group", "person", "address", "domain"]);
  expect(isUnsaid({ kind: "any", conditions: [{ kind: "group", groups: [] }] })).toBe(true);
  expect(isUnfinished(newRule("x", "banner", undefined))).toBe(true);
  expect(isUnfinished(newRule("x", "disclaimer", "one"))).toBe(false);
});

test("an expectation is added, changed and taken out", () => {
  const one = { id: "t", name: "one", conditions: [], designs: [] };
  const added = reduce(rules, { kind: "set test", test: one });
  expect(reduce(added, { kind: "set test", test: { ...one, name: "two" } }).tests.map((test) => test.name)).toEqual([
    "two",
  ]);
  expect(reduce(added, { kind: "take out test", id: "t" })).toEqual(rules);
});
