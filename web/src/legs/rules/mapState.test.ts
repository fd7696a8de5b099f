import { expect, test } from "vitest";
import { squareShares, summary, withoutNumber } from "./mapState";
import type { RuleSet } from "./ruleState";

const names = {
  designs: [{ value: "f", label: "Full" }],
  disclaimers: [{ value: "n", label: "Notice" }],
  banners: [],
  audiences: [],
};
const rules: RuleSet = {
  signature: [
    { id: "1", isOn: true, conditions: [], then: { kind: "nothing" } },
    { id: "2", isOn: true, conditions: [], then: { kind: "designs", designs: ["f", "gone"] } },
  ],
  disclaimer: [{ id: "3", isOn: true, conditions: [], then: { kind: "stop" } }],
  banner: [],
  tests: [],
};

test("a square’s shares are told largest first, with those without a signature among them", () => {
  const square = { signature: [2, 40], disclaimer: [5], banner: [], holes: 7 };
  expect(squareShares(square, rules, "signature", names)).toEqual([
    { rule: 1, name: "Full, what is gone", kind: "design", accounts: 40 },
    { rule: -1, name: "No signature", kind: "hole", accounts: 7 },
    { rule: 0, name: "Nothing", kind: "nothing", accounts: 2 },
  ]);
});

test("holes belong to the signature track alone, and rules that win nothing are left out", () => {
  const square = { signature: [0, 0], disclaimer: [5], banner: [], holes: 7 };
  expect(squareShares(square, rules, "disclaimer", names)).toEqual([
    { rule: 0, name: "No further disclaimer", kind: "nothing", accounts: 5 },
  ]);
  expect(squareShares({ ...square, disclaimer: [0] }, rules, "disclaimer", names)).toEqual([]);
});

test("what a rule set comes to is said in a sentence", () => {
  expect(summary(262, 17, [{ code: "hole" }, { code: "dead" }, { code: "design-unused" }])).toBe(
    "17 rules decide for 262 accounts. One kind of message leaves without a signature. One rule never wins.",
  );
  expect(summary(1, 1, [])).toBe("1 rule decides for 1 account. No kind of message leaves without a decision.");
  expect(withoutNumber("Rule 12 never wins: rule 3 comes first in all its cases.")).toBe(
    "Never wins: rule 3 comes first in all its cases.",
  );
});
