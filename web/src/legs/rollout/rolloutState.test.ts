import { expect, test } from "vitest";
import {
  durationWords,
  newWave,
  peopleWords,
  reduceWaves,
  shareInPlace,
  shownState,
  startWords,
  toGoWords,
  type WavePlan,
} from "./rolloutState";

const everybody: WavePlan = { ...newWave(2), name: "Everybody", people: { kind: "everybody" } };
const counts = { waits: 0, onItsWay: 0, inPlace: 0, drifted: 0, failed: 0, silent: 0 };

test("a new wave comes before the one for everybody else", () => {
  const waves = reduceWaves([everybody], { kind: "add" });
  expect(waves.map((wave) => wave.name)).toEqual(["Pilots", "Everybody"]);
  expect(waves[0]?.people).toEqual({ kind: "share", percent: 10 });
});

test("waves are moved and taken out, and never over the edge", () => {
  const waves = reduceWaves([everybody], { kind: "add" });
  expect(reduceWaves(waves, { kind: "move", at: 1, by: -1 }).map((wave) => wave.name)).toEqual(["Everybody", "Pilots"]);
  expect(reduceWaves(waves, { kind: "move", at: 0, by: -1 })).toEqual(waves);
  expect(reduceWaves(waves, { kind: "remove", at: 0 })).toEqual([everybody]);
});

test("a share that is not all is never 100 percent", () => {
  expect(shareInPlace({ ...counts, inPlace: 999, silent: 1 })).toBe(99);
  expect(shareInPlace({ ...counts, inPlace: 3 })).toBe(100);
  expect(shareInPlace(counts)).toBe(100);
});

test("trouble is told before silence", () => {
  const client = { isSilent: true, state: "failed" } as Parameters<typeof shownState>[0];
  expect(shownState(client)).toBe("failed");
  expect(shownState({ ...client, state: "inPlace" })).toBe("silent");
  expect(shownState({ ...client, state: "inPlace", isSilent: false })).toBe("inPlace");
});

test("waves are said in words", () => {
  expect(peopleWords({ kind: "units", unit: "team", names: ["Clinical", "Office"] })).toBe("the team Clinical, Office");
  expect(peopleWords({ kind: "pilots", people: ["a", "b"] })).toBe("2 people picked by hand");
  expect(startWords({ kind: "after", minutes: 90 }, false)).toBe("1 h 30 min after the wave before it has passed");
  expect(startWords({ kind: "after", minutes: 90 }, true)).toBe("at once");
  expect([durationWords(1), durationWords(120), durationWords(2880)]).toEqual(["1 minute", "2 hours", "2 days"]);
  expect([toGoWords(3), toGoWords(600), toGoWords(7200)]).toEqual([
    "about 5 seconds to go",
    "about 10 minutes to go",
    "about 2 hours to go",
  ]);
});
