import { useRef, useState, type KeyboardEvent } from "react";
import { Link, useParams } from "react-router";
import type { Api } from "../../api/client";
import { Button } from "../../kit/Button";
import { sizeText } from "../../kit/dates";
import { Page } from "../../kit/Page";
import { SignatureFrame } from "../../kit/SignatureFrame";
import { Trouble } from "../../kit/Trouble";
import { useLens, useLensAnswer } from "../../lens/lensState";
import { AddBlock } from "./AddBlock";
import { BlockProperties } from "./BlockProperties";
import type { Fields } from "./blockForm";
import { blockName, outline, type Block, type Design, type DesignAction } from "./designState";
import { freshKey, neighbour } from "./designTree";
import { ThemeProperties } from "./ThemeProperties";
import { useDesign, useFields } from "./useDesign";

export type Act = (label: string, action: DesignAction, mergeKey?: string) => void;

/** One design: its blocks, how it looks on a real person, and the properties of what is selected. */
export function DesignBench() {
  const { id = "" } = useParams();
  return <Bench key={id} id={id} />;
}

function Bench({ id }: { id: string }) {
  const { design, error, failure, reload, act } = useDesign(id);
  const fields = useFields();
  const { lens } = useLens();
  const answer = useLensAnswer(lens, id);
  const [selected, setSelected] = useState<string | null>(null);
  if (!design)
    return (
      <div className="p-6">
        <Trouble error={error} />
      </div>
    );
  const label = (field: string) => fields.data?.find((candidate) => candidate.name === field)?.label ?? field;
  const readable = (fields.data ?? []).filter((field) => field.kind !== "picture");
  const block = selected === null ? null : design.blocks[selected];
  const copy = (key: string) => {
    const twin = freshKey(design, design.blocks[key]?.kind ?? "block");
    act("copy a block", { kind: "copy", key, copy: twin });
    setSelected(twin);
  };
  const remove = (key: string) => {
    setSelected(neighbour(design, key));
    act("take out a block", { kind: "remove", key });
  };
  return (
    <Page
      title={design.name || "Unnamed"}
      lede={
        <>
          <Link to="/designs" className="underline">
            All designs
          </Link>
          . Saved as a draft with every change; nobody gets it before an edition is published.
        </>
      }
    >
      <div className="flex h-full min-h-0 flex-col gap-3">
        {failure && (
          <div className="flex flex-col items-start gap-2">
            <Trouble error={failure} />
            <Button onClick={reload}>Load the newest state</Button>
          </div>
        )}
        <div className="grid min-h-0 flex-1 grid-cols-[250px_1fr_290px] gap-6">
          <Outline
            design={design}
            fields={readable}
            label={label}
            selected={block ? selected : null}
            onSelect={setSelected}
            act={act}
          />
          <Previews answer={answer.data} />
          <div className="min-h-0 overflow-y-auto pr-1 pb-4">
            {block && selected !== null ? (
              <>
                <BlockProperties key={selected} blockKey={selected} block={block} fields={readable} act={act} />
                <div className="mt-4 flex gap-2 border-t border-line pt-3">
                  <Button onClick={() => copy(selected)}>Copy the block</Button>
                  <Button onClick={() => remove(selected)}>Take it out</Button>
                </div>
              </>
            ) : (
              <ThemeProperties design={design} act={act} />
            )}
          </div>
        </div>
      </div>
    </Page>
  );
}

type OutlineProps = {
  design: Design;
  fields: Fields;
  label: (field: string) => string;
  selected: string | null;
  onSelect: (key: string | null) => void;
  act: Act;
};

