import { X } from "lucide-react";
import { Button } from "../../kit/Button";
import { Choice } from "../../kit/Choice";
import { roles, type Fields } from "./blockForm";
import { fieldRun, leadingTo, leads, linkChoice, type Run } from "./designState";
import { TextInput } from "./Row";

type PartEditorProps = {
  title?: string;
  number: number;
  runs: readonly Run[];
  fields: Fields;
  onChange: (runs: Run[], mergeKey: string) => void;
};

/** A stretch of a line: fields and texts, each with its marks. */
export function PartEditor({ title = "", number, runs, fields, onChange }: PartEditorProps) {
  const replace = (at: number, run: Run, mergeKey: string) =>
    onChange(
      runs.map((before, index) => (index === at ? run : before)),
      mergeKey,
    );
  return (
    <fieldset className="flex flex-col gap-1.5 rounded-[4px] border border-line p-2">
      <legend className="px-1 text-small text-soft">{title || `Part ${number}`}</legend>
      {runs.map((run, index) => (
        <div key={index} className="flex items-start gap-1">
          {run.kind === "field" ? (
            <div className="flex min-w-0 flex-1 flex-col gap-1">
              <FieldChoice
                label={`Field in part ${number}`}
                value={run.field}
                fields={fields}
                onChange={(field) => replace(index, { ...run, field }, "")}
              />
              <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
                <Marks run={run} number={number} onChange={(marked) => replace(index, marked, "")} />
                <Choice
                  label={`Letters in part ${number}`}
                  look="condition"
                  value={run.case ?? "asItIs"}
                  options={letterCases}
                  onChange={(letters) => replace(index, { ...run, case: letters }, "")}
                />
                <Choice
                  label={`In place of an empty ${fields.find((field) => field.name === run.field)?.label ?? run.field}`}
                  look="condition"
                  value={run.fallback}
                  options={[
                    { value: "", label: "else nothing" },
                    ...fields
                      .filter((field) => field.name !== run.field)
                      .map((field) => ({ value: field.name, label: `else ${field.label}` })),
                  ]}
                  onChange={(fallback) => replace(index, { ...run, fallback }, "")}
                />
                <LinkOfRun
                  run={run}
                  number={number}
                  fields={fields}
                  onChange={(led, key) => replace(index, led, key)}
                />
              </div>
              <TextInput
                label={`Label of the field in part ${number}`}
                value={run.label ?? ""}
                placeholder="label, gone with the value"
                onChange={(label) => replace(index, { ...run, label }, `label ${index}`)}
              />
            </div>
          ) : (
            <div className="flex min-w-0 flex-1 flex-col gap-1">
              <TextInput
                label={`Text in part ${number}`}
                value={run.text}
                placeholder="text"
                onChange={(text) => replace(index, { ...run, text }, `text ${index}`)}
              />
              <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
                <Marks run={run} number={number} onChange={(marked) => replace(index, marked, "")} />
                <LinkOfRun
                  run={run}
                  number={number}
                  fields={fields}
                  onChange={(led, key) => replace(index, led, key)}
                />
              </div>
            </div>
          )}
          <Button
            look="quiet"
            label={`Take out of part ${number}`}
            onClick={() =>
              onChange(
                runs.filter((_, other) => other !== index),
                "",
              )
            }
          >
            <X size={16} aria-hidden />
          </Button>
        </div>
      ))}
      <div className="flex gap-1">
        <Button look="quiet" onClick={() => onChange([...runs, fieldRun(fields[0]?.name ?? "displayName")], "")}>
          Add a field
        </Button>
        <Button look="quiet" onClick={() => onChange([...runs, { kind: "text", text: "" }], "")}>
          Add text
        </Button>
      </div>
    </fieldset>
  );
}

const letterCases = [
  { value: "asItIs", label: "letters as they are" },
  { value: "capitals", label: "CAPITALS" },
  { value: "small", label: "small letters" },
  { value: "names", label: "Names as Written" },
] as const;

type LinkOfRunProps = { run: Run; number: number; fields: Fields; onChange: (run: Run, mergeKey: string) => void };

/** Where a piece of text leads. */
function LinkOfRun({ run, number, fields, onChange }: LinkOfRunProps) {
  const own = run.kind === "field" ? run.field : "";
  const choice = linkChoice(run);
  return (
    <>
      <Choice
        label={`Link of part ${number}`}
        look="condition"
        value={choice}
        options={[
          { value: "", label: "no link" },
          ...fields.filter(leads).map((field) => ({
            value: `field ${field.name}`,
            label: field.name === own ? "linked itself" : `leads to ${field.label}`,
          })),
          { value: "address", label: "leads to an address" },
        ]}
        onChange={(next) => onChange(leadingTo(run, next), "")}
      />
      {choice === "address" && (
        <TextInput
          label={`Address that part ${number} leads to`}
          value={run.linkAddress ?? ""}
          placeholder="https://"
          onChange={(linkAddress) => onChange({ ...run, linkAddress }, `address ${number}`)}
        />
      )}
    </>
  );
}

type MarksProps = { run: Run; number: number; onChange: (run: Run) => void };

/** How a piece of text differs from its line. */
function Marks({ run, number, onChange }: MarksProps) {
  const look = (isOn: boolean | undefined) =>
    `min-h-6 min-w-6 rounded-[3px] border px-1 ${isOn ? "border-ink bg-fold" : "border-line text-soft hover:text-ink"}`;
  return (
    <div className="flex items-center gap-2 text-second">
      <button
        type="button"
        aria-label={`Bold in part ${number}`}
        aria-pressed={run.isBold ?? false}
        className={`${look(run.isBold)} font-semibold`}
        onClick={() => onChange({ ...run, isBold: !run.isBold })}
      >
        B
      </button>
      <button
        type="button"
        aria-label={`Italic in part ${number}`}
        aria-pressed={run.isItalic ?? false}
        className={`${look(run.isItalic)} italic`}
        onClick={() => onChange({ ...run, isItalic: !run.isItalic })}
      >
        I
      </button>
      <Choice
        label={`Role in part ${number}`}
        look="condition"
        value={run.role ?? "line"}
        options={[{ value: "line", label: "like the line" }, ...roles]}
        onChange={(role) => onChange({ ...run, role: role === "line" ? null : role })}
      />
    </div>
  );
}

/** A field, by its label. */
export function FieldChoice({
  label,
  value,
  fields,
  onChange,
}: {
  label: string;
  value: string;
  fields: Fields;
  onChange: (field: string) => void;
}) {
  return (
    <div className="min-w-0 flex-1">
      <Choice
        label={label}
        value={value}
        options={fields.map((field) => ({ value: field.name, label: field.label }))}
        onChange={onChange}
      />
    </div>
  );
}
