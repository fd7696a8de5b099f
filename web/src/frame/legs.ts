import type { Api } from "../api/client";

export type Leg = { path: string; name: string; key: string };

/** The six legs, in the order of the work. */
export const legs: readonly Leg[] = [
  { path: "/people", name: "People", key: "1" },
  { path: "/designs", name: "Designs", key: "2" },
  { path: "/rules", name: "Rules", key: "3" },
  { path: "/proof", name: "Proof", key: "4" },
  { path: "/rollout", name: "Rollout", key: "5" },
  { path: "/results", name: "Results", key: "6" },
];

type Line = Api["LineAnswer"];

/** "1 person", "2 people". */
export function count(number: number, one: string, many: string) {
  return `${number} ${number === 1 ? one : many}`;
}

/** The live figure under each leg's name. */
export function figures(line: Line): readonly string[] {
  return [
    line.people === 0 ? "nobody yet" : count(line.people, "person", "people"),
    designsFigure(line),
    rulesFigure(line),
    line.changes === 0
      ? line.latestEdition === 0
        ? "nothing yet"
        : "nothing waits"
      : count(line.changes, "change", "changes"),
    rolloutFigure(line),
    "not yet",
  ];
}

function designsFigure(line: Line) {
  if (line.designs === 0) return "none yet";
  if (line.latestEdition === 0) return `${line.designs} unpublished`;
  return line.editedDesigns > 0 ? `${line.designs}, ${line.editedDesigns} edited` : `${line.designs}`;
}

/** The rules, and what is wrong with them before what is only off. */
function rulesFigure(line: Line) {
  if (line.rules + line.rulesOff === 0) return "none yet";
  const wrong = [
    line.holes > 0 ? count(line.holes, "hole", "holes") : "",
    line.deadRules > 0 ? `${line.deadRules} dead` : "",
    line.failedTests > 0 ? `${line.failedTests} failing` : "",
  ].filter(Boolean);
  if (wrong.length > 0) return [`${line.rules}`, ...wrong].join(", ");
  return line.rulesOff > 0 ? `${line.rules} on, ${line.rulesOff} off` : `${line.rules} on`;
}

function rolloutFigure(line: Line) {
  if (line.rolledOutEdition === 0)
    return line.latestEdition === 0 ? "no edition" : `edition ${line.latestEdition} waits`;
  const share = line.clients === 0 ? "" : `, ${Math.floor((100 * line.inPlace) / line.clients)} %`;
  return `edition ${line.rolledOutEdition}${share}`;
}

/** For each leg, whether the joint before it is open: changes wait there. The first leg has no joint. */
export function openJoints(line: Line): readonly boolean[] {
  return [
    false,
    line.people === 0,
    line.editedDesigns > 0,
    line.changes > 0,
    line.latestEdition !== line.rolledOutEdition || line.changes > 0,
    line.rolledOutEdition === 0 || line.inPlace < line.clients,
  ];
}
