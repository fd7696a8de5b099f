import { expect, test } from "vitest";
import { keysOf } from "./commands";

const press = (
  key: string,
  code: string,
  held: Partial<Record<"altKey" | "ctrlKey" | "metaKey" | "shiftKey", boolean>> = {},
) => keysOf({ key, code, altKey: false, ctrlKey: false, metaKey: false, shiftKey: false, ...held });

test("a letter, a chord and a digit are written as the list of keys writes them", () => {
  expect(press("l", "KeyL")).toBe("L");
  expect(press("k", "KeyK", { ctrlKey: true })).toBe("Ctrl K");
  expect(press("Z", "KeyZ", { ctrlKey: true, shiftKey: true })).toBe("Ctrl Shift Z");
  expect(press("¡", "Digit1", { altKey: true })).toBe("Alt 1");
});

test("a question mark is itself, whatever must be held to type it", () => {
  expect(press("?", "Slash", { shiftKey: true })).toBe("?");
});
