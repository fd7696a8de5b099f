import { X } from "lucide-react";
import { Button } from "../../kit/Button";
import { Choice, Several } from "../../kit/Choice";
import type { Fields } from "./blockForm";
import { conditionWords, type BlockCondition } from "./designState";
import { TextInput } from "./Row";
import { useRuleNames } from "../rules/useRules";

type ConditionEditorProps = {
  conditions: readonly BlockCondition[];
  fields: Fields;
  onChange: (conditions: BlockCondition[], mergeKey: string) => void;
};

const kinds = [
  { value: "field", label: "a field" },
  { value: "occasion", label: "the message" },
  { value: "audience", label: "the readers" },
] as const;

const tests = [
  { value: "present", label: "has a value" },
  { value: "absent", label: "has none" },
  { value: "oneOf", label: "is one of" },
  { value: "noneOf", label: "is none of" },
] as const;

const occasions = [
  { value: "new", label: "new" },
  { value: "reply", label: "a reply" },
  { value: "forward", label: "a forward" },
] as const;

/** What must hold for a block to show. */
export function ConditionEditor({ conditions, fields, onChange }: ConditionEditorProps) {
  const { audiences } = useRuleNames();
  const label = (name: string) => fields.find((field) => field.name === name)?.label ?? name;
  const replace = (at: number, next: BlockCondition, mergeKey = "") =>
    onChange(
      conditions.map((before, index) => (index === at ? next : before)),
      mergeKey,
    );
  return (
    <section aria-label="Shown when" className="mt-4 flex flex-col gap-2 border-t border-line pt-3">
      <h2 className="font-semibold text-soft">Shown when</h2>
      {conditions.length === 0 && <p className="text-second">Always.</p>}
      {conditions.map((condition, index) => (
        <div key={index} className="flex items-start gap-1">
          <div className="flex min-w-0 flex-1 flex-wrap items-baseline gap-x-2 gap-y-1">
            <span className="text-second text-soft">{index === 0 ? "when" : "and"}</span>
            <Choice
              label={`Condition ${index + 1} asks`}
              look="condition"
              value={condition.kind}
              options={kinds}
              onChange={(kind) => replace(index, fresh(kind))}
            />
            {condition.kind === "field" && (
              <>
                <Choice
                  label={`Field of condition ${index + 1}`}
                  look="condition"
                  value={condition.field}
                  options={fields.map((field) => ({ value: field.name, label: field.label }))}
                  onChange={(field) => replace(index, { ...condition, field })}
                />
                <Choice
                  label={`Test of condition ${index + 1}`}
                  look="condition"
                  value={condition.test}
                  options={tests}
                  onChange={(test) => replace(index, withTest(condition, test))}
                />
                {(condition.test === "oneOf" || condition.test === "noneOf") && (
                  <TextInput
                    label={`Values of condition ${index + 1}`}
                    value={condition.values.join(", ")}
                    placeholder="one, another"
                    isValid={(text) => text.split(",").some((value) => value.trim() !== "")}
                    hint="Name at least one."
                    onChange={(text) =>
                      replace(
                        index,
                        { ...condition, values: text.split(",").map((value) => value.trimStart()) },
                        `values ${index}`,
                      )
                    }
                  />
                )}
              </>
            )}
            {condition.kind === "occasion" && (
              <Several
                label={`Messages of condition ${index + 1}`}
                values={condition.occasions}
                options={occasions}
                text={conditionWords(condition, label).replace("the message is ", "is ")}
                onChange={(chosen) => chosen.length > 0 && replace(index, { ...condition, occasions: chosen })}
              />
            )}
            {condition.kind === "audience" && (
              <Several
                label={`Readers of condition ${index + 1}`}
                values={condition.audiences}
                options={audiences}
                text={condition.audiences
                  .map((key) => audiences.find((one) => one.value === key)?.label ?? key)
                  .join(" or ")}
                onChange={(chosen) => chosen.length > 0 && replace(index, { ...condition, audiences: chosen })}
              />
            )}
          </div>
          <Button
            look="quiet"
            label={`Take out condition ${index + 1}`}
            onClick={() =>
              onChange(
                conditions.filter((_, other) => other !== index),
                "",
              )
            }
          >
            <X size={16} aria-hidden />
          </Button>
        </div>
      ))}
      <div>
        <Button onClick={() => onChange([...conditions, fresh("field")], "")}>Add a condition</Button>
      </div>
    </section>
  );
}

function fresh(kind: BlockCondition["kind"]): BlockCondition {
  switch (kind) {
    case "field":
      return { kind, field: "title", test: "present", values: [] };
    case "occasion":
      return { kind, occasions: ["new"] };
    case "audience":
      return { kind, audiences: ["outside"] };
  }
}

/** A test that compares needs something to compare with. */
function withTest(
  condition: Extract<BlockCondition, { kind: "field" }>,
  test: (typeof tests)[number]["value"],
): BlockCondition {
  const compares = test === "oneOf" || test === "noneOf";
  return { ...condition, test, values: compares && condition.values.length === 0 ? ["…"] : condition.values };
}
