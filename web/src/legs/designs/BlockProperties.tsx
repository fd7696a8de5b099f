import { X } from "lucide-react";
import type { Api } from "../../api/client";
import { Button } from "../../kit/Button";
import { Choice } from "../../kit/Choice";
import type { Act } from "./DesignBench";
import { fieldRun, withColumns, withRuns, type Block, type ContactList, type TextLine } from "./designState";
import { roles, type Fields, type Props } from "./blockForm";
import { IconSizeRow, Row, SizeRow, TextInput, Titled } from "./Row";
import { ButtonProperties, LinkRowProperties } from "./LinkProperties";
import { MarkupProperties } from "./MarkupProperties";
import { FieldChoice, PartEditor } from "./PartEditor";
import { PictureProperties } from "./PictureProperties";
import { ConditionEditor } from "./ConditionEditor";
import { TextFormEditor } from "./TextFormEditor";

type BlockPropertiesProps = { blockKey: string; block: Block; everyField: Fields; act: Act };

/** The properties of the selected block: what it is, when it shows, and how it stands in text. */
export function BlockProperties({ blockKey, block, everyField, act }: BlockPropertiesProps) {
  const change = (label: string, next: Block, mergeKey: string) =>
    act(label, { kind: "block", key: blockKey, block: next }, mergeKey && `${blockKey} ${mergeKey}`);
  const fields = everyField.filter((field) => field.kind !== "picture");
  return (
    <>
      <Content block={block} fields={fields} everyField={everyField} onChange={change} />
      {block.kind !== "divider" && block.kind !== "gap" && block.kind !== "columns" && (
        <TextFormEditor
          form={block.textForm}
          fields={fields}
          onChange={(textForm, mergeKey) => change("text form of a block", { ...block, textForm }, mergeKey)}
        />
      )}
      <ConditionEditor
        conditions={block.when ?? []}
        fields={everyField}
        onChange={(when, mergeKey) => change("when a block shows", { ...block, when }, mergeKey)}
      />
    </>
  );
}

function Content({ block, fields, everyField, onChange: change }: Props<Block> & { everyField: Fields }) {
  switch (block.kind) {
    case "textLine":
      return <TextLineProperties block={block} fields={fields} onChange={change} />;
    case "contactList":
      return <ContactProperties block={block} fields={fields} onChange={change} />;
    case "picture":
      return <PictureProperties block={block} fields={fields} everyField={everyField} onChange={change} />;
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
          <Row label="Stand by">
            <Choice
              label="Columns stand by"
              value={block.alignment ?? "top"}
              options={alignments}
              onChange={(alignment) => change("alignment of columns", { ...block, alignment }, "")}
            />
          </Row>
          {block.children.map((_, column) => (
            <SizeRow
              key={column}
              row={`Column ${column + 1}`}
              label={`Width of column ${column + 1}`}
              unit="px, 0 for as wide as it needs"
              least={0}
              most={800}
              value={block.widths?.[column] ?? 0}
              onChange={(width) =>
                change(
                  "width of a column",
                  {
                    ...block,
                    widths: block.children.map((__, at) => (at === column ? width : (block.widths?.[at] ?? 0))),
                  },
                  `width ${column}`,
                )
              }
            />
          ))}
          <p className="text-second text-soft">
            A column without content gives its room away. Of columns that are too many, the content moves to the last
            one left.
          </p>
        </Titled>
      );
    case "bannerPlace":
      return (
        <Titled title="Banner place">
          <SizeRow
            row="Banners"
            label="Banners at most"
            unit="at most"
            least={1}
            most={3}
            value={block.most}
            onChange={(most) => change("banners at most", { ...block, most }, "most")}
          />
          <SizeRow
            row="Width"
            label="Width of banners"
            unit="px"
            least={100}
            most={800}
            value={block.width}
            onChange={(width) => change("width of banners", { ...block, width }, "width")}
          />
          <p className="text-second text-soft">Running banners stand here; while none runs, it takes no room.</p>
        </Titled>
      );
    case "noticePlace":
      return (
        <Titled title="Notice">
          <Row label="Role">
            <Choice
              label="Role"
              value={block.role}
              options={roles}
              onChange={(role) => change("role of the notice", { ...block, role }, "")}
            />
          </Row>
          <p className="text-second text-soft">
            The notice of the legal entity, office or company, as it stands under People, Company facts. Without one it
            takes no room.
          </p>
        </Titled>
      );
    case "ownMarkup":
      return <MarkupProperties block={block} fields={fields} onChange={change} />;
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

const alignments = [
  { value: "top", label: "their first lines" },
  { value: "middle", label: "their middles" },
  { value: "bottom", label: "their last lines" },
] as const;

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
      <IconSizeRow
        without="none"
        value={block.iconSize ?? 0}
        onChange={(iconSize) => onChange("icons of a contact list", { ...block, iconSize }, "icons")}
      />
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
