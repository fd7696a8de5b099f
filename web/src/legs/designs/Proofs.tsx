import { useState } from "react";
import type { Api } from "../../api/client";
import { Choice, type Option } from "../../kit/Choice";
import { sizeText } from "../../kit/dates";
import { SignatureFrame, type OnSignature } from "../../kit/SignatureFrame";
import { everybody, useGroups, type Group } from "./useLibrary";

type Form = "light" | "dark" | "text";
type Width = "full" | "phone";

const forms: readonly Option<Form>[] = [
  { value: "light", label: "rich, light" },
  { value: "dark", label: "rich, dark" },
  { value: "text", label: "plain text" },
];

const widths: readonly Option<Width>[] = [
  { value: "full", label: "as wide as it is" },
  { value: "phone", label: "as wide as a phone" },
];

type ProofsProps = {
  answer: Api["LensAnswer"] | undefined;
  review: Api["ReviewAnswer"] | undefined;
  selected: string | null;
  edit: OnSignature;
  onMind: () => void;
  group: Group;
  onGroup: (group: Group) => void;
};

/** The design on three people at once: through the lens, on the longest and on the emptiest. All three are always on view; one too high for its room scrolls in it. */
export function Proofs({ answer, review, selected, edit, onMind, group, onGroup }: ProofsProps) {
  const groups = useGroups();
  const [form, setForm] = useState<Form>("light");
  const [width, setWidth] = useState<Width>("full");
  if (answer && !answer.person)
    return <p className="text-soft">Add people first: a design is always shown on real people.</p>;
  const shown = { form, width };
  const signature = answer?.signature;
  return (
    <div className="flex min-h-0 flex-col gap-2.5">
      <div className="flex items-baseline gap-2 text-second text-soft">
        <span>Shown</span>
        <Choice label="Form of the proofs" look="lens" value={form} options={forms} onChange={setForm} />
        <span>and</span>
        <Choice label="Width of the proofs" look="lens" value={width} options={widths} onChange={setWidth} />
        <span>for</span>
        <Choice
          label="Whom the longest and the emptiest are looked for among"
          look="lens"
          value={groupKey(group)}
          options={[
            { value: groupKey(everybody), label: "everybody" },
            ...groups.map((one) => ({ value: groupKey(one.group), label: one.label })),
          ]}
          onChange={(key) => onGroup(groups.find((one) => groupKey(one.group) === key)?.group ?? everybody)}
        />
        {review && review.findings.length > 0 && (
          <button
            type="button"
            onClick={onMind}
            className="ml-auto min-h-6 border-b-[1.5px] border-dotted border-ochre font-semibold text-ochre"
          >
            {review.findings.length} to mind
          </button>
        )}
      </div>
      <Proof
        name="Through the lens"
        who={answer?.person?.name}
        note={signature ? sizeText(signature.bytes) : ""}
        signature={signature}
        title="The design through the lens"
        shown={shown}
        selected={selected}
        edit={edit}
      />
      <Proof
        name="Longest"
        who={review?.longest?.account.name}
        note={review?.longest ? longestNote(review.longest) : ""}
        signature={review?.longest?.signature}
        title="The design on the longest person"
        shown={shown}
      />
      <Proof
        name="Emptiest"
        who={review?.emptiest?.account.name}
        note={review?.emptiest ? emptiestNote(review.emptiest) : ""}
        signature={review?.emptiest?.signature}
        title="The design on the emptiest person"
        shown={shown}
      />
    </div>
  );
}

function groupKey(group: Group) {
  return `${group.field} ${group.value}`;
}

function longestNote(longest: Api["ExtremeAnswer"]) {
  return `${longest.width} px wide, ${lines(longest.lines)}${alike(longest.sharing)}`;
}

function emptiestNote(emptiest: Api["ExtremeAnswer"]) {
  return `${emptiest.facts} ${emptiest.facts === 1 ? "fact" : "facts"}, ${lines(emptiest.lines)}${alike(emptiest.sharing)}`;
}

/** How many others are at the same edge. */
function alike(sharing: number) {
  if (sharing === 1) return "";
  return sharing === 2 ? ", like 1 other" : `, like ${sharing - 1} others`;
}

function lines(count: number) {
  return count === 1 ? "1 line" : `${count} lines`;
}

type ProofProps = {
  name: string;
  who: string | undefined;
  note: string;
  signature: Api["LensSignature"] | null | undefined;
  title: string;
  shown: { form: Form; width: Width };
  selected?: string | null;
  edit?: OnSignature;
};

function Proof({ name, who, note, signature, title, shown, selected = null, edit }: ProofProps) {
  return (
    <section
      aria-label={name}
      className="flex min-h-[110px] shrink grow flex-col rounded-[6px] border border-line bg-sheet"
    >
      <div className="flex items-baseline justify-between gap-3 border-b border-line px-4 py-1.5 text-second">
        <span className="truncate">
          <b className="font-semibold">{name}</b> <span className="text-soft">{who}</span>
        </span>
        <span className="shrink-0 text-soft">{note}</span>
      </div>
      {shown.form === "text" ? (
        <pre
          tabIndex={0}
          aria-label={title}
          className="min-h-0 flex-auto overflow-auto px-4 py-2 font-mono text-second"
        >
          {signature?.text}
        </pre>
      ) : (
        <div
          role="group"
          tabIndex={0}
          aria-label={`${name}, as it is seen`}
          className={`min-h-0 flex-auto overflow-auto rounded-b-[6px] px-4 py-2.5 ${shown.form === "dark" ? "bg-mail-dark" : "bg-mail-light"}`}
        >
          {signature && (
            <div className={shown.width === "phone" ? "w-[360px] border-r border-dashed border-field" : ""}>
              <SignatureFrame
                html={signature.marked ?? signature.html}
                title={title}
                dark={shown.form === "dark" ? signature.dark : null}
                selected={selected}
                grows
                {...(edit && { edit })}
              />
            </div>
          )}
        </div>
      )}
    </section>
  );
}
