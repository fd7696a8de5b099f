import { expect, test } from "vitest";
import { ifMatch, problemOf, ProblemError, take } from "./client";

test("a problem keeps what happened, where, and what to do next", () => {
  const problem = problemOf(422, {
    code: "invalid",
    title: "The design has faults.",
    detail: "Mend the places named.",
    errors: [{ pointer: "/name", line: 0, code: "name-length", message: "A name is needed." }],
  });
  expect([problem.status, problem.code, problem.title]).toEqual([422, "invalid", "The design has faults."]);
  expect(problem.faults[0]?.pointer).toBe("/name");
});

test("an answer that is no problem at all still says something useful", () => {
  for (const body of [undefined, null, "Bad Gateway", 5])
    expect(problemOf(502, body).title).toMatch(/no useful answer/);
});

test("a refused answer is thrown as its problem", async () => {
  const call = Promise.resolve({ error: { code: "lost-update" }, response: new Response(null, { status: 412 }) });
  await expect(take(call)).rejects.toMatchObject({ status: 412, code: "lost-update" });
});

test("a server that is away is said to be, and nothing is lost", async () => {
  await expect(take(Promise.reject(new TypeError("fetch failed")))).rejects.toMatchObject({ code: "unreachable" });
  expect(new ProblemError(0, "a", "What.", "Next.", []).message).toBe("What. Next.");
});

test("a change names the revision it was made on as a strong ETag", () => {
  expect(ifMatch(7)).toEqual({ headers: { "If-Match": '"7"' } });
});
