import { expect, test } from "vitest";
import type { Api } from "../api/client";
import { figures, openJoints } from "./legs";

const quiet: Api["LineAnswer"] = {
  people: 238,
  designs: 2,
  editedDesigns: 0,
  rules: 2,
  rulesOff: 0,
  holes: 0,
  deadRules: 0,
  failedTests: 0,
  ruleChanges: 0,
  changes: 0,
  latestEdition: 7,
  rolledOutEdition: 7,
  clients: 20,
  inPlace: 20,
};

test("when all is in place every joint is closed", () => {
  expect(openJoints(quiet)).toEqual([false, false, false, false, false, false]);
  expect(figures(quiet)).toEqual(["238 people", "2", "2 on", "nothing waits", "edition 7, 100 %", "not yet"]);
});

test("an edited design waits before the rules and before everything after them", () => {
  const line = { ...quiet, editedDesigns: 1, changes: 3 };
  expect(openJoints(line)).toEqual([false, false, true, true, true, false]);
  expect(figures(line)[1]).toBe("2, 1 edited");
});

test("a published edition waits before the rollout", () => {
  const line = { ...quiet, latestEdition: 8 };
  expect(openJoints(line)).toEqual([false, false, false, false, true, false]);
});

test("a share is never rounded up to all of it", () => {
  expect(figures({ ...quiet, clients: 1000, inPlace: 999 })[4]).toBe("edition 7, 99 %");
});
