import { screen } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import { choose, Held, press, show, write } from "../../testing/stage";
import { TransformList } from "./TransformList";
import type { Transform } from "./transformState";

const keep = vi.fn<(transforms: readonly Transform[]) => void>();

function showSteps(...first: Transform[]) {
  return show(
    <Held<readonly Transform[]> first={first} onChange={keep}>
      {(transforms, change) => <TransformList label="Surname" transforms={transforms} onChange={change} />}
    </Held>,
  );
}

function kept() {
  return keep.mock.lastCall?.[0];
}

describe("steps a value goes through", () => {
  it("are added one after the other and taken out again", async () => {
    const user = showSteps();
    await choose(user, "Add a step to Surname", "set its case");
    await choose(user, "Add a step to Surname", "take one part");
    expect(kept()?.map((step) => step.kind)).toEqual(["case", "split"]);
    await press(user, "Take out step 1 of Surname");
    expect(kept()?.map((step) => step.kind)).toEqual(["split"]);
  });

  it("set the case", async () => {
    const user = showSteps({ kind: "case", style: "name" });
    await choose(user, "Surname, step 1: case", "all large");
    expect(kept()).toEqual([{ kind: "case", style: "upper" }]);
  });

  it("count parts from one, and from the end below nought", async () => {
    const user = showSteps({ kind: "split", separator: ",", index: 0 });
    const part = screen.getByLabelText("Surname, step 1: which part");
    expect(part).toHaveProperty("value", "1");
    await user.type(part, "2", { initialSelectionStart: 0, initialSelectionEnd: 1 });
    await write(user, "Surname, step 1: parted by", "/");
    expect(kept()).toEqual([{ kind: "split", separator: "/", index: 1 }]);
    await user.click(part);
    await user.paste("-");
    expect(kept()).toEqual([{ kind: "split", separator: "/", index: 1 }]); // no number yet
  });

  it("look values up in lines that may be half typed", async () => {
    const user = showSteps({ kind: "lookup", table: { HR: "People" }, isStrict: false });
    const table = screen.getByLabelText("Surname, step 1: table");
    await user.type(table, "\nIT = Systems\nhalf");
    expect(table).toHaveProperty("value", "HR = People\nIT = Systems\nhalf");
    await user.click(screen.getByLabelText("what is not in the table is left out"));
    expect(kept()).toEqual([{ kind: "lookup", table: { HR: "People", IT: "Systems" }, isStrict: true }]);
  });

  it("take what a pattern finds", async () => {
    const user = showSteps({ kind: "extract", pattern: ".*" });
    await write(user, "Surname, step 1: pattern", "^[A-Z]{2}");
    expect(kept()).toEqual([{ kind: "extract", pattern: "^[A-Z]{2}" }]);
  });
});
