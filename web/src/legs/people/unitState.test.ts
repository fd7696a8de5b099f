import { expect, it } from "vitest";
import { teamTree } from "./unitState";

it("puts teams under the team they are in", () => {
  const units = [
    { id: "1", name: "Night", parent: "2" },
    { id: "2", name: "Surgery", parent: null },
    { id: "3", name: "Reception", parent: "gone" },
  ];
  expect(teamTree(units).map(({ unit, depth }) => `${depth} ${unit.name}`)).toEqual([
    "0 Surgery",
    "1 Night",
    "0 Reception",
  ]);
});
