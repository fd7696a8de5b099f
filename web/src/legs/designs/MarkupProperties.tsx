import { FieldChoice } from "./PartEditor";
import { Row, Titled } from "./Row";
import type { Props } from "./blockForm";
import type { OwnMarkup } from "./designState";

/** HTML of one's own, as it was given; the server cleans it and the findings tell what was left out. */
export function MarkupProperties({ block, fields, onChange }: Props<OwnMarkup>) {
  const change = (markup: string, mergeKey: string) => onChange("HTML of one’s own", { ...block, markup }, mergeKey);
  return (
    <Titled title="Own HTML">
      <textarea
        aria-label="HTML"
        className="min-h-40 w-full rounded-[4px] border border-field bg-sheet px-2 py-1 font-mono text-second"
        spellCheck={false}
        maxLength={20000}
        value={block.markup}
        onChange={(event) => change(event.target.value, "markup")}
      />
      <Row label="Add">
        <FieldChoice
          label="Field to add"
          value=""
          fields={fields}
          onChange={(field) => change(`${block.markup}{${field}}`, "")}
        />
      </Row>
      <p className="text-second text-soft">
        A field’s name in braces stands for its value. Text, tables, links and plain styles stay; what is left out
        stands under the findings, with the reason. Pictures and link icons are blocks of their own.
      </p>
    </Titled>
  );
}
