import { screen } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import { aField, aRule } from "../../testing/builders";
import { choose, press, show, trouble, write } from "../../testing/stage";
import { changes, lastBody, Refusal, serve } from "../../testing/standInServer";
import { ManyAtOnce } from "./ManyAtOnce";
import { everybody, nobody, type PeopleFilter, type Selection } from "./peopleState";

const fields = [
  aField("title", "Title"),
  aField("pronouns", "Pronouns"),
  aField("mobile", "Mobile", { rule: aRule({ isOpen: true }) }),
  aField("mail", "Mail address"),
  aField("building", "Building", { holders: ["office"] }),
];
const two: Selection = { ids: new Set(["p1", "p2"]), all: false, last: null };
const ids = { ids: ["p1", "p2"], query: null };

function showSelected(selection: Selection = two, filter: PeopleFilter = everybody) {
  serve({ "GET /api/designs": [] });
  const select = vi.fn<(selection: Selection) => void>();
  const user = show(<ManyAtOnce selection={selection} filter={filter} found={412} fields={fields} onSelect={select} />);
  return { user, select };
}

describe("people who are selected", () => {
  it("are nobody: nothing is shown", () => {
    showSelected(nobody);
    expect(screen.queryByRole("region", { name: "Selected people" })).toBeNull();
  });

  it("get a value, which may be an explicit blank", async () => {
    serve({ "POST /api/people/overrides": "" });
    const { user } = showSelected();
    await press(user, "Set a value");
    await write(user, "Value", "Vet");
    await press(user, "Set for 2");
    expect(lastBody()).toEqual({ people: ids, field: "title", value: "Vet" });
    await press(user, "Set a value");
    await press(user, "Set for 2");
    expect(lastBody()).toEqual({ people: ids, field: "title", value: "" });
  });

  it("lose what was set for them", async () => {
    serve({ "POST /api/people/overrides": "" });
    const { user } = showSelected();
    await press(user, "Set a value");
    await choose(user, "Field to set", "Mobile");
    await press(user, "Take overrides out");
    expect(lastBody()).toEqual({ people: ids, field: "mobile", value: null });
  });

  it("are offered only fields that people have and that nobody else decides", async () => {
    const { user } = showSelected();
    await press(user, "Set a value");
    await press(user, "Field to set");
    expect((await screen.findAllByRole("option")).map((option) => option.textContent.replace("✓", ""))).toEqual([
      "Title",
      "Pronouns",
      "Mobile",
    ]);
  });

  it("may set a field for themselves, and may not any more", async () => {
    serve({ "POST /api/people/opened": "" });
    const { user } = showSelected();
    await press(user, "Open a field");
    await press(user, "Open for 2");
    expect(lastBody()).toEqual({ people: ids, field: "pronouns", isOpen: true });
    await press(user, "Open a field");
    await press(user, "Close it for them again");
    expect(lastBody()).toEqual({ people: ids, field: "pronouns", isOpen: false });
  });

  it("are everybody who is found, by what was asked, not by name", async () => {
    serve({ "POST /api/people/overrides": "" });
    const { user } = showSelected({ ...nobody, all: true }, { ...everybody, search: "holt", missing: "mobile" });
    expect(await screen.findByText("412 people selected")).toBeTruthy();
    await press(user, "Set a value");
    await press(user, "Set for 412");
    expect(lastBody()).toMatchObject({
      people: { ids: null, query: { search: "holt", missing: "mobile", state: "active", office: null } },
    });
  });

  it("are retired only after a second yes, and then nobody is selected", async () => {
    serve({ "POST /api/people/retire": "" });
    const { user, select } = showSelected();
    await press(user, "Retire");
    await press(user, "Leave");
    expect(changes()).toEqual([]);
    await press(user, "Retire");
    await press(user, "Retire 2");
    expect(lastBody()).toEqual({ people: ids, isRetired: true });
    await vi.waitFor(() => expect(select).toHaveBeenCalledWith(nobody));
  });

  it("come back where the retired are listed", async () => {
    serve({ "POST /api/people/retire": "" });
    const { user } = showSelected(two, { ...everybody, state: "retired" });
    await press(user, "Bring back");
    await press(user, "Bring 2 back");
    expect(lastBody()).toEqual({ people: ids, isRetired: false });
  });

  it("stay selected when it is refused", async () => {
    serve({ "POST /api/people/retire": new Refusal(409, "One of them changed.", "Look again.") });
    const { user, select } = showSelected();
    await press(user, "Retire");
    await press(user, "Retire 2");
    expect(await trouble()).toBe("One of them changed.Look again.");
    expect(select).not.toHaveBeenCalled();
  });

  it("are exported as a file that the browser keeps", async () => {
    serve({ "POST /api/people/export": { a: "file" } });
    const saved: string[] = [];
    URL.createObjectURL = () => "blob:file";
    URL.revokeObjectURL = () => undefined;
    const click = vi.spyOn(HTMLAnchorElement.prototype, "click").mockImplementation(function (this: HTMLAnchorElement) {
      saved.push(this.download);
    });
    const { user } = showSelected();
    await choose(user, "Export", "as vCard");
    await vi.waitFor(() => expect(saved).toEqual(["people.vcf"]));
    expect(lastBody()).toEqual({ people: ids, format: "vcard" });
    click.mockRestore();
  });
});
