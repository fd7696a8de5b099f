import { screen, within } from "@testing-library/react";
import { Route, Routes } from "react-router";
import { beforeEach, describe, expect, it, vi } from "vitest";
import type { Api } from "../../api/client";
import { aField, aMapping, aPlan } from "../../testing/builders";
import { arrive, choose, press, show, trouble } from "../../testing/stage";
import { changes, lastBody, Refusal, serve, timesAsked } from "../../testing/standInServer";
import { FilePick } from "./FileDrop";
import { TableMapping } from "./TableMapping";
import { useUpload } from "./useUpload";

const form: Api["TableForm"] = { encoding: "windows1252", delimiter: ";", hasHeader: true };

function aTable(more: Partial<Api["TableAnswer"]> = {}): Api["TableAnswer"] {
  const columns = ["Vorname", "Name", "E-Mail", "Abteilung"];
  const rows = [
    ["Łukasz", "Brook", "l@brackenfold.example", "CLINIC"],
    ["Ana", "Vale", "", "CLINIC"],
  ];
  const mapping = aMapping({
    key: [],
    addresses: [],
    hasStandardFields: false,
    fields: [
      { field: "givenName", attributes: ["Vorname"], joiner: null, transforms: [] },
      { field: "surname", attributes: ["Name"], joiner: null, transforms: [] },
    ],
  });
  return { sample: { form, columns, rows }, mapping, isKeptMapping: false, people: [], ...more };
}

/** Where somebody drops a table. */
function Door() {
  const upload = useUpload();
  return <FilePick onFile={(file) => upload.start(file)} />;
}

async function showTable(table = aTable()) {
  serve({ "POST /api/tables/look": table });
  const user = show(
    <Routes>
      <Route path="/people" element={<Door />} />
      <Route path="/people/table" element={<TableMapping />} />
      <Route path="*" element={null} />
    </Routes>,
    "/people",
  );
  await user.upload(screen.getByLabelText("Directory file"), new File(["Vorname;Name"], "staff.csv"));
  await screen.findByRole("heading", { name: "What stands in staff.csv" });
  return user;
}

beforeEach(() => {
  serve({
    "GET /api/fields": [
      aField("givenName", "Given name"),
      aField("surname", "Surname"),
      aField("displayName", "Name"),
      aField("department", "Team"),
      aField("mail", "Mail"),
      aField("building", "Building", { holders: ["office"] }),
    ],
    "POST /api/tables/try": [
      {
        name: "Łukasz Brook",
        addresses: ["l@brackenfold.example"],
        facts: { displayName: "Łukasz Brook", department: "Clinic" },
      },
      { name: "Ana Vale", addresses: [], facts: {} },
    ],
    "PUT /api/tables/mapping": "",
    "POST /api/people/imports": aPlan({}),
  });
});

describe("a table's columns", () => {
  it("are gone with the page that was loaded, and it leads back", async () => {
    const user = show(<TableMapping />, "/people/table");
    expect(screen.getByText("The table is gone with the page that was loaded.")).toBeTruthy();
    await press(user, "Back to everybody");
    await arrive("/people");
  });

  it("stand with their first cells, and how the file was read", async () => {
    await showTable();
    expect((await screen.findByText(/^Read as/)).textContent).toContain(
      "Windows-1252, cells parted by semicolons, with a row of names.",
    );
    const rows = within(screen.getByRole("table", { name: "Columns" })).getAllByRole("row");
    expect(rows[1]?.textContent).toContain("VornameŁukasz · Ana");
    expect(rows[3]?.textContent).toContain("E-Maill@brackenfold.example");
    expect(screen.getByText(/^Proposed by the columns’ names/)).toBeTruthy();
  });

  it("are mapped as last time", async () => {
    await showTable(aTable({ isKeptMapping: true }));
    expect(await screen.findByText(/^Mapped as last time\./)).toBeTruthy();
  });

  it("are offered the fields that people have", async () => {
    const user = await showTable();
    await press(user, "Abteilung is");
    expect((await screen.findAllByRole("option")).map((option) => option.textContent.replace("✓", ""))).toEqual([
      "not used",
      "Mail address",
      "Given name",
      "Surname",
      "Name",
      "Team",
    ]);
  });

  it("make no people before there is a name and something to know them by", async () => {
    const user = await showTable();
    expect(await screen.findByText("Say which column is the name, and by which people are known again.")).toBeTruthy();
    expect(screen.getByRole("button", { name: "See what it would do" })).toHaveProperty("disabled", true);
    expect(timesAsked("POST /api/tables/try")).toBe(0);
    await choose(user, "Abteilung is", "Team");
    await choose(user, "E-Mail is", "Mail address");
    expect(screen.getByRole("button", { name: "Known again by: E-Mail" })).toBeTruthy();
    const first = await screen.findByText("Łukasz Brook");
    expect(first.closest("li")?.textContent).toBe("Łukasz Brook l@brackenfold.exampleTeam: Clinic");
    expect(screen.getByText("Ana Vale").closest("li")?.textContent).toContain("no address");
    // The name follows from its two parts.
    expect((lastBody() as { mapping: Api["Mapping"] }).mapping).toMatchObject({
      key: ["E-Mail"],
      addresses: ["E-Mail"],
      fields: [{ field: "displayName", attributes: ["Vorname", "Name"], joiner: " " }, {}, {}, { field: "department" }],
    });
  });

  it("are changed on the way, and the preview follows", async () => {
    const user = await showTable();
    await choose(user, "E-Mail is", "Mail address");
    await choose(user, "Abteilung is", "Team");
    await choose(user, "Add a step to Abteilung", "set its case");
    await vi.waitFor(() =>
      expect(
        (lastBody() as { mapping: Api["Mapping"] }).mapping.fields.find((field) => field.field === "department")
          ?.transforms,
      ).toEqual([{ kind: "case", style: "name" }]),
    );
  });

  it("are kept for the next table of this form before the file is sent", async () => {
    const user = await showTable();
    await choose(user, "E-Mail is", "Mail address");
    await press(user, "See what it would do");
    await arrive("/people/runs/r1");
    expect(changes().slice(-2)).toMatchObject([
      { what: "PUT /api/tables/mapping", body: { form } },
      { what: "POST /api/people/imports", body: "Vorname;Name" },
    ]);
  });

  it("send nothing when they cannot be kept", async () => {
    serve({ "PUT /api/tables/mapping": new Refusal(422, "This cannot be kept.", "A column is named twice.") });
    const user = await showTable();
    await choose(user, "E-Mail is", "Mail address");
    await press(user, "See what it would do");
    expect(await trouble()).toBe("This cannot be kept.A column is named twice.");
    expect(timesAsked("POST /api/people/imports")).toBe(0);
  });
});