function Outline({ design, fields, label, selected, onSelect, act }: OutlineProps) {
  const rows = useRef(new Map<string, HTMLButtonElement>());
  const add = (block: Block) => {
    const key = freshKey(design, block.kind);
    act("add a block", { kind: "add", key, block, below: selected });
    onSelect(key);
  };
  const press = (event: KeyboardEvent, key: string) => {
    const steps = { ArrowUp: "move", ArrowDown: "move", ArrowLeft: "across", ArrowRight: "across" } as const;
    if (event.altKey && event.key in steps) {
      event.preventDefault();
      const by = event.key === "ArrowUp" || event.key === "ArrowLeft" ? -1 : 1;
      act("move a block", { kind: steps[event.key as keyof typeof steps], key, by });
    }
    if (event.key === "Delete") {
      event.preventDefault();
      const next = neighbour(design, key);
      onSelect(next);
      act("take out a block", { kind: "remove", key });
      // The focus goes on to the block that is looked at now.
      if (next !== null) rows.current.get(next)?.focus();
    }
  };
  const look = (isSelected: boolean) =>
    `block w-full truncate rounded-[3px] py-1 pr-2 text-left min-h-7 ${isSelected ? "bg-sheet font-semibold shadow-[inset_3px_0_0_var(--color-baton)]" : "hover:bg-fold"}`;
  return (
    <nav aria-label="Blocks" className="min-h-0 overflow-y-auto">
      <h2 className="mb-1 font-semibold text-soft">Build</h2>
      <button
        type="button"
        aria-current={selected === null}
        className={`${look(selected === null)} pl-3`}
        onClick={() => onSelect(null)}
      >
        Theme and name
      </button>
      <ul>
        {outline(design).map((row) => (
          <li key={row.key}>
            <button
              type="button"
              ref={(element) => {
                if (element) rows.current.set(row.key, element);
                else rows.current.delete(row.key);
              }}
              aria-current={row.key === selected}
              className={look(row.key === selected)}
              style={{ paddingLeft: 12 + row.depth * 16 }}
              onClick={() => onSelect(row.key)}
              onKeyDown={(event) => press(event, row.key)}
            >
              {blockName(row.block, label)}
            </button>
          </li>
        ))}
      </ul>
      <AddBlock
        fields={fields}
        where={
          selected === null
            ? "It comes at the end."
            : design.blocks[selected]?.kind === "columns"
              ? "It comes into the selected columns."
              : "It comes below the selected block."
        }
        onAdd={add}
      />
      <p className="mt-3 border-t border-line pt-2 text-small text-soft">
        Alt ↑ ↓ move the block with the focus, Alt ← → between columns, into and out of them. Del takes it out.
      </p>
    </nav>
  );
}

function Previews({ answer }: { answer: Api["LensAnswer"] | undefined }) {
  const signature = answer?.signature;
  if (answer && !answer.person)
    return <p className="text-soft">Add people first: a design is always shown on a real person.</p>;
  return (
    <div className="flex min-h-0 flex-col gap-3.5">
      <section
        aria-label="Through the lens"
        className="flex min-h-0 flex-[3] flex-col rounded-[6px] border border-line bg-sheet"
      >
        <PreviewHead
          title="Through the lens"
          who={answer?.person?.name}
          note={signature ? sizeText(signature.bytes) : ""}
        />
        <div className="min-h-0 flex-1 bg-mail-light p-4">
          {signature && <SignatureFrame html={signature.html} title="The design through the lens" />}
        </div>
      </section>
      <section
        aria-label="As plain text"
        className="flex min-h-0 flex-[2] flex-col rounded-[6px] border border-line bg-sheet"
      >
        <PreviewHead title="As plain text" who={answer?.person?.name} note="for messages without formatting" />
        <pre tabIndex={0} className="min-h-0 flex-1 overflow-auto px-4 py-3 font-mono text-second">
          {signature?.text}
        </pre>
      </section>
    </div>
  );
}

function PreviewHead({ title, who, note }: { title: string; who: string | undefined; note: string }) {
  return (
    <div className="flex items-baseline justify-between border-b border-line px-4 py-2 text-second">
      <span>
        <b className="font-semibold">{title}</b> <span className="text-soft">{who}</span>
      </span>
      <span className="text-soft">{note}</span>
    </div>
  );
}
