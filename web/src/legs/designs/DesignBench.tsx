import { useEffect, useRef, useState, type KeyboardEvent } from "react";
import { listenForDrag } from "../../kit/rowDrag";
import { Link, useParams } from "react-router";
import { Button } from "../../kit/Button";
import { Page } from "../../kit/Page";
import { Trouble } from "../../kit/Trouble";
import { useLens, useLensAnswer } from "../../lens/lensState";
import { AddBlock } from "./AddBlock";
import { BlockProperties } from "./BlockProperties";
import type { Fields } from "./blockForm";
import { blockName, outline, typedOver, type Block, type Design, type DesignAction } from "./designState";
import { freshKey, neighbour } from "./designTree";
import { Findings, findingsId } from "./Findings";
import { LanguageProperties } from "./LanguageProperties";
import { Proofs } from "./Proofs";
import { ThemeProperties } from "./ThemeProperties";
import { useDesign, useFields } from "./useDesign";
import { everybody, useOtherEditors, useReview, type Group } from "./useLibrary";

/** What the properties are of: a block, or the design as a whole. */
type Selected = { block: string } | { page: "theme" | "languages" };

/** A block's key as what is selected; none is the theme. */
function at(key: string | null): Selected {
  return key === null ? { page: "theme" } : { block: key };
}

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
  const answer = useLensAnswer(lens, id, true);
  const [group, setGroup] = useState<Group>(everybody);
  const review = useReview(id, group);
  const others = useOtherEditors(id).data ?? [];
  const [selected, setSelected] = useState<Selected>({ page: "theme" });
  if (!design)
    return (
      <div className="p-6">
        <Trouble error={error} />
      </div>
    );
  const label = (field: string) => fields.data?.find((candidate) => candidate.name === field)?.label ?? field;
  const key = "block" in selected && design.blocks[selected.block] ? selected.block : null;
  const block = key === null ? null : design.blocks[key];
  const copy = (key: string) => {
    const twin = freshKey(design, design.blocks[key]?.kind ?? "block");
    act("copy a block", { kind: "copy", key, copy: twin });
    setSelected({ block: twin });
  };
  const remove = (key: string) => {
    setSelected(at(neighbour(design, key)));
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
          . Saved as a draft with every change; nobody gets it before an edition is published.{" "}
          {others.length > 0 && (
            <b className="font-semibold text-ochre">
              {others.join(", ")} {others.length === 1 ? "has" : "have"} it open too.
            </b>
          )}
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
          <div className="flex min-h-0 flex-col overflow-y-auto pb-3">
            <Outline
              design={design}
              fields={fields.data ?? []}
              label={label}
              selected={selected}
              onSelect={setSelected}
              act={act}
            />
            {review.data && <Findings review={review.data} onSelect={(one) => setSelected({ block: one })} />}
            <Trouble error={review.error} />
          </div>
          <Proofs
            answer={answer.data}
            review={review.data}
            selected={key}
            group={group}
            onGroup={setGroup}
            edit={{
              onSelect: (one) => setSelected({ block: one }),
              onDrop: (drop) => act("move a block", { kind: "beside", ...drop }),
              onType: (key, place, text) => {
                const typed = design.blocks[key];
                if (typed) act("type on the signature", { kind: "block", key, block: typedOver(typed, place, text) });
              },
            }}
            onMind={() => document.getElementById(findingsId)?.scrollIntoView({ block: "nearest" })}
          />
          <div className="min-h-0 overflow-y-auto pr-1 pb-4">
            {block && key !== null ? (
              <>
                <BlockProperties key={key} blockKey={key} block={block} everyField={fields.data ?? []} act={act} />
                <div className="mt-4 flex gap-2 border-t border-line pt-3">
                  <Button onClick={() => copy(key)}>Copy the block</Button>
                  <Button onClick={() => remove(key)}>Take it out</Button>
                </div>
              </>
            ) : "page" in selected && selected.page === "languages" ? (
              <LanguageProperties design={design} act={act} />
            ) : (
              <ThemeProperties id={id} design={design} act={act} />
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
  selected: Selected;
  onSelect: (selected: Selected) => void;
  act: Act;
};

const pages = [
  { page: "theme", label: "Theme and name" },
  { page: "languages", label: "Other languages" },
] as const;

function Outline({ design, fields, label, selected, onSelect, act }: OutlineProps) {
  const chosen = "block" in selected ? selected.block : null;
  const rows = useRef(new Map<string, HTMLButtonElement>());
  const list = useRef<HTMLUListElement>(null);
  const latest = useRef(act);
  useEffect(() => {
    latest.current = act;
  }, [act]);
  useEffect(
    () =>
      list.current
        ? listenForDrag(list.current, (drop) => latest.current("move a block", { kind: "beside", ...drop }))
        : undefined,
    [],
  );
  const add = (block: Block) => {
    const key = freshKey(design, block.kind);
    act("add a block", { kind: "add", key, block, below: chosen });
    onSelect({ block: key });
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
      onSelect(at(next));
      act("take out a block", { kind: "remove", key });
      // The focus goes on to the block that is looked at now.
      if (next !== null) rows.current.get(next)?.focus();
    }
  };
  const look = (isSelected: boolean) =>
    `block w-full truncate rounded-[3px] py-1 pr-2 text-left min-h-7 ${isSelected ? "bg-sheet font-semibold shadow-[inset_3px_0_0_var(--color-baton)]" : "hover:bg-fold"}`;
  return (
    <nav aria-label="Blocks">
      <h2 className="mb-1 font-semibold text-soft">Build</h2>
      {pages.map(({ page, label: name }) => {
        const isChosen = "page" in selected && selected.page === page;
        return (
          <button
            key={page}
            type="button"
            aria-current={isChosen}
            className={`${look(isChosen)} pl-3`}
            onClick={() => onSelect({ page })}
          >
            {name}
          </button>
        );
      })}
      <ul ref={list}>
        {outline(design).map((row) => (
          <li key={row.key}>
            <button
              type="button"
              ref={(element) => {
                if (element) rows.current.set(row.key, element);
                else rows.current.delete(row.key);
              }}
              data-block={row.key}
              aria-current={row.key === chosen}
              className={look(row.key === chosen)}
              style={{ paddingLeft: 12 + row.depth * 16 }}
              onClick={() => onSelect({ block: row.key })}
              onKeyDown={(event) => press(event, row.key)}
            >
              {blockName(row.block, label)}
              {(row.block.when?.length ?? 0) > 0 && <span className="ml-2 text-small text-soft">for some</span>}
            </button>
          </li>
        ))}
      </ul>
      <AddBlock
        fields={fields}
        where={
          chosen === null
            ? "It comes at the end."
            : design.blocks[chosen]?.kind === "columns"
              ? "It comes into the selected columns."
              : "It comes below the selected block."
        }
        onAdd={add}
      />
      <p className="mt-3 border-t border-line pt-2 text-small text-soft">
        Drag a block, here or on the signature, or move the one with the focus by Alt and an arrow; Del takes it out. A
        double click on a text of the signature lets you type over it.
      </p>
    </nav>
  );
}
