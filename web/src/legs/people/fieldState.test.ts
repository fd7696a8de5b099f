import { describe, expect, it } from "vitest";
import type { Api } from "../../api/client";
import { addField, fieldName, employeeWay, setEmployeeWay } from "./fieldState";

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
    };
    const set = addField(addField(none, { ...field, label: "First", kind: "text" }), field);
    expect(set.own.map((own) => own.name)).toEqual(["first", "species"]);
    expect(set.own.map((own) => own.rule.choices)).toEqual([[], ["cat", "dog"]]);
    expect(set.own[1]?.attributes).toEqual(["species"]);
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
    };
    expect(setEmployeeWay(none, standard, "ask").standard.mobile?.rule.isOpen).toBe(true);
    const own = addField(none, { label: "Badge", kind: "text", choices: "", attribute: "", holders: ["person"] });
    const opened = setEmployeeWay(own, { ...standard, name: "badge", isCompanyMade: true }, "set");
    expect(opened.own[0]?.rule.isOpen).toBe(true);
    expect(opened.standard).toEqual({});
    expect(employeeWay({ ...standard, rule: { ...rule, isOpen: true, needsApproval: true } })).toBe("ask");
  });
});
