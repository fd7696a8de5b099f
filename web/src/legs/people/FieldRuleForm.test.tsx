import { screen } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import type { Api } from "../../api/client";
import { aField, aRule } from "../../testing/builders";
import { press, show, write } from "../../testing/stage";
import { FieldRuleForm } from "./FieldRuleForm";

function showRule(field: Api["FieldAnswer"]) {
  const save = vi.fn<(rule: Api["FieldRule"]) => void>();
  return { user: show(<FieldRuleForm field={field} onSave={save} isBusy={false} />), save };
}

describe("what a field's values must be", () => {
  it("is said in few words, and kept once it is typed", async () => {
    const { user, save } = showRule(aField("licence", "Licence", { rule: aRule({ maxLength: 7, isOpen: true }) }));
    await press(user, "at most 7");
    await write(user, /^At most/, "1x2"); // only digits are taken
    await write(user, "Like", "B-[0-9]{5}");
    await press(user, "Keep");
    expect(save).toHaveBeenCalledExactlyOnceWith(aRule({ maxLength: 12, pattern: "B-[0-9]{5}", isOpen: true }));
  });

  it("is one of a list where a list is kept", async () => {
    const { user, save } = showRule(aField("shift", "Shift", { kind: "choice", rule: aRule({ choices: ["day"] }) }));
    await press(user, "one of day");
    await write(user, "One of", "day, , night ");
    await press(user, "Keep");
    expect(save.mock.calls[0]?.[0].choices).toEqual(["day", "night"]);
  });

  it("stays as it was when it is left", async () => {
    const { user, save } = showRule(aField("licence", "Licence"));
    await press(user, "not checked further");
    await write(user, "Like", "B");
    await press(user, "Leave");
    expect(save).not.toHaveBeenCalled();
    expect(screen.getByRole("button").textContent).toBe("not checked further");
  });
});
