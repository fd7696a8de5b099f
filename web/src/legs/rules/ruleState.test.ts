import { expect, test } from "vitest";
import { occasionsOf, reduce, type RuleSet } from "./ruleState";

const rules: RuleSet = {
  signature: [
    { id: "a", isOn: true, conditions: [{ kind: "occasion", occasions: ["new"] }], design: "full" },
    { id: "b", isOn: true, conditions: [{ kind: "occasion", occasions: ["reply", "forward"] }], design: "short" },
    { id: "c", isOn: false, conditions: [], design: null },
  ],
};
const order = (set: RuleSet) => set.signature.map((rule) => rule.id).join("");

test("a rule is put in another place and the others keep their order", () => {
  expect(order(reduce(rules, { kind: "place", id: "c", at: 0 }))).toBe("cab");
  expect(order(reduce(rules, { kind: "place", id: "a", at: 2 }))).toBe("bca");
});

test("a rule cannot leave the track", () => {
  expect(reduce(rules, { kind: "place", id: "a", at: -1 })).toBe(rules);
  expect(reduce(rules, { kind: "place", id: "c", at: 3 })).toBe(rules);
});

test("switching touches one rule only", () => {
  const after = reduce(rules, { kind: "switch", id: "b", isOn: false });
  expect(after.signature.map((rule) => rule.isOn)).toEqual([true, false, false]);
  expect(rules.signature[1]?.isOn).toBe(true);
});

test("all occasions together are no condition, and the last one cannot be taken away", () => {
  const all = reduce(rules, { kind: "occasions", id: "a", occasions: ["forward", "new", "reply"] });
  expect(all.signature[0]?.conditions).toEqual([]);
  expect(reduce(rules, { kind: "occasions", id: "a", occasions: [] })).toBe(rules);
  const rule = rules.signature[2];
  expect(rule && occasionsOf(rule)).toEqual(["new", "reply", "forward"]);
});

test("a new rule stands last and says nothing; taking it out gives the rules as before", () => {
  const added = reduce(rules, { kind: "add", id: "d" });
  expect(added.signature.at(-1)).toEqual({ id: "d", isOn: true, conditions: [], design: null });
  expect(reduce(added, { kind: "take out", id: "d" })).toEqual(rules);
});
