import { expect, test } from "vitest";
import { freeName, weeksOf } from "./disclaimerState";

test("a name that is taken gets a number", () => {
  expect(freeName("New banner", [])).toBe("New banner");
  expect(freeName("New banner", ["New banner", "New banner 2"])).toBe("New banner 3");
});

test("a month is shown in whole weeks from Monday", () => {
  const november = weeksOf(2026, 11);
  expect(november).toHaveLength(6);
  expect(november[0]).toEqual([null, null, null, null, null, null, "2026-11-01"]);
  expect(november[5]).toEqual(["2026-11-30", null, null, null, null, null, null]);
  expect(weeksOf(2027, 2)).toHaveLength(4);
});
