import { expect, test } from "vitest";
import { dateText, sizeText } from "./dates";

test("a date is written as the screens write dates", () => {
  expect(dateText("2026-11-24T12:00:00Z")).toBe("24 Nov 2026");
});

test("sizes are in bytes, then in thousands of them, then in millions", () => {
  expect([sizeText(0), sizeText(999), sizeText(1000), sizeText(2346), sizeText(999_950), sizeText(1_863_000)]).toEqual([
    "0 bytes",
    "999 bytes",
    "1.0 KB",
    "2.3 KB",
    "1.0 MB",
    "1.9 MB",
  ]);
});
