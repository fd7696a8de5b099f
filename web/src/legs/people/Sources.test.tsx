import { screen, within } from "@testing-library/react";
import { beforeEach, describe, expect, it } from "vitest";
import type { Api } from "../../api/client";
import { aRun, aSource } from "../../testing/builders";
import { arrive, choose, press, show, trouble, write } from "../../testing/stage";
import { changes, lastBody, Refusal, serve } from "../../testing/standInServer";
import { Sources } from "./Sources";

function showSources(sources: readonly Api["SourceAnswer"][], runs: readonly Api["SourceRun"][] = []) {
  serve({ "GET /api/sources": sources, "GET /api/runs": runs });
  return show(<Sources />, "/people/sources");
}

const settings: Api["LdapSettings"] = {
  host: "directory.brackenfold.example",
  port: 389,
  security: "startTls",
  certificateFolder: "",
  bindName: "cn=relevo",
  baseName: "dc=brackenfold",
  filter: "(objectClass=inetOrgPerson)",
};

describe("sources", () => {
  it("are listed with what they are, and every reading of them", async () => {
    showSources(
      [aSource(), aSource({ id: "s2", kind: "ldap", name: "Head office", people: 1, everyMinutes: 60 })],
      [
        aRun({ state: "held" }),
        aRun({
          id: "r0",
          name: "before.ldif",
          state: "applied",
          counts: { joining: 2, changing: 1, leaving: 0, returning: 1, known: 0 },
        }),
      ],
    );
    const items = await within(await screen.findByRole("region", { name: "Sources" })).findAllByRole("listitem");
    expect(items.map((item) => item.textContent)).toEqual([
      expect.stringContaining("Clinics LDIF files, 100 people"),
      expect.stringContaining("Head office directory server, 1 person, asked every hour"),
    ]);
    const runs = within(screen.getByRole("region", { name: "Runs" })).getAllByRole("listitem");
    expect(runs[0]?.textContent).toContain("people.ldif is held by the brake");
    expect(runs[1]?.textContent).toContain("before.ldif 3 join, 1 change");
    expect(within(runs[0] as HTMLElement).getByRole("link")).toHaveProperty("pathname", "/people/runs/r1");
  });

  it("say what to do while there is none", async () => {
    showSources([]);
    expect(await screen.findByText(/^No source yet\./)).toBeTruthy();
  });

  it("are believed in another order, but the first cannot rise", async () => {
    serve({ "PUT /api/sources/order": "" });
    const user = showSources([aSource(), aSource({ id: "s2", name: "Head office" })]);
    expect(await screen.findByRole("button", { name: "Believe Clinics more" })).toHaveProperty("disabled", true);
    await press(user, "Believe Head office more");
    expect(lastBody()).toEqual({ sources: ["s2", "s1"] });
  });

  it("are read now, and then the reading is shown", async () => {
    serve({ "POST /api/sources/s2/runs": aRun({ id: "r9" }) });
    const user = showSources([aSource({ id: "s2", kind: "ldap", name: "Head office" })]);
    await press(user, "Read now");
    await arrive("/people/runs/r9");
  });

  it("say why they cannot be read now", async () => {
    serve({ "POST /api/sources/s2/runs": new Refusal(409, "It is being read.", "Wait for it.") });
    const user = showSources([aSource({ id: "s2", kind: "ldap" })]);
    await press(user, "Read now");
    expect(await trouble()).toBe("It is being read.Wait for it.");
  });
});

describe("settings of a source", () => {
  it("are kept on the revision that was seen: name, brake and how people are known again", async () => {
    serve({ "PUT /api/sources/s1": "" });
    const user = showSources([aSource({ joinBy: ["mail"] })]);
    await press(user, "Settings");
    await write(user, "Name", "All clinics");
    await write(user, "Share of leavers in a hundred", "10");
    await write(user, "Share of emptied values in a hundred", "20");
    await write(user, "Least number of people", "3");
    await user.click(screen.getByLabelText("mail address"));
    await user.click(screen.getByLabelText("employee number"));
    await press(user, "Save settings");
    expect(changes()).toEqual([
      {
        what: "PUT /api/sources/s1",
        revision: '"3"',
        body: {
          name: "All clinics",
          mapping: null,
          brake: { leavingPercent: 10, emptiedPercent: 20, atLeast: 3 },
          joinBy: ["employeeNumber"],
          everyMinutes: null,
        },
      },
    ]);
  });

  it("name each place that is wrong, and keep what was typed", async () => {
    serve({
      "PUT /api/sources/s1": new Refusal(422, "This cannot be kept.", "One place is wrong.", [
        { pointer: "/brake/leavingPercent", line: 0, code: "percent", message: "A share is 0 to 100." },
      ]),
    });
    const user = showSources([aSource()]);
    await press(user, "Settings");
    await write(user, "Share of leavers in a hundred", "500");
    await press(user, "Save settings");
    expect(await trouble()).toContain("A share is 0 to 100. (/brake/leavingPercent)");
    expect(screen.getByLabelText("Share of leavers in a hundred")).toHaveProperty("value", "500");
  });
});

