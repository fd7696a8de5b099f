import { describe, expect, it } from "vitest";
import type { Api } from "../../api/client";
import { addField, checkText, ruleOf, fieldName, employeeWay, setEmployeeWay } from "./fieldState";

const none: Api["FieldSet"] = { own: [], standard: {} };

describe("fields of one's own", () => {
  it("get a stable name from their label", () => {
    expect(fieldName("Licence no. (vet)")).toBe("licenceNoVet");
    expect(fieldName("Höhe")).toBe("hohe");
    expect(fieldName("2nd phone")).toBe("field2ndPhone");
  });

  it("keep the fields that are there, and take choices only when they are choices", () => {
    const field = {
      label: "Species",
      kind: "choice" as const,
      choices: "cat, dog, ",
      attribute: " species ",
      holders: ["person" as const],
      profile: null,
    };
    const set = addField(addField(none, { ...field, label: "First", kind: "text" }), field);
    expect(set.own.map((own) => own.name)).toEqual(["first", "species"]);
    expect(set.own.map((own) => own.rule.choices)).toEqual([[], ["cat", "dog"]]);
    expect(set.own[1]?.attributes).toEqual(["species"]);
  });

  it("are profile links only when they are web addresses", () => {
    const link = {
      label: "Films",
      kind: "web" as const,
      choices: "",
      attribute: "",
      holders: ["company" as const],
      profile: "video" as const,
    };
    const set = addField(addField(none, link), { ...link, label: "Text", kind: "text" });
    expect(set.own.map((own) => own.profile)).toEqual(["video", null]);
  });

  it("are opened where they stand, and standard fields by a setting", () => {
    const rule = { isOpen: false, needsApproval: false, pattern: "", maxLength: 0, choices: [] };
    const standard = {
      name: "mobile",
      label: "Mobile",
      kind: "phone" as const,
      isCompanyMade: false,
      holders: [],
      rule,
      display: "international" as const,
      attributes: [],
      isOfMailbox: true,
      profile: null,
    };
    expect(setEmployeeWay(none, standard, "ask").standard.mobile?.rule.isOpen).toBe(true);
    const own = addField(none, {
      label: "Badge",
      kind: "text",
      choices: "",
      attribute: "",
      holders: ["person"],
      profile: null,
    });
    const opened = setEmployeeWay(own, { ...standard, name: "badge", isCompanyMade: true }, "set");
    expect(opened.own[0]?.rule.isOpen).toBe(true);
    expect(opened.standard).toEqual({});
    expect(employeeWay({ ...standard, rule: { ...rule, isOpen: true, needsApproval: true } })).toBe("ask");
  });
});

it("a check reads as a sentence and comes back as it was typed", () => {
  const rule = { isOpen: true, needsApproval: false, pattern: "", maxLength: 0, choices: [] };
  expect(checkText(rule)).toBe("not checked further");
  const checked = ruleOf(rule, { maxLength: "7", pattern: " B-[0-9]{5} ", choices: "" });
  expect(checkText(checked)).toBe("at most 7, like B-[0-9]{5}");
  expect(ruleOf(rule, { maxLength: "", pattern: "", choices: "red, , blue" }).choices).toEqual(["red", "blue"]);
});
