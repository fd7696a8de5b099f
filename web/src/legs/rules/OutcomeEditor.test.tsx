import { screen } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import { choose, Held, show, write } from "../../testing/stage";
import { OutcomeEditor } from "./OutcomeEditor";
import type { Outcome, Track } from "./ruleState";
import type { RuleNames } from "./useRules";

const names: RuleNames = {
  designs: [
    { value: "full", label: "Full" },
    { value: "short", label: "Short" },
  ],
  disclaimers: [
    { value: "legal", label: "Legal" },
    { value: "trade", label: "Trade" },
  ],
  banners: [{ value: "open-day", label: "Open day" }],
  audiences: [],
};

const keep = vi.fn<(then: Outcome) => void>();

function showOutcome(track: Track, first: Outcome) {
  return show(
    <Held first={first} onChange={keep}>
      {(then, change) => <OutcomeEditor track={track} then={then} names={names} onChange={change} />}
    </Held>,
  );
}

function kept() {
  return keep.mock.lastCall?.[0];
}

describe("what follows from a rule", () => {
  it("is a design, or several in turn, or nothing", async () => {
    const user = showOutcome("signature", { kind: "designs", designs: ["full"] });
    expect(screen.queryByRole("button", { name: /^Turns change/ })).toBeNull(); // one takes no turns
    await user.click(screen.getAllByLabelText("Short")[0] as HTMLElement);
    await choose(user, "Order of turns", "shuffled");
    await choose(user, "Turns change", "each message");
    expect(kept()).toEqual({ kind: "designs", designs: ["full", "short"], order: "shuffled", by: "message" });
    await user.click(screen.getByLabelText("carries nothing"));
    expect(kept()).toEqual({ kind: "nothing" });
    await user.click(screen.getByLabelText("carries nothing"));
    expect(kept()).toEqual({ kind: "designs", designs: [] });
  });

  it("may offer others and has a place in answers", async () => {
    const user = showOutcome("signature", { kind: "designs", designs: ["full"] });
    await user.click(screen.getAllByLabelText("Short")[1] as HTMLElement); // what is carried is not offered
    await choose(user, "Place in an answer", "at the very end");
    await user.click(screen.getByLabelText("with the separator line"));
    await user.click(screen.getByLabelText("employees may choose otherwise"));
    expect(kept()).toEqual({
      kind: "designs",
      designs: ["full"],
      offered: ["short"],
      place: "atEnd",
      hasSeparator: false,
      mayChoose: true,
    });
  });

  it("is disclaimers in their own order, or that no further one is taken", async () => {
    const user = showOutcome("disclaimer", { kind: "disclaimers", disclaimers: ["trade"] });
    await user.click(screen.getByLabelText("Legal"));
    expect(kept()).toEqual({ kind: "disclaimers", disclaimers: ["legal", "trade"] });
    await user.click(screen.getByLabelText(/^takes no further disclaimer/));
    expect(kept()).toEqual({ kind: "stop" });
    expect(screen.queryByLabelText("Legal")).toBeNull();
  });

  it("is a banner that leads somewhere", async () => {
    const user = showOutcome("banner", { kind: "nothing" });
    await choose(user, "Banner", "Open day");
    await write(user, "leading to", "https://brackenfold.example/day");
    expect(kept()).toEqual({ kind: "banner", banner: "open-day", link: "https://brackenfold.example/day" });
  });
});
