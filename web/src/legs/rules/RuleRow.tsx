import { useSortable } from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import { Menu, MenuButton, MenuItem, MenuItems } from "@headlessui/react";
import { Ellipsis, GripVertical } from "lucide-react";
import { useState } from "react";
import type { Api } from "../../api/client";
import { Button } from "../../kit/Button";
import { TokenInput } from "../../kit/TokenInput";
import { AddCondition, ConditionEditor } from "./ConditionEditor";
import { ownZone } from "./TimeEditor";
import { OutcomeEditor } from "./OutcomeEditor";
import { isUnfinished, newCondition, withCondition, withoutCondition, type Rule, type Track } from "./ruleState";
import { withoutNumber } from "./mapState";
import type { RuleNames } from "./useRules";

/** Which piece of a rule is open for editing: a condition by its place, what follows, or what it is called. */
export type OpenPiece = { rule: string; piece: number | "result" | "about" };

type RuleRowProps = {
  track: Track;
  /** The rule as it is kept. */
  rule: Rule;
  /** The rule as it is being edited, when it is. */
  draft: Rule | null;
  open: OpenPiece | null;
  index: number;
  sentence: readonly Api["SentencePiece"][];
  reached: number | undefined;
  findings: readonly Api["ReachFinding"][];
  isChosen: boolean;
  names: RuleNames;
  onChoose: () => void;
  onOpen: (piece: OpenPiece["piece"], draft: Rule) => void;
  onDraft: (draft: Rule) => void;
  onKeep: () => void;
  onLeave: () => void;
  onPlace: (at: number) => void;
  onSwitch: (isOn: boolean) => void;
  onCopy: () => void;
  onTakeOut: () => void;
};

/** A rule as a sentence. Its chips open below it, where they stand. */
export function RuleRow(props: RuleRowProps) {
  const { rule, draft, open, index, sentence, reached, findings, isChosen, names } = props;
  const { attributes, listeners, setNodeRef, setActivatorNodeRef, transform, transition } = useSortable({
    id: rule.id,
  });
  const number = index + 1;
  const current = draft ?? rule;
  const addTo = (kind: Parameters<typeof newCondition>[0]) =>
    props.onOpen(current.conditions.length, withCondition(current, -1, newCondition(kind, ownZone)));
  return (
    <li
      ref={setNodeRef}
      style={{ transform: CSS.Translate.toString(transform), transition }}
      className={`border-b border-line ${isChosen ? "bg-sheet shadow-[inset_3px_0_0_var(--color-baton)]" : "bg-paper"}`}
      onKeyDown={(event) => {
        if (event.key === "Escape" && open) props.onLeave();
        if (!event.altKey || (event.key !== "ArrowUp" && event.key !== "ArrowDown")) return;
        event.preventDefault();
        props.onPlace(event.key === "ArrowUp" ? index - 1 : index + 1);
      }}
    >
      <div className="grid grid-cols-[24px_28px_1fr_auto_28px] items-start gap-x-1 py-1.5 pr-1">
        <button
          type="button"
          ref={setActivatorNodeRef}
          {...attributes}
          {...listeners}
          aria-label={`Move rule ${number}`}
          aria-keyshortcuts="Alt+ArrowUp Alt+ArrowDown"
          className="flex size-6 touch-none items-center justify-center text-soft hover:text-ink"
        >
          <GripVertical size={14} aria-hidden />
        </button>
        <button
          type="button"
          aria-pressed={isChosen}
          aria-label={`Show where rule ${number} wins`}
          className="min-h-6 text-second text-soft hover:text-ink hover:underline"
          onClick={props.onChoose}
        >
          {number}
        </button>
        <div className={`min-w-0 leading-6 ${rule.isOn ? "" : "text-soft line-through decoration-soft/60"}`}>
          {sentence.map((piece, at) =>
            piece.role === "plain" ? (
              <span key={at}>{piece.text}</span>
            ) : (
              <Chip
                key={at}
                label={`${piece.role === "result" ? "What follows" : "Condition"} of rule ${number}: ${piece.text}`}
                isOpen={open !== null && open.piece === (piece.role === "result" ? "result" : piece.condition)}
                look={piece.role === "result" ? "border-transparent text-baton hover:border-baton" : "border-soft"}
                onOpen={() => {
                  if (piece.role === "result") props.onOpen("result", current);
                  else if (piece.condition >= 0) props.onOpen(piece.condition, current);
                  else addTo("occasion");
                }}
              >
                {piece.text}
              </Chip>
            ),
          )}
          {[rule.name, ...(rule.tags ?? [])].filter(Boolean).map((word) => (
            <span key={word} className="ml-2 text-small text-soft">
              {word}
            </span>
          ))}
          {rule.note && <p className="text-small leading-4 text-soft">{rule.note}</p>}
        </div>
        <span
          className={`min-h-6 text-right text-second ${reached === 0 ? "font-semibold text-madder" : "text-soft"}`}
          title="Accounts this rule wins in at least one kind of message"
        >
          {rule.isOn ? reached : "off"}
        </span>
        <RuleMenu {...props} number={number} />
      </div>
      {findings.map((finding) => (
        <p
          key={finding.code + finding.message}
          className={`pb-1.5 pl-[57px] text-second ${finding.weight === "note" ? "text-soft" : "text-madder"}`}
        >
          {withoutNumber(finding.message)}
        </p>
      ))}
      {open && draft && (
        <OpenedPiece {...props} draft={draft} open={open} number={number} names={names} addTo={addTo} />
      )}
    </li>
  );
}

