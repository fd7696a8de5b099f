import { expect, test } from "vitest";
import { heightOf, middle, moved, widened } from "./cropState";

const wide = { width: 400, height: 100, ratio: 1 };
const tall = { width: 100, height: 400, ratio: 0.5 };

test("the middle is as large as fits in the shape it fills", () => {
  expect(middle(wide)).toEqual({ left: 375, top: 0, width: 250 });
  expect(middle(tall)).toEqual({ left: 0, top: 437, width: 1000 });
});

test("a part is moved no further than the picture's edges", () => {
  const crop = middle(wide);
  expect(moved(crop, wide, -1000, 50)).toEqual({ left: 0, top: 0, width: 250 });
  expect(moved(crop, wide, 1000, 0)).toEqual({ left: 750, top: 0, width: 250 });
});

test("a part is no wider than fits and no narrower than can be seen", () => {
  const crop = { left: 100, top: 100, width: 100 };
  expect(widened(crop, wide, 5000).width).toBe(250);
  expect(widened(crop, wide, -5000).width).toBe(20);
  const narrow = widened(crop, wide, -50);
  expect(narrow).toEqual({ left: 100, top: 100, width: 50 });
  expect(heightOf(narrow, wide)).toBe(200);
});

test("a part that grows over an edge is moved inwards", () => {
  const crop = moved({ left: 0, top: 0, width: 100 }, wide, 900, 600);
  expect(crop).toEqual({ left: 900, top: 600, width: 100 });
  expect(widened(crop, wide, 100)).toEqual({ left: 800, top: 200, width: 200 });
});
