import { X } from "lucide-react";
import type { Api } from "../../api/client";
import { Button } from "../../kit/Button";
import { Choice } from "../../kit/Choice";
import { PictureInput } from "../../kit/PictureInput";
import type { Act } from "./DesignBench";
import {
  fieldRun,
  shownSize,
  withColumns,
  withRuns,
  type Block,
  type ContactList,
  type Run,
  type TextLine,
} from "./designState";
import { roles, type Fields, type Props } from "./blockForm";
import { Row, SizeRow, TextInput, Titled } from "./Row";
import { ButtonProperties, LinkRowProperties } from "./LinkProperties";

/** The properties of the selected block. */
export function BlockProperties({
  blockKey,
  block,
  fields,
  act,
}: {
  blockKey: string;
  block: Block;
  fields: Fields;
  act: Act;
}) {
  const change = (label: string, next: Block, mergeKey: string) =>
    act(label, { kind: "block", key: blockKey, block: next }, mergeKey && `${blockKey} ${mergeKey}`);
  switch (block.kind) {
    case "textLine":
      return <TextLineProperties block={block} fields={fields} onChange={change} />;
    case "contactList":
      return <ContactProperties block={block} fields={fields} onChange={change} />;
    case "picture":
      return <PictureProperties block={block} fields={fields} onChange={change} />;
    case "linkRow":
      return <LinkRowProperties block={block} fields={fields} onChange={change} />;
    case "button":
      return <ButtonProperties block={block} fields={fields} onChange={change} />;
    case "gap":
      return (
        <Titled title="Gap">
          <SizeRow
            row="Height"
            label="Height"
            unit="px"
            least={1}
            most={100}
            value={block.height}
            onChange={(height) => change("height of a gap", { ...block, height }, "height")}
          />
        </Titled>
      );
    case "columns":
      return (
        <Titled title="Columns">
          <SizeRow
            row="Between"
            label="Space between columns"
            unit="px"
            least={0}
            most={100}
            value={block.space}
            onChange={(space) => change("space between columns", { ...block, space }, "space")}
          />
          <SizeRow
            row="Columns"
            label="How many columns"
            unit=""
            least={1}
            most={4}
            value={block.children.length}
            onChange={(columns) => change("number of columns", withColumns(block, columns), "")}
          />
          <p className="text-second text-soft">
            A column without content gives its room away. Of columns that are too many, the content moves to the last
            one left.
          </p>
        </Titled>
      );
    case "divider":
      return (
        <Titled title="Divider">
          <p className="text-second text-soft">
            A thin line in the theme’s line colour. It goes when nothing stands before or after it.
          </p>
        </Titled>
      );
  }
}

function TextLineProperties({ block, fields, onChange }: Props<TextLine>) {
  return (
    <Titled title="Text line">
      <Row label="Role">
        <Choice
          label="Role"
          value={block.role}
          options={roles}
          onChange={(role) => onChange("role of a text line", { ...block, role }, "")}
        />
      </Row>
      <Row label="Between parts">
        <TextInput
          label="Between parts"
          value={block.separator}
          onChange={(separator) => onChange("separator", { ...block, separator }, "separator")}
        />
      </Row>
      <h3 className="mt-3 border-t border-line pt-3 text-soft">Parts</h3>
      {block.parts.map((part, index) => (
        <PartEditor
          key={index}
          number={index + 1}
          runs={part.runs}
          fields={fields}
          onChange={(runs, mergeKey) =>
            onChange("edit a text line", withRuns(block, index, runs), mergeKey && `${index} ${mergeKey}`)
          }
        />
      ))}
      <div>
        <Button
          onClick={() =>
            onChange(
              "add a part",
              {
                ...block,
                parts: [...block.parts, { runs: [fieldRun(fields[0]?.name ?? "displayName")] }],
              },
              "",
            )
          }
        >
          Add a part
        </Button>
      </div>
      <p className="text-second text-soft">A part whose fields are all empty disappears, with the separator.</p>
    </Titled>
  );
}

type PartEditorProps = {
  number: number;
  runs: readonly Run[];
  fields: Fields;
  onChange: (runs: Run[], mergeKey: string) => void;
};

