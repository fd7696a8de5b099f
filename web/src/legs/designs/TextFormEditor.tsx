import { Choice } from "../../kit/Choice";
import type { Api } from "../../api/client";
import { Button } from "../../kit/Button";
import type { Fields } from "./blockForm";
import { fieldRun, type Run } from "./designState";
import { PartEditor } from "./PartEditor";
import { Row } from "./Row";

type TextForm = readonly Api["Part"][] | null | undefined;
type TextFormEditorProps = {
  form: TextForm;
  fields: Fields;
  onChange: (form: Api["Part"][] | null, mergeKey: string) => void;
};

const ways = [
  { value: "made", label: "made from the block" },
  { value: "own", label: "lines of its own" },
  { value: "out", label: "left out" },
] as const;

/** How a block stands in plain text. */
export function TextFormEditor({ form, fields, onChange }: TextFormEditorProps) {
  const way = !form ? "made" : form.length === 0 ? "out" : "own";
  const set = (at: number, runs: Run[], mergeKey: string) =>
    onChange(
      (form ?? []).map((part, index) => (index === at ? { runs } : part)).filter((part) => part.runs.length > 0),
      mergeKey && `${at} ${mergeKey}`,
    );
  return (
    <section aria-label="As plain text" className="mt-4 flex flex-col gap-2 border-t border-line pt-3">
      <Row label="In text">
        <Choice
          label="In plain text"
          value={way}
          options={ways}
          onChange={(next) =>
            onChange(next === "made" ? null : next === "out" ? [] : [{ runs: [fieldRun("displayName")] }], "")
          }
        />
      </Row>
      {way === "own" && (
        <>
          {form?.map((part, index) => (
            <PartEditor
              key={index}
              title={`Line ${index + 1}`}
              number={index + 1}
              runs={part.runs}
              fields={fields}
              onChange={(runs, mergeKey) => set(index, runs, mergeKey)}
            />
          ))}
          <div>
            <Button onClick={() => onChange([...(form ?? []), { runs: [{ kind: "text", text: "" }] }], "")}>
              Add a line
            </Button>
          </div>
        </>
      )}
    </section>
  );
}
