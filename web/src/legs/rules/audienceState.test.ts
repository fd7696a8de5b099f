import { expect, test } from "vitest";
import { addMembers, newAudience } from "./audienceState";

test("a new audience has a key and a name of its own", () => {
  const first = newAudience({ ownDomains: [], withSubdomains: true, named: [] });
  const second = newAudience({ ownDomains: [], withSubdomains: true, named: [first] });
  expect([first.key, second.key]).toEqual(["new-audience", "new-audience-2"]);
  expect(first.name).not.toBe(second.name);
});

test("members are added once, in small letters", () => {
  expect(addMembers(["a.example"], ["A.example", " b.example ", ""])).toEqual(["a.example", "b.example"]);
});