function PartEditor({ number, runs, fields, onChange }: PartEditorProps) {
  const replace = (at: number, run: Run, mergeKey: string) =>
    onChange(
      runs.map((before, index) => (index === at ? run : before)),
      mergeKey,
    );
  return (
    <fieldset className="flex flex-col gap-1.5 rounded-[4px] border border-line p-2">
      <legend className="px-1 text-small text-soft">Part {number}</legend>
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
              </div>
            </div>
          ) : (
            <div className="flex min-w-0 flex-1 flex-col gap-1">
              <TextInput
                label={`Text in part ${number}`}
                value={run.text}
                placeholder="text"
                onChange={(text) => replace(index, { ...run, text }, `text ${index}`)}
              />
              <Marks run={run} number={number} onChange={(marked) => replace(index, marked, "")} />
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

function FieldChoice({
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

function ContactProperties({ block, fields, onChange }: Props<ContactList>) {
  const setItem = (at: number, item: Api["ContactItem"], mergeKey: string) =>
    onChange(
      "edit a contact",
      { ...block, items: block.items.map((before, index) => (index === at ? item : before)) },
      mergeKey,
    );
  return (
    <Titled title="Contact list">
      <Row label="Set out">
        <Choice
          label="Set out"
          value={block.arrangement}
          options={[
            { value: "stacked", label: "One a line" },
            { value: "inline", label: "All in one line" },
          ]}
          onChange={(arrangement) => onChange("set out a contact list", { ...block, arrangement }, "")}
        />
      </Row>
      <Row label="Role">
        <Choice
          label="Role"
          value={block.role}
          options={roles}
          onChange={(role) => onChange("role of a contact list", { ...block, role }, "")}
        />
      </Row>
      {block.arrangement === "inline" && (
        <Row label="Between items">
          <TextInput
            label="Between items"
            value={block.separator}
            onChange={(separator) => onChange("separator", { ...block, separator }, "separator")}
          />
        </Row>
      )}
      <h3 className="mt-3 border-t border-line pt-3 text-soft">Items</h3>
      {block.items.map((item, index) => (
        <div key={index} className="grid grid-cols-[64px_1fr_auto] gap-1">
          <TextInput
            label={`Label of item ${index + 1}`}
            value={item.label}
            placeholder="label"
            onChange={(label) => setItem(index, { ...item, label }, `label ${index}`)}
          />
          <FieldChoice
            label={`Field of item ${index + 1}`}
            value={item.field}
            fields={fields}
            onChange={(field) => setItem(index, { ...item, field }, "")}
          />
          <Button
            look="quiet"
            label={`Take out item ${index + 1}`}
            onClick={() =>
              onChange("take out a contact", { ...block, items: block.items.filter((_, other) => other !== index) }, "")
            }
          >
            <X size={16} aria-hidden />
          </Button>
        </div>
      ))}
      <div>
        <Button
          onClick={() =>
            onChange("add a contact", { ...block, items: [...block.items, { label: "", field: "telephone" }] }, "")
          }
        >
          Add an item
        </Button>
      </div>
      <p className="text-second text-soft">An item without a value disappears with its label.</p>
    </Titled>
  );
}

function PictureProperties({ block, onChange }: Props<Api["BlockPicture"]>) {
  return (
    <Titled title="Picture">
      <PictureInput
        label="the signature"
        value={block.sha256}
        onChange={(sha256, size) => onChange("another picture", { ...block, sha256, ...shownSize(size) }, "")}
      />
      <Row label="Says">
        <TextInput
          label="Text for those who do not see it"
          value={block.altText}
          isValid={(text) => text.trim().length > 0}
          hint="A picture needs a text."
          onChange={(altText) => onChange("text of a picture", { ...block, altText }, "alt")}
        />
      </Row>
      <Row label="Leads to">
        <TextInput
          label="Leads to"
          value={block.link}
          placeholder="https://"
          isValid={(text) => text === "" || /^https?:\/\/[^\s@]+\.[^\s@]+$/.test(text)}
          hint="An http or https address, or nothing."
          onChange={(link) => onChange("link of a picture", { ...block, link }, "link")}
        />
      </Row>
      <SizeRow
        row="Width"
        label="Width"
        unit="px"
        least={1}
        most={800}
        value={block.width}
        onChange={(width) => onChange("width of a picture", { ...block, width }, "width")}
      />
      <SizeRow
        row="Height"
        label="Height"
        unit="px"
        least={1}
        most={400}
        value={block.height}
        onChange={(height) => onChange("height of a picture", { ...block, height }, "height")}
      />
    </Titled>
  );
}
