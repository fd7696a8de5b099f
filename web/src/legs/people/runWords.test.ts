import { expect, it } from "vitest";
import { countsText } from "./runWords";

it("says only what a run changes", () => {
  expect(countsText({ joining: 2, returning: 1, changing: 0, leaving: 4, known: 0 })).toBe("3 join, 4 leave");
  expect(countsText({ joining: 0, returning: 0, changing: 0, leaving: 0, known: 0 })).toBe("nothing");
});
