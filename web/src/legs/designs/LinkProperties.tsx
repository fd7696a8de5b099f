import { X } from "lucide-react";
import { useState } from "react";
import type { Api } from "../../api/client";
import { Button } from "../../kit/Button";
import { Choice } from "../../kit/Choice";
import { roles, type Fields, type Props } from "./blockForm";
import { leads, type LinkItem } from "./designState";
import { Library } from "./Library";
import { IconSizeRow, Row, TextInput, Titled } from "./Row";

/** Links in a line. */
export function LinkRowProperties({ block, fields, onChange }: Props<Api["BlockLinkRow"]>) {
  const set = (items: LinkItem[], mergeKey: string) => onChange("edit a link row", { ...block, items }, mergeKey);
  return (
    <Titled title="Link row">
      <Row label="Role">
        <Choice
          label="Role"
          value={block.role}
          options={roles}
          onChange={(role) => onChange("role of a link row", { ...block, role }, "")}
        />
      </Row>
      <Row label="Between links">
        <TextInput
          label="Between links"
          value={block.separator}
          onChange={(separator) => onChange("separator", { ...block, separator }, "separator")}
        />
      </Row>
      <IconSizeRow
        without="words"
        value={block.iconSize ?? 0}
        onChange={(iconSize) => onChange("icons of a link row", { ...block, iconSize }, "icons")}
      />
      <h3 className="mt-3 border-t border-line pt-3 text-soft">Links</h3>
      {block.items.map((item, index) => (
        <div key={index} className="flex items-start gap-1 border-b border-line pb-2">
          <LinkEditor
            number={index + 1}
            item={item}
            fields={fields}
            hasIcon={(block.iconSize ?? 0) > 0}
            onChange={(next, mergeKey) =>
              set(
                block.items.map((before, other) => (other === index ? next : before)),
                mergeKey && `${mergeKey} ${index}`,
              )
            }
          />
          <Button
            look="quiet"
            label={`Take out link ${index + 1}`}
            onClick={() =>
              set(
                block.items.filter((_, other) => other !== index),
                "",
              )
            }
          >
            <X size={16} aria-hidden />
          </Button>
        </div>
      ))}
      <div>
        <Button onClick={() => set([...block.items, { label: "", field: "webAddress", address: "" }], "")}>
          Add a link
        </Button>
      </div>
      <p className="text-second text-soft">A link whose field leads nowhere disappears, with the separator.</p>
    </Titled>
  );
}

/** One link as a filled box. */
export function ButtonProperties({ block, fields, onChange }: Props<Api["BlockButton"]>) {
  return (
    <Titled title="Button">
      <LinkEditor
        number={1}
        item={block.item}
        fields={fields}
        hasIcon={false}
        onChange={(item, mergeKey) => onChange("edit a button", { ...block, item }, mergeKey)}
      />
      <p className="text-second text-soft">
        It has the colour of names, and black or white text, whichever stands out better.
      </p>
    </Titled>
  );
}

type LinkEditorProps = {
  number: number;
  item: LinkItem;
  fields: Fields;
  hasIcon: boolean;
  onChange: (item: LinkItem, mergeKey: string) => void;
};

function LinkEditor({ number, item, fields, hasIcon, onChange }: LinkEditorProps) {
  const label = fields.find((field) => field.name === item.field)?.label;
  // An address is saved once it is one; until then the field stays.
  const [isFixed, setFixed] = useState(item.field === "");
  const [isPicking, setPicking] = useState(false);
  const hasOwn = (item.icon ?? "") !== "";
  return (
    <div className="flex min-w-0 flex-1 flex-col gap-1">
      <Row label="Leads to">
        <Choice
          label={`Link ${number} leads to`}
          value={isFixed ? "" : item.field}
          options={[
            ...fields.filter(leads).map((field) => ({ value: field.name, label: field.label })),
            { value: "", label: "a fixed address" },
          ]}
          onChange={(field) => {
            setFixed(field === "");
            if (field !== "") onChange({ ...item, field, address: "" }, "");
          }}
        />
      </Row>
      {isFixed && (
        <Row label="Address">
          <TextInput
            label={`Address of link ${number}`}
            value={item.address}
            placeholder="https://"
            isValid={(text) => /^https?:\/\/[^\s@]+\.[^\s@]+$/.test(text)}
            hint="An http or https address."
            onChange={(address) =>
              onChange({ ...item, label: item.label || (label ?? "Website"), field: "", address }, "address")
            }
          />
        </Row>
      )}
      <Row label="Reads">
        <TextInput
          label={`Words of link ${number}`}
          value={item.label}
          placeholder={label ?? "words"}
          isValid={(text) => item.field !== "" || text.trim() !== ""}
          hint="A fixed address needs words to read."
          onChange={(words) => onChange({ ...item, label: words }, "label")}
        />
      </Row>
      {hasIcon && (
        <Row label="Icon">
          <Choice
            label={`Icon of link ${number}`}
            value={hasOwn || isPicking ? "own" : "kind"}
            options={[
              { value: "kind", label: "of its kind" },
              { value: "own", label: "one of your own" },
            ]}
            onChange={(icon) => {
              setPicking(icon === "own");
              if (icon === "kind") onChange({ ...item, icon: "" }, "");
            }}
          />
        </Row>
      )}
      {hasIcon && (hasOwn || isPicking) && (
        <Library
          label={`The library, for link ${number}`}
          value={item.icon ?? ""}
          onPick={(picture) => onChange({ ...item, icon: picture.sha256 }, "")}
        />
      )}
    </div>
  );
}
