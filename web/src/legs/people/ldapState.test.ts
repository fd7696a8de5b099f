import { expect, it } from "vitest";
import { scheduleWord, scheduleWords, usualPort } from "./ldapState";

it("says how often a source is asked, and keeps an unusual schedule among the usual ones", () => {
  expect([0, 15, 60, 240, 1440, 90].map(scheduleWord)).toEqual([
    "only by hand",
    "every 15 minutes",
    "every hour",
    "every 4 hours",
    "every day",
    "every 90 minutes",
  ]);
  expect(scheduleWords("90").map((word) => word.value)).toContain("90");
  expect(scheduleWords("60")).toHaveLength(5);
});

it("knows the usual ports", () => {
  expect([usualPort("ldaps"), usualPort("startTls"), usualPort("none")]).toEqual([636, 389, 389]);
});