type ChipProps = { label: string; isOpen: boolean; look: string; onOpen: () => void; children: string };

/** A piece of a sentence that opens. Not a button element, because those do not flow with the words round them. */
function Chip({ label, isOpen, look, onOpen, children }: ChipProps) {
  return (
    <span
      role="button"
      tabIndex={0}
      aria-label={label}
      aria-expanded={isOpen}
      className={`cursor-pointer border-b-[1.5px] border-dotted font-semibold ${look}`}
      onClick={onOpen}
      onKeyDown={(event) => {
        if (event.key !== "Enter" && event.key !== " ") return;
        event.preventDefault();
        onOpen();
      }}
    >
      {children}
    </span>
  );
}

type OpenedProps = RuleRowProps & {
  draft: Rule;
  open: OpenPiece;
  number: number;
  addTo: (kind: Parameters<typeof newCondition>[0]) => void;
};

function OpenedPiece({ track, draft, open, number, names, onDraft, onKeep, onLeave, onOpen, addTo }: OpenedProps) {
  const at = typeof open.piece === "number" ? open.piece : -1;
  const condition = draft.conditions[at];
  return (
    <div
      role="group"
      aria-label={`Editing rule ${number}`}
      className="mb-2 ml-[57px] flex flex-col gap-3 rounded-[4px] border border-line bg-sheet p-3"
    >
      {open.piece === "result" && (
        <OutcomeEditor track={track} then={draft.then} names={names} onChange={(then) => onDraft({ ...draft, then })} />
      )}
      {open.piece === "about" && <About draft={draft} onDraft={onDraft} />}
      {condition && (
        <ConditionEditor
          condition={condition}
          names={names}
          onChange={(next) => onDraft(withCondition(draft, at, next))}
        />
      )}
      <div className="flex items-center gap-2">
        <button
          type="button"
          disabled={isUnfinished(draft)}
          className="min-h-7 rounded-[4px] border border-ink bg-ink px-3 text-paper disabled:border-line disabled:bg-fold disabled:text-soft"
          onClick={onKeep}
        >
          Keep
        </button>
        <Button onClick={onLeave}>Leave as it was</Button>
        {condition && (
          <Button
            look="quiet"
            onClick={() => {
              onOpen("about", withoutCondition(draft, at));
            }}
          >
            Take this condition out
          </Button>
        )}
        <span className="ml-auto">
          <AddCondition label="+ another condition" onAdd={addTo} />
        </span>
      </div>
    </div>
  );
}

function About({ draft, onDraft }: { draft: Rule; onDraft: (draft: Rule) => void }) {
  const [note, setNote] = useState(draft.note ?? "");
  const box = "rounded-[4px] border border-field bg-sheet px-2.5 py-1";
  return (
    <div className="grid grid-cols-[80px_1fr] items-center gap-x-3 gap-y-2">
      <span className="text-soft">Name</span>
      <input
        aria-label="Name of the rule"
        className={`${box} min-h-8`}
        value={draft.name ?? ""}
        onChange={(event) => onDraft({ ...draft, name: event.target.value })}
      />
      <span className="text-soft">Tags</span>
      <TokenInput label="Tags" values={draft.tags ?? []} onChange={(tags) => onDraft({ ...draft, tags })} />
      <span className="text-soft">Note</span>
      <textarea
        aria-label="Note"
        className={`${box} min-h-14`}
        value={note}
        placeholder="why this rule is there"
        onChange={(event) => {
          setNote(event.target.value);
          onDraft({ ...draft, note: event.target.value });
        }}
      />
    </div>
  );
}

function RuleMenu(props: RuleRowProps & { number: number }) {
  const { rule, draft, number, index } = props;
  const current = draft ?? rule;
  const items: readonly { label: string; run: () => void }[] = [
    { label: rule.isOn ? "Switch it off" : "Switch it on", run: () => props.onSwitch(!rule.isOn) },
    { label: "Name, tags and note", run: () => props.onOpen("about", current) },
    { label: "Move it up", run: () => props.onPlace(index - 1) },
    { label: "Move it down", run: () => props.onPlace(index + 1) },
    { label: "Copy it", run: props.onCopy },
    { label: "Take it out", run: props.onTakeOut },
  ];
  return (
    <Menu>
      <MenuButton
        aria-label={`More for rule ${number}`}
        className="flex size-6 items-center justify-center text-soft hover:text-ink"
      >
        <Ellipsis size={16} aria-hidden />
      </MenuButton>
      <MenuItems
        anchor={{ to: "bottom end", gap: 4 }}
        className="z-30 min-w-44 rounded-[4px] border border-field bg-sheet py-1 text-body shadow-lg focus:outline-none"
      >
        {items.map((item) => (
          <MenuItem key={item.label}>
            <button type="button" onClick={item.run} className="block w-full px-3 py-1 text-left data-focus:bg-fold">
              {item.label}
            </button>
          </MenuItem>
        ))}
      </MenuItems>
    </Menu>
  );
}