describe("a directory server", () => {
  beforeEach(() => serve({ "POST /api/ldap": { id: "s9", revision: 1, settings, hasSecret: true } }));

  it("is tried before it is kept, and its first people are shown", async () => {
    serve({
      "POST /api/ldap/try": {
        count: 500,
        isWhole: false,
        otherEntries: 2,
        people: [{ name: "Ana Brook", addresses: ["ana@brackenfold.example"], facts: { title: "Vet" } }],
        refused: [],
        problems: ["One entry has no name."],
      },
    });
    const user = showSources([]);
    await press(user, "Add a directory server");
    await write(user, "Server", settings.host);
    await write(user, "Base", settings.baseName);
    await write(user, "Secret", "a secret");
    await press(user, "Try it");
    const answer = await screen.findByRole("region", { name: "What it answered" });
    expect(answer.textContent).toContain("500 people on the first page, and more, 2 other entries");
    expect(answer.textContent).toContain("One entry has no name.");
    expect(answer.textContent).toContain("Ana Brook Vet, ana@brackenfold.example");
    expect(lastBody()).toMatchObject({
      secret: "a secret",
      source: null,
      settings: { host: settings.host, port: 636 },
    });
  });

  it("is kept with its schedule; whoever has an address already is the same person", async () => {
    const user = showSources([]);
    await press(user, "Add a directory server");
    await write(user, "Called", "Head office");
    await write(user, "Server", settings.host);
    await choose(user, "Asked", "every 4 hours");
    await press(user, "Keep this server");
    expect(lastBody()).toMatchObject({
      source: { name: "Head office", joinBy: ["mail"], everyMinutes: 240 },
      secret: "",
    });
    expect(screen.queryByRole("form", { name: "Directory server" })).toBeNull();
  });

  it("takes the usual port of its security along, but not a port of its own", async () => {
    const user = showSources([]);
    await press(user, "Add a directory server");
    await choose(user, "Secured by", "TLS after the greeting (StartTLS)");
    expect(screen.getByLabelText("Port")).toHaveProperty("value", "389");
    await write(user, "Port", "10389");
    await choose(user, "Secured by", "TLS from the start (LDAPS)");
    expect(screen.getByLabelText("Port")).toHaveProperty("value", "10389");
  });

  it("keeps its secret unless another is typed", async () => {
    serve({
      "GET /api/ldap/s2": { id: "s2", revision: 3, settings, hasSecret: true },
      "PUT /api/ldap/s2": "",
    });
    const user = showSources([aSource({ id: "s2", kind: "ldap", hasSecret: true, everyMinutes: 15 })]);
    await press(user, "Settings");
    const secret = await screen.findByLabelText("Secret");
    expect([secret.getAttribute("placeholder"), secret.getAttribute("type")]).toEqual([
      "kept; type to replace it",
      "password",
    ]);
    await press(user, "Save server");
    expect(changes()).toMatchObject([
      { what: "PUT /api/ldap/s2", revision: '"3"', body: { secret: null, source: { everyMinutes: 15 } } },
    ]);
  });
});

describe("a client that pushes", () => {
  const token: Api["ScimToken"] = {
    id: "t1",
    sourceId: "s3",
    name: "Identity provider",
    createdBy: "Ines Albrecht",
    createdAt: "2026-11-02T09:00:00Z",
    lastUsedAt: null,
    revokedAt: null,
  };

  it("is given its token once", async () => {
    serve({ "POST /api/tokens": { id: "t1", source: "s3", token: "a-token-of-many-letters" } });
    const user = showSources([]);
    await press(user, "Let a client push");
    await write(user, "Called", "Provider");
    await press(user, "Make a token");
    const made = await screen.findByRole("region", { name: "The new token" });
    expect(made.textContent).toContain(`${window.location.origin}/scim/v2`);
    expect(made.textContent).toContain("a-token-of-many-letters");
    expect(lastBody()).toEqual({ name: "Provider", source: null });
    await press(user, "I have it");
    expect(screen.queryByText("a-token-of-many-letters")).toBeNull();
  });

  it("has a name", async () => {
    const user = showSources([]);
    await press(user, "Let a client push");
    await write(user, "Called", "");
    expect(screen.getByRole("button", { name: "Make a token" })).toHaveProperty("disabled", true);
  });

  it("may lose its token, and one that is lost cannot be lost again", async () => {
    serve({
      "GET /api/sources/s3/tokens": [token, { ...token, id: "t0", name: "Old", revokedAt: "2026-11-03T09:00:00Z" }],
      "DELETE /api/tokens/t1": "",
    });
    const user = showSources([aSource({ id: "s3", kind: "scim", name: "Provider" })]);
    await press(user, "Settings");
    const tokens = await within(await screen.findByRole("region", { name: "Tokens" })).findAllByRole("listitem");
    expect(tokens[0]?.textContent).toContain("by Ines Albrecht, not used yet");
    expect(tokens[1]?.textContent).toContain("revoked 3 Nov 2026");
    expect(within(tokens[1] as HTMLElement).queryByRole("button")).toBeNull();
    await press(user, "Revoke");
    expect(changes().map((asked) => asked.what)).toEqual(["DELETE /api/tokens/t1"]);
  });
});
