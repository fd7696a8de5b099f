import { screen } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import { Held, press, show } from "../testing/stage";
import { TokenInput } from "./TokenInput";

const keep = vi.fn<(values: readonly string[]) => void>();

function showTokens(...first: string[]) {
  const user = show(
    <Held<readonly string[]> first={first} onChange={keep}>
      {(values, change) => (
        <TokenInput label="Domains" values={values} onChange={change} known={["brackenfold.example"]} />
      )}
    </Held>,
  );
  return { user, box: screen.getByLabelText("Domains") };
}

function kept() {
  return keep.mock.lastCall?.[0];
}

describe("several short texts", () => {
  it("are entered with Enter, a comma or by going on", async () => {
    const { user, box } = showTokens();
    await user.type(box, "a.example{Enter}b.example,c.example");
    expect(kept()).toEqual(["a.example", "b.example"]);
    await user.tab();
    expect(kept()).toEqual(["a.example", "b.example", "c.example"]);
    expect(box).toHaveProperty("value", "");
  });

  it("come in many at once and each only once", async () => {
    const { user, box } = showTokens("a.example");
    await user.click(box);
    await user.paste("a.example; b.example, ,c.example");
    await user.keyboard("{Enter}");
    expect(kept()).toEqual(["a.example", "b.example", "c.example"]);
  });

  it("are taken out by their cross, and the last with Backspace in an empty box", async () => {
    const { user, box } = showTokens("a.example", "b.example", "c.example");
    await press(user, "Take out b.example");
    await user.type(box, "x{Backspace}{Backspace}");
    expect(kept()).toEqual(["a.example"]);
  });
});
