import { screen, within } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import type { Api } from "../api/client";
import { press, show, trouble, write } from "../testing/stage";
import { lastBody, Refusal, serve, timesAsked } from "../testing/standInServer";
import { OwnPage } from "./OwnPage";

const maren: Api["SessionUser"] = { name: "Maren Holtkamp", signInName: "maren", role: "employee", personId: "p1" };
const address = "maren.holtkamp@brackenfold.example";

function aSignature(slot: string, more: Partial<Api["OwnSignature"]> = {}): Api["OwnSignature"] {
  return { address, slot, name: "Full", html: `<p>${slot}, rich</p>`, text: `${slot}, plain`, ...more };
}

function showOwn(own: Partial<Api["OwnSignatures"]>, fields: readonly Partial<Api["OpenField"]>[] = []) {
  serve({
    "GET /api/own/signatures": { edition: 4, signatures: [], isPlaced: false, state: "waits", clients: [], ...own },
    "GET /api/own/fields": fields.map((field) => ({
      name: "pronouns",
      label: "Pronouns",
      kind: "text",
      choices: [],
      own: null,
      shown: "",
      needsApproval: false,
      isWaiting: false,
      waiting: null,
      ...field,
    })),
  });
  return show(<OwnPage user={maren} />);
}

describe("an employee's signatures", () => {
  it("stand under the address they belong to, each with its slot; none is said to be none", async () => {
    showOwn({
      signatures: [
        aSignature("New"),
        aSignature("Reply", { name: "" }),
        aSignature("New", { address: "hello@brackenfold.example" }),
      ],
      clients: ["desk app", "pocket app"],
    });
    const own = within(await screen.findByRole("region", { name: address }));
    expect(own.getAllByRole("heading", { level: 3 }).map((slot) => slot.textContent)).toEqual(["New", "Reply"]);
    expect(own.getByText("No signature.")).toBeTruthy();
    expect(screen.getByRole("region", { name: "hello@brackenfold.example" })).toBeTruthy();
    expect(screen.getByText(/^They come by themselves to your desk app and pocket app\./)).toBeTruthy();
  });

  it("are not there before the company has rolled any out", async () => {
    showOwn({ edition: 0 });
    expect(await screen.findByText("Your company has not rolled out any signatures yet.")).toBeTruthy();
    expect(screen.queryByRole("region", { name: "Putting them in by hand" })).toBeNull();
  });

  it("are copied as text", async () => {
    const user = showOwn({ signatures: [aSignature("New")] });
    await press(user, `Copy text: New, ${address}`);
    expect(await navigator.clipboard.readText()).toBe("New, plain");
    expect((await screen.findByText("Copied as text.")).getAttribute("role")).toBe("status");
  });

  it("are downloaded where the browser does not let pages copy, and it says so", async () => {
    const user = showOwn({ signatures: [aSignature("New")] });
    const refused = vi.spyOn(navigator.clipboard, "writeText").mockRejectedValue(new Error("not allowed"));
    await press(user, `Copy text: New, ${address}`);
    expect(
      await screen.findByText("This browser does not let pages copy. Download it, open it, select all and copy."),
    ).toBeTruthy();
    refused.mockRestore();
  });

  it("are said to be in place once they were put in by hand", async () => {
    serve({ "POST /api/own/signatures/placed": "" });
    const user = showOwn({ signatures: [aSignature("New")] });
    await press(user, "I have put them in");
    expect(timesAsked("POST /api/own/signatures/placed")).toBe(1);
    await vi.waitFor(() => expect(timesAsked("GET /api/own/signatures")).toBe(2));
  });

  it.each([
    ["inPlace", "You said that they are in place.", false],
    ["drifted", "They have changed since you put them in: please do it once more.", true],
  ] as const)("that were put in and are %s say what is to be done", async (state, words, isAsked) => {
    showOwn({ signatures: [aSignature("New")], isPlaced: true, state });
    expect(await screen.findByText(words)).toBeTruthy();
    expect(screen.queryByRole("button", { name: "I have put them in" }) !== null).toBe(isAsked);
  });
});

describe("what an employee may set", () => {
  it("is not shown where nothing was opened", async () => {
    showOwn({});
    await screen.findByRole("region", { name: "Putting them in by hand" });
    expect(screen.queryByRole("region", { name: "What you may set" })).toBeNull();
  });

  it("is set", async () => {
    serve({ "PUT /api/own/fields/pronouns": "" });
    const user = showOwn({}, [{}]);
    await write(user, "Pronouns", "she/her");
    await press(user, "Set it");
    expect(lastBody()).toEqual({ value: "she/her" });
  });

  it("is one of a list, asked for, and waits for a yes", async () => {
    serve({ "PUT /api/own/fields/shift": "" });
    const user = showOwn({}, [
      {
        name: "shift",
        label: "Shift",
        kind: "choice",
        choices: ["day", "night"],
        needsApproval: true,
        isWaiting: true,
        waiting: "night",
        shown: "day",
      },
    ]);
    expect(await screen.findByText("waits for your administrator")).toBeTruthy();
    expect(screen.getByLabelText("Shift")).toHaveProperty("value", "night");
    await user.selectOptions(screen.getByLabelText("Shift"), "day");
    await press(user, "Ask for it");
    expect(lastBody()).toEqual({ value: "day" });
  });

  it("is as the company says again", async () => {
    serve({ "PUT /api/own/fields/pronouns": "" });
    const user = showOwn({}, [{ own: "they/them", shown: "they/them" }]);
    await press(user, "As the company says");
    expect(lastBody()).toEqual({ value: null });
  });

  it("says what is wrong with a value, and keeps it", async () => {
    serve({ "PUT /api/own/fields/pronouns": new Refusal(422, "This cannot be kept.", "At most 20 characters.") });
    const user = showOwn({}, [{}]);
    await write(user, "Pronouns", "a long story of pronouns");
    await press(user, "Set it");
    expect(await trouble()).toBe("This cannot be kept.At most 20 characters.");
    expect(screen.getByLabelText("Pronouns")).toHaveProperty("value", "a long story of pronouns");
  });
});
