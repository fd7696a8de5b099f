import { screen, within } from "@testing-library/react";
import { Route, Routes } from "react-router";
import { beforeEach, describe, expect, it } from "vitest";
import type { Api } from "../../api/client";
import { aPlan, aPlanned } from "../../testing/builders";
import { arrive, press, show, trouble } from "../../testing/stage";
import { changes, Refusal, serve, timesAsked } from "../../testing/standInServer";
import { RunPage } from "./RunPage";

function showRun(plan: Api["RunAnswer"]) {
  serve({ "GET /api/runs/r1": plan });
  return show(
    <Routes>
      <Route path="/people/runs/:id" element={<RunPage />} />
      <Route path="*" element={null} />
    </Routes>,
    "/people/runs/r1",
  );
}

const counts = { joining: 2, changing: 1, leaving: 1, returning: 0, known: 0 };

describe("a run that waits", () => {
  beforeEach(() => serve({ "POST /api/runs/r1/apply": "", "POST /api/runs/r1/put-away": "" }));

  it("says whom it touches and how, and that there are more than it names", async () => {
    showRun(
      aPlan(
        { counts, unchanged: 97 },
        {
          joining: [aPlanned("Ana Brook", { line: 12 })],
          changing: [aPlanned("Jon Vale", { changes: [{ field: "Title", before: "Vet", after: "Head vet" }] })],
          leaving: [aPlanned("Eva Lind")],
        },
      ),
    );
    expect(await screen.findByText("2 join, 1 change, 1 leave, 97 stay as they are.")).toBeTruthy();
    const joining = screen.getByRole("region", { name: "2 join" });
    expect(joining.textContent).toContain("Ana Brook ana.brook@brackenfold.example, line\u00a012");
    expect(joining.textContent).toContain("and 1 more");
    expect(screen.getByRole("region", { name: "1 change" }).textContent).toContain("TitleVet becomes Head vet");
    expect(screen.getByRole("region", { name: "1 leave" }).textContent).toContain("Eva Lind");
  });

  it("is applied, and then everybody is shown", async () => {
    const user = showRun(aPlan({ counts }));
    await press(user, "Apply to 4 people");
    expect(changes()).toEqual([{ what: "POST /api/runs/r1/apply", body: { isAccepted: false }, revision: null }]);
    await arrive("/people");
  });

  it("is put away", async () => {
    const user = showRun(aPlan({ counts }));
    await press(user, "Put away");
    expect(changes().map((asked) => asked.what)).toEqual(["POST /api/runs/r1/put-away"]);
    await arrive("/people");
  });

  it("stays where it is when it is refused, and says why", async () => {
    serve({ "POST /api/runs/r1/apply": new Refusal(409, "People have changed.", "Read the source again.") });
    const user = showRun(aPlan({ counts }));
    await press(user, "Apply to 4 people");
    expect(await trouble()).toBe("People have changed.Read the source again.");
    await arrive("/people/runs/r1");
  });

  it("says that nothing is to be done, and what was passed over", async () => {
    showRun(aPlan({ otherEntries: 3 }));
    expect(
      await screen.findByText(
        "Nothing: all 100 people are as they are already. 3 entries are not people and passed over.",
      ),
    ).toBeTruthy();
  });

  it("says who is known from another source and who has another name", async () => {
    showRun(
      aPlan(
        { counts: { ...counts, known: 1 }, unchanged: 0 },
        {
          renamed: 1,
          joining: [aPlanned("Ana Brook", { isKnown: true }), aPlanned("Ida Moss", { isReturning: true })],
        },
      ),
    );
    expect(
      await screen.findByText(/2 join \(1 known from another source\), 1 change \(1 with another name/),
    ).toBeTruthy();
    expect(screen.getByText(/ana.brook.*known from another source/)).toBeTruthy();
    expect(screen.getByText(/ida.moss.*returns/)).toBeTruthy();
  });

  it("names addresses that somebody else has and keeps", async () => {
    showRun(
      aPlan({
        counts,
        collisions: [
          {
            key: "ab",
            person: "Ana Brook",
            address: "ana@brackenfold.example",
            otherPersonId: "p2",
            otherPerson: "Ana Berg",
          },
        ],
      }),
    );
    const collisions = await screen.findByRole("region", { name: "One address, two people" });
    expect(collisions.textContent).toContain("1 address belongs to somebody else already, who keeps it.");
    expect(collisions.textContent).toContain("ana@brackenfold.example: wanted for Ana Brook, is of Ana Berg");
  });

  it("shows which values are left out, and why, once somebody wants to know", async () => {
    const user = showRun(
      aPlan({
        counts,
        refusedCount: 1,
        refused: [{ line: 40, person: "Ana Brook", field: "Mail address", value: "ana@", reason: "has no domain" }],
      }),
    );
    await press(user, "1 value is left out; see which and why");
    const row = within(screen.getByRole("table", { name: "Values left out" })).getByRole("row");
    expect(row.textContent).toBe("line 40Ana BrookMail addressana@has no domain");
    await press(user, "1 value is left out; hide");
    expect(screen.queryByRole("table")).toBeNull();
  });
});

describe("the brake", () => {
  it("holds a run until somebody says that it is meant", async () => {
    serve({ "POST /api/runs/r1/apply": "" });
    const user = showRun(aPlan({ state: "held", counts, brake: ["50 of 100 people would leave."] }));
    const apply = await screen.findByRole("button", { name: "Apply all the same" });
    expect(screen.getByRole("region", { name: "The brake" }).textContent).toContain("50 of 100 people would leave.");
    expect(apply).toHaveProperty("disabled", true);
    await user.click(screen.getByRole("checkbox"));
    await user.click(apply);
    expect(changes()[0]?.body).toEqual({ isAccepted: true });
  });
});

describe("a run that cannot be applied", () => {
  it("names every place that cannot be read and offers nothing to apply", async () => {
    showRun(
      aPlan(
        {
          state: "refused",
          problems: [
            { line: 61_204, message: "A quote is not closed." },
            { line: 0, message: "It ends early." },
          ],
        },
        { mayApply: false },
      ),
    );
    expect(await screen.findByText(/^2 places cannot be read, so nothing of this is applied/)).toBeTruthy();
    const rows = within(screen.getByRole("table", { name: "Places that cannot be read" })).getAllByRole("row");
    expect(rows.map((row) => row.textContent)).toEqual([
      "WhereWhat is wrong",
      "line 61204A quote is not closed.",
      "the sourceIt ends early.",
    ]);
    expect(screen.queryByRole("button", { name: /^Apply/ })).toBeNull();
  });

  it.each([
    [{ state: "failed" }, "The source could not be read. It changed nobody; the next reading starts anew."],
    [{ state: "putAway" }, "This run was put away; it changed nobody."],
    [{ isStale: true }, "People have changed since this was read. Read it again to see what it would do now."],
  ] as const)("says so: %o", async (run, words) => {
    showRun(aPlan(run, { mayApply: false }));
    expect(await screen.findByText(words)).toBeTruthy();
  });

  it("is asked for again while its source is being read", async () => {
    const plans = [aPlan({ state: "reading" }, { mayApply: false }), aPlan({ counts })];
    serve({ "GET /api/runs/r1": () => plans[Math.min(timesAsked("GET /api/runs/r1"), 2) - 1] ?? "" });
    show(
      <Routes>
        <Route path="/people/runs/:id" element={<RunPage />} />
      </Routes>,
      "/people/runs/r1",
    );
    expect(await screen.findByText(/^Clinics is being asked\./)).toBeTruthy();
    expect(await screen.findByText(/^2 join, 1 change/, {}, { timeout: 2000 })).toBeTruthy();
  });
});

describe("a run that was applied", () => {
  const applied = { state: "applied", counts, appliedBy: "Ines Albrecht", appliedAt: "2026-11-02T10:00:00Z" } as const;

  it("says by whom and what it did, and can be taken back while it is the last", async () => {
    serve({ "POST /api/runs/r1/undo": "" });
    const user = showRun(aPlan({ ...applied, mayUndo: true }, { mayApply: false }));
    expect(await screen.findByRole("heading", { name: "What people.ldif did" })).toBeTruthy();
    expect(screen.getByText(/by Ines Albrecht\. 2 joined, 1 changed, 1 left\.$/)).toBeTruthy();
    await press(user, "Take it back");
    expect(changes().map((asked) => asked.what)).toEqual(["POST /api/runs/r1/undo"]);
  });

  it("cannot be taken back once another came after it", async () => {
    showRun(aPlan(applied, { mayApply: false }));
    await screen.findByRole("heading", { name: "What people.ldif did" });
    expect(screen.queryByRole("button", { name: "Take it back" })).toBeNull();
  });
});
