import { X } from "lucide-react";
import type { Api } from "../../api/client";
import { Button } from "../../kit/Button";
import { Choice } from "../../kit/Choice";
import type { Act } from "./DesignBench";
import { withRuns, type Block, type ContactList, type Run, type TextLine } from "./designState";
import { Row, TextInput } from "./Row";
import { Size } from "./ThemeProperties";

type Fields = readonly Api["FieldAnswer"][];
type Props<T> = { block: T; fields: Fields; onChange: (label: string, block: T, mergeKey: string) => void };

const roles = [
  { value: "name", label: "Name: large, bold" },
  { value: "text", label: "Text" },
  { value: "soft", label: "Second text" },
  { value: "small", label: "Small print" },
] as const;

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
    case "gap":
      return (
        <Titled title="Gap">
          <Row label="Height">
            <Size
              label="Height"
              unit="px"
              least={1}
              most={100}
              value={block.height}
              onChange={(height) => change("height of a gap", { ...block, height }, "height")}
            />
          </Row>
        </Titled>
      );
    case "columns":
      return (
        <Titled title="Columns">
          <Row label="Between">
            <Size
              label="Space between columns"
              unit="px"
              least={0}
              most={100}
              value={block.space}
              onChange={(space) => change("space between columns", { ...block, space }, "space")}
            />
          </Row>
          <p className="text-second text-soft">A column without content gives its room away.</p>
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

function Titled({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <div className="flex flex-col gap-2">
      <h2 className="font-semibold text-soft">{title}</h2>
      {children}
    </div>
  );
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
                parts: [...block.parts, { runs: [{ kind: "field", field: fields[0]?.name ?? "displayName" }] }],
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
            <FieldChoice
              label={`Field in part ${number}`}
              value={run.field}
              fields={fields}
              onChange={(field) => replace(index, { kind: "field", field }, "")}
            />
          ) : (
            <TextInput
              label={`Text in part ${number}`}
              value={run.text}
              placeholder="text"
              onChange={(text) => replace(index, { kind: "text", text }, `text ${index}`)}
            />
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
        <Button
          look="quiet"
          onClick={() => onChange([...runs, { kind: "field", field: fields[0]?.name ?? "displayName" }], "")}
        >
          Add a field
        </Button>
        <Button look="quiet" onClick={() => onChange([...runs, { kind: "text", text: "" }], "")}>
          Add text
        </Button>
      </div>
    </fieldset>
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
      <Row label="Width">
        <Size
          label="Width"
          unit="px"
          least={1}
          most={800}
          value={block.width}
          onChange={(width) => onChange("width of a picture", { ...block, width }, "width")}
        />
      </Row>
      <Row label="Height">
        <Size
          label="Height"
          unit="px"
          least={1}
          most={400}
          value={block.height}
          onChange={(height) => onChange("height of a picture", { ...block, height }, "height")}
        />
      </Row>
    </Titled>
  );
}
