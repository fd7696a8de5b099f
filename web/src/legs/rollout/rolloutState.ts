import type { Api } from "../../api/client";
import { count } from "../../frame/legs";
import { momentText } from "../../kit/dates";
import type { ShownState } from "../../kit/StateBar";

export type WavePlan = Api["WavePlan"];
export type WavePeople = WavePlan["people"];
export type WaveStart = WavePlan["start"];
export type Counts = Api["WaveCounts"];

/** All clients of a count. */
export function total(counts: Counts) {
  return counts.inPlace + counts.onItsWay + counts.waits + counts.drifted + counts.failed + counts.silent;
}

/** The share that is in place, in whole percent; a share that is not all is never 100. */
export function shareInPlace(counts: Counts) {
  return total(counts) === 0 ? 100 : Math.floor((100 * counts.inPlace) / total(counts));
}

/** Where a client stands, as it is shown: trouble is told before silence. */
export function shownState(client: Api["ClientStanding"]): ShownState {
  return client.isSilent && client.state !== "failed" && client.state !== "drifted" ? "silent" : client.state;
}

const unitWords = { company: "company", team: "team", office: "office", entity: "legal entity" } as const;

/** Whom a wave is for, in words. */
export function peopleWords(people: WavePeople): string {
  switch (people.kind) {
    case "everybody":
      return "everybody no earlier wave is for";
    case "pilots":
      return `${count(people.people.length, "person", "people")} picked by hand`;
    case "units":
      return `the ${unitWords[people.unit]} ${people.names.join(", ") || "…"}`;
    case "share":
      return `${people.percent} % of everybody, always the same ones`;
    case "found":
      return `those a search for “${people.search}” finds`;
  }
}

/** When a wave begins, in words. */
export function startWords(start: WaveStart, isFirst: boolean): string {
  switch (start.kind) {
    case "atOnce":
      return isFirst ? "at once" : "as soon as the wave before it has passed";
    case "at":
      return `not before ${momentText(start.at)}`;
    case "after":
      return isFirst ? "at once" : `${durationWords(start.minutes)} after the wave before it has passed`;
  }
}

/** When the next wave may begin, in words. */
export function gateWords(gate: WavePlan["gate"]) {
  const within = gate.withinMinutes ? ` within ${durationWords(gate.withinMinutes)}` : "";
  return `passes when at least ${gate.leastInPlace} % are in place${within}; pauses when more than ${gate.mostTrouble} % have failed or drifted`;
}

/** 90 minutes as "1 h 30 min". */
export function durationWords(minutes: number) {
  if (minutes < 60) return count(minutes, "minute", "minutes");
  const hours = Math.floor(minutes / 60);
  if (hours < 48) return minutes % 60 === 0 ? count(hours, "hour", "hours") : `${hours} h ${minutes % 60} min`;
  return `${Math.round(hours / 24)} days`;
}

/** Seconds to go, roughly, as people say it. */
export function toGoWords(seconds: number) {
  if (seconds < 90) return `about ${Math.max(5, Math.round(seconds / 5) * 5)} seconds to go`;
  if (seconds < 5400) return `about ${Math.round(seconds / 60)} minutes to go`;
  return `about ${Math.round(seconds / 3600)} hours to go`;
}

/** A wave as it is offered to be filled in. */
export function newWave(number: number): WavePlan {
  return {
    name: number === 1 ? "Pilots" : `Wave ${number}`,
    people: number === 1 ? { kind: "share", percent: 10 } : { kind: "everybody" },
    start: { kind: "atOnce" },
    gate: { mostTrouble: 5, leastInPlace: 90, withinMinutes: 0 },
  };
}

export type WaveAct =
  | { kind: "add" }
  | { kind: "set"; at: number; wave: WavePlan }
  | { kind: "remove"; at: number }
  | { kind: "move"; at: number; by: -1 | 1 };

/** The waves after an act. A new one comes before the one for everybody else, which would leave it nobody. */
export function reduceWaves(waves: readonly WavePlan[], act: WaveAct): WavePlan[] {
  switch (act.kind) {
    case "add": {
      const last = waves[waves.length - 1];
      const fresh = newWave(waves.length + 1);
      if (last?.people.kind !== "everybody") return [...waves, fresh];
      const before = { ...newWave(1), name: waves.length === 1 ? "Pilots" : `Wave ${waves.length}` };
      return [...waves.slice(0, -1), before, last];
    }
    case "set":
      return waves.map((wave, at) => (at === act.at ? act.wave : wave));
    case "remove":
      return waves.filter((_, at) => at !== act.at);
    case "move": {
      const to = act.at + act.by;
      const moved = waves[act.at];
      if (!moved || to < 0 || to >= waves.length) return [...waves];
      const rest = waves.filter((_, at) => at !== act.at);
      return [...rest.slice(0, to), moved, ...rest.slice(to)];
    }
  }
}
