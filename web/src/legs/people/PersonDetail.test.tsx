import { screen, within } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import type { Api } from "../../api/client";
import { LensProvider, useLens } from "../../lens/lensState";
import { aFact, aPerson } from "../../testing/builders";
import { press, show, trouble, write } from "../../testing/stage";
import { changes, lastBody, Refusal, serve, timesAsked } from "../../testing/standInServer";
import { PersonDetail } from "./PersonDetail";

function LookedAt() {
  const { lens, isOpen } = useLens();
  return <output aria-label="Lens">{`${isOpen} ${lens.person} ${lens.address}`}</output>;
}

function showPerson(person: Api["PersonAnswer"]) {
  serve({ "GET /api/people/p1": person });
  return show(
    <LensProvider>
      <PersonDetail id="p1" closePath="/people" />
      <LookedAt />
    </LensProvider>,
  );
}

const telephone = aFact("telephone", "Telephone", "+44 20 7946 0000", {
  origin: "office",
  recordName: "Harrogate",
  doubt: "Not a number of any country.",
  layers: [
    { layer: "source", record: "s1", recordName: "Clinics", stored: "0123", isWinner: false },
    { layer: "office", record: "o1", recordName: "Harrogate", stored: "+442079460000", isWinner: true },
  ],
});

const shared: Api["PersonAccount"] = { id: "a2", address: "hello@brackenfold.example", kind: "shared", overridden: [] };

describe("a person", () => {
  it("is shown with facts, where each comes from, what is doubtful and what designs lack", async () => {
    showPerson(
      aPerson({
        fields: [aFact("title", "Title", "Vet"), telephone, aFact("fax", "Fax", "", { origin: null, layers: [] })],
        lacks: ["Mobile", "Portrait"],
      }),
    );
    const facts = await screen.findByRole("list", { name: "Facts" });
    expect(
      within(facts)
        .getAllByRole("listitem")
        .map((fact) => fact.textContent),
    ).toEqual(["TitleVetClinics", "Telephone+44 20 7946 0000Not a number of any country.office Harrogate"]);
    expect(screen.getByText(/Mobile, Portrait; no value here/)).toBeTruthy();
  });

  it("shows fields without a value when somebody asks", async () => {
    const user = showPerson(aPerson({ fields: [aFact("fax", "Fax", "", { origin: null, layers: [] })] }));
    await press(user, "Show fields without a value");
    await press(user, "Fax comes from: no value");
    expect(screen.getByText("No layer has a value.")).toBeTruthy();
  });

  it("opens all layers of a fact, the winner marked, and leads to where everybody's is changed", async () => {
    const user = showPerson(aPerson({ fields: [telephone] }));
    await press(user, "Telephone comes from: office Harrogate");
    const layers = within(screen.getByRole("list", { name: "Layers of Telephone" })).getAllByRole("listitem");
    expect(layers.map((layer) => layer.textContent)).toEqual([
      "directory, Clinics0123",
      "office, Harrogate+442079460000shown",
    ]);
    expect(screen.getByRole("link", { name: "Change it for everybody there" })).toHaveProperty(
      "pathname",
      "/people/company",
    );
  });

  it("is given a value of its own, and asked for anew", async () => {
    serve({ "PUT /api/people/p1/fields/title": "" });
    const user = showPerson(aPerson());
    await press(user, "Title comes from: Clinics");
    await write(user, "Override Title", "Head vet");
    await press(user, "Override");
    expect(changes()).toEqual([
      { what: "PUT /api/people/p1/fields/title", body: { account: null, value: "Head vet" }, revision: null },
    ]);
    expect(timesAsked("GET /api/people/p1")).toBe(2);
  });

  it("loses a value of its own again", async () => {
    serve({ "PUT /api/people/p1/fields/title": "" });
    const own = aFact("title", "Title", "Head vet", {
      origin: "override",
      layers: [{ layer: "override", record: "p1", recordName: "Maren Holtkamp", stored: "Head vet", isWinner: true }],
    });
    const user = showPerson(aPerson({ fields: [own] }));
    await press(user, "Title comes from: override");
    await press(user, "Take out");
    expect(lastBody()).toEqual({ account: null, value: null });
  });

  it("may have a value for one of several accounts only", async () => {
    serve({ "PUT /api/people/p1/fields/title": "" });
    const user = showPerson(aPerson({ accounts: [...aPerson().accounts, shared] }));
    await press(user, "Title comes from: Clinics");
    await user.click(screen.getByLabelText("only when sending from maren.holtkamp@brackenfold.example"));
    await press(user, "Override");
    expect(lastBody()).toEqual({ account: "a1", value: "Veterinary surgeon" });
  });

  it("is seen as another account of theirs", async () => {
    serve({
      "GET /api/people/p1?address=hello%40brackenfold.example": aPerson({
        address: shared.address,
        accounts: [...aPerson().accounts, shared],
        fields: [aFact("title", "Title", "The front desk")],
      }),
    });
    const user = showPerson(aPerson({ accounts: [...aPerson().accounts, shared] }));
    await user.click(await screen.findByRole("radio", { name: "hello@brackenfold.example (shared)" }));
    expect(await screen.findByText("The front desk")).toBeTruthy();
    await press(user, "Look as Maren Holtkamp");
    expect(screen.getByLabelText("Lens").textContent).toBe("true p1 hello@brackenfold.example");
  });

  it("keeps what was typed when it is refused, and says why", async () => {
    serve({ "PUT /api/people/p1/fields/title": new Refusal(422, "This is no title.", "At most 20 characters.") });
    const user = showPerson(aPerson());
    await press(user, "Title comes from: Clinics");
    await write(user, "Override Title", "A title that is too long");
    await press(user, "Override");
    expect(await trouble()).toBe("This is no title.At most 20 characters.");
    expect(screen.getByLabelText("Override Title")).toHaveProperty("value", "A title that is too long");
  });

  it("comes back after being retired by hand", async () => {
    serve({ "POST /api/people/retire": "" });
    const user = showPerson(aPerson({ isRetired: true, isRetiredByHand: true }));
    await press(user, "Bring Maren Holtkamp back");
    expect(lastBody()).toEqual({ people: { ids: ["p1"], query: null }, isRetired: false });
  });

  it("has a history that is fetched when somebody wants it", async () => {
    serve({
      "GET /api/people/p1/history": [
        {
          at: "2026-11-02T09:00:00Z",
          by: "Ines Albrecht",
          what: "Changed",
          changes: [
            { field: "Title", before: null, after: "Vet" },
            { field: "Fax", before: "", after: null },
          ],
        },
      ],
    });
    const user = showPerson(aPerson());
    await screen.findByRole("list", { name: "Facts" });
    expect(timesAsked("GET /api/people/p1/history")).toBe(0);
    await press(user, "History");
    const event = within(await screen.findByRole("list", { name: "History" })).getByRole("listitem");
    expect(event.textContent).toMatch(
      /^Changed 2 Nov 2026, .*, Ines AlbrechtTitlenothing becomes VetFaxblank becomes nothing$/,
    );
  });
});
