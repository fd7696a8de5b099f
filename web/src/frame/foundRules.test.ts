import { expect, test } from "vitest";
import { foundRules } from "./foundRules";

const row = (id: string, text: string, more: { name?: string; tags?: string[]; note?: string } = {}) => ({
  rule: { id, isOn: true, conditions: [], then: { kind: "nothing" as const }, ...more },
  sentence: [{ role: "plain" as const, text, condition: -1 }],
});
const rules = {
  signature: [row("a", "Every message carries Full."), row("b", "A reply carries Short.", { tags: ["Answers"] })],
  disclaimer: [row("c", "Every message adds Notice.", { note: "asked for by legal" })],
  banner: [],
};

test("rules are found by their sentence, name, tags and note, with their track and number", () => {
  expect(foundRules(rules, "full").map((found) => found.hint)).toEqual(["signature rule 1"]);
  expect(foundRules(rules, "answers").map((found) => found.id)).toEqual(["b"]);
  expect(foundRules(rules, "legal").map((found) => found.track)).toEqual(["disclaimer"]);
  expect(foundRules(rules, "nothing like it")).toEqual([]);
  expect(foundRules(undefined, "full")).toEqual([]);
});
