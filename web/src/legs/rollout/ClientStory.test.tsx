import { screen } from "@testing-library/react";
import { beforeEach, describe, expect, it } from "vitest";
import { arrive, press, show, trouble } from "../../testing/stage";
import { changes, Refusal, serve } from "../../testing/standInServer";
import { ClientStory } from "./ClientStory";

const at = "2026-11-02T09:00:00Z";

describe("a client's story", () => {
  beforeEach(() => serve({ "GET /api/clients/c1/story": [], "GET /api/clients/c1/difference": [] }));

  it("tells what happened, newest first, and of which edition", async () => {
    serve({
      "GET /api/clients/c1/story": [
        { at, state: "failed", edition: 4, detail: "The disk is full." },
        { at, state: "inPlace", edition: null, detail: "" },
      ],
    });
    show(<ClientStory id="c1" />);
    const events = await screen.findAllByRole("listitem");
    expect(events[0]?.textContent).toMatch(/edition 4.*2 Nov 2026, .*: The disk is full\.$/);
    expect(events[1]?.textContent).not.toContain("edition");
  });

  it("says that nothing has happened yet", async () => {
    show(<ClientStory id="c1" />);
    expect(await screen.findByText("Nothing has happened yet.")).toBeTruthy();
  });

  it("marks what differs in each place, from the first to the last difference", async () => {
    const long = "x".repeat(100);
    serve({
      "GET /api/clients/c1/difference": [
        {
          path: "new.html",
          wanted: `${long}Maren Holtkamp${long}`,
          found: `${long}Maren Holtmann${long}`,
          foundAt: at,
        },
        { path: "reply.txt", wanted: "Maren", found: null, foundAt: null },
      ],
    });
    show(<ClientStory id="c1" />);
    const [wanted, gone] = await screen.findAllByLabelText("should be");
    const found = screen.getByLabelText(/^found 2 Nov 2026/);
    expect(wanted?.querySelector("mark")?.textContent).toBe("kamp");
    expect(found.querySelector("mark")?.textContent).toBe("mann");
    // A little of what is the same stands around it; more is left out.
    expect(found.textContent).toBe(`…${"x".repeat(50)}Maren Holtmann${"x".repeat(60)}…`);
    expect(gone?.querySelector("mark")?.textContent).toBe("Maren");
    expect(screen.getByLabelText("found").textContent).toBe("");
  });

  it("is delivered to again", async () => {
    serve({ "POST /api/clients/c1/again": "" });
    const user = show(<ClientStory id="c1" />);
    await press(user, "Deliver again");
    expect(changes().map((asked) => asked.what)).toEqual(["POST /api/clients/c1/again"]);
  });

  it("ends when the client is taken out, and the list is shown", async () => {
    serve({ "DELETE /api/clients/c1": "" });
    const user = show(<ClientStory id="c1" />, "/rollout/now/c1");
    await press(user, "Take this client out");
    await arrive("/rollout/now");
    expect(changes().map((asked) => asked.what)).toEqual(["DELETE /api/clients/c1"]);
  });

  it("goes on when the client cannot be taken out, and says why", async () => {
    serve({ "DELETE /api/clients/c1": new Refusal(404, "There is no such client.", "Load the page again.") });
    const user = show(<ClientStory id="c1" />, "/rollout/now/c1");
    await press(user, "Take this client out");
    expect(await trouble()).toBe("There is no such client.Load the page again.");
    await arrive("/rollout/now/c1");
  });
});
