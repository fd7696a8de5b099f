import { screen, within } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import type { Api } from "../../api/client";
import { press, show, write } from "../../testing/stage";
import { Expectations } from "./Expectations";
import type { RuleAction, RuleTest } from "./ruleState";
import type { RuleNames } from "./useRules";

const names: RuleNames = {
  designs: [
    { value: "full", label: "Full" },
    { value: "short", label: "Short" },
  ],
  disclaimers: [{ value: "legal", label: "Legal" }],
  banners: [],
  audiences: [],
};

const answers: RuleTest = { id: "t1", name: "Vets answer briefly", conditions: [], designs: ["short"] };

function aResult(more: Partial<Api["RuleTestAnswer"]>): Api["RuleTestAnswer"] {
  return { test: "t1", isMet: true, situations: 240, failed: 0, address: "", cell: null, trace: [], ...more };
}

function showExpectations(tests: readonly RuleTest[], results: readonly Api["RuleTestAnswer"][] = []) {
  const act = vi.fn<(label: string, action: RuleAction) => void>();
  const sentences = new Map(
    tests.map((test) => [test.id, [{ role: "plain", text: "Everybody gets Short." } as Api["SentencePiece"]]]),
  );
  return {
    user: show(<Expectations tests={tests} results={results} sentences={sentences} names={names} act={act} />),
    act,
  };
}

describe("expectations", () => {
  it("say what they are for while there is none", () => {
    showExpectations([]);
    expect(screen.getByText(/^Write down what must hold/)).toBeTruthy();
  });

  it("are met in so many situations", () => {
    showExpectations([{ ...answers, disclaimers: ["legal", "gone"] }], [aResult({})]);
    const item = screen.getByRole("listitem");
    expect(item.textContent).toContain("metVets answer briefly");
    expect(item.textContent).toContain("With Legal and a disclaimer that is gone.");
    expect(item.textContent).toContain("Holds in all 240 situations.");
  });

  it("name the first place where they fail, and the rule that decides there", () => {
    const step = {
      track: "signature",
      outcome: "matched",
      number: 3,
      sentence: "Everybody gets Full.",
      reason: "it meets everybody",
    };
    showExpectations(
      [answers],
      [
        aResult({
          isMet: false,
          failed: 2,
          address: "maren@brackenfold.example",
          cell: { occasion: "reply", audience: "outside", client: "desk-app" },
          trace: [step as Api["LensTraceStep"]],
        }),
      ],
    );
    expect(
      screen.getByText(
        "Fails in 2 of 240 situations, first for maren@brackenfold.example in a reply read outside on the desk-app.",
      ),
    ).toBeTruthy();
    expect(screen.getByText("Rule 3 decides: Everybody gets Full. Because it meets everybody.")).toBeTruthy();
  });

  it.each([
    [{ situations: 0 }, "Nobody is meant: no account meets it."],
    [{ situations: 9, failed: 9 }, "No rule matches there."],
  ])("fail for want of somebody or of a rule: %o", (result, words) => {
    showExpectations([answers], [aResult({ isMet: false, ...result })]);
    expect(screen.getByText(words)).toBeTruthy();
  });

  it("are written: a name, the designs and exactly these disclaimers", async () => {
    const { user, act } = showExpectations([]);
    await press(user, "Write an expectation");
    const keep = screen.getByRole("button", { name: "Keep" });
    expect(keep).toHaveProperty("disabled", true); // without a name
    expect(screen.getByText("None ticked: no signature is expected.")).toBeTruthy();
    await write(user, "Name of the expectation", "Everybody is formal");
    await user.click(screen.getByLabelText("Full"));
    await user.click(screen.getByLabelText("and exactly these disclaimers"));
    await user.click(screen.getByLabelText("Legal"));
    await user.click(keep);
    expect(act).toHaveBeenCalledExactlyOnceWith("change an expectation", {
      kind: "set test",
      test: expect.objectContaining({
        name: "Everybody is formal",
        conditions: [],
        designs: ["full"],
        disclaimers: ["legal"],
      }) as RuleTest,
    });
    expect(screen.queryByRole("group", { name: "Editing an expectation" })).toBeNull();
  });

  it("are left as they were", async () => {
    const { user, act } = showExpectations([answers]);
    await press(user, "Vets answer briefly");
    await write(user, "Name of the expectation", "Something else");
    await press(user, "Leave as it was");
    expect(act).not.toHaveBeenCalled();
    expect(within(screen.getByRole("listitem")).getByRole("button", { name: "Vets answer briefly" })).toBeTruthy();
  });

  it("are taken out", async () => {
    const { user, act } = showExpectations([answers]);
    await press(user, "Take out Vets answer briefly");
    expect(act).toHaveBeenCalledExactlyOnceWith("take out an expectation", { kind: "take out test", id: "t1" });
  });
});
