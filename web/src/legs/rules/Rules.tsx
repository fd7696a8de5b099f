import { closestCenter, DndContext, KeyboardSensor, PointerSensor, useSensor, useSensors } from "@dnd-kit/core";
import { SortableContext, sortableKeyboardCoordinates, verticalListSortingStrategy } from "@dnd-kit/sortable";
import { Menu, MenuButton, MenuItem, MenuItems } from "@headlessui/react";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Ellipsis } from "lucide-react";
import { useDeferredValue, useRef, useState } from "react";
import { NavLink, useLocation, useParams } from "react-router";
import { api, ifMatch, take, type Api } from "../../api/client";
import { Button } from "../../kit/Button";
import { FileInput } from "../../kit/FileInput";
import { Empty, Page } from "../../kit/Page";
import { Trouble } from "../../kit/Trouble";
import { useLens } from "../../lens/lensState";
import { AskRecipients, Audiences } from "./Audiences";
import { Expectations } from "./Expectations";
import { outcomeName, summary } from "./mapState";
import { RuleMap } from "./RuleMap";
import { RuleRow, type OpenPiece } from "./RuleRow";
import { isUnfinished, newRule, reduce, type Rule, type RuleSet, type Track, tracks } from "./ruleState";
import { useReach, useRuleNames, useRules, type RuleNames } from "./useRules";

const emptyWords: Record<Track, string> = {
  signature: "Each rule is a sentence: which message carries which design. The first one that matches decides.",
  disclaimer: "Each rule says which disclaimers are added. All that match add, in order, until one stops the track.",
  banner: "Each rule says which banner is shown to whom. As many show as a design has room for.",
};

type Tab = Track | "audiences" | "expectations";
type Editing = { track: Track; draft: Rule; open: OpenPiece };

/** Who gets what, and is anybody left out? */
export function Rules() {
  const { tab = "signature" } = useParams() as { tab?: Tab };
  const { rules, revision, sentences, error, failure, reload, act } = useRules();
  const names = useRuleNames();
  const { lens } = useLens();
  const location = useLocation();
  const [chosen, setChosen] = useState<string | null>((location.state as { rule?: string } | null)?.rule ?? null);
  const [editing, setEditing] = useState<Editing | null>(null);
  const isTried = editing && rules && !isUnfinished(editing.draft);
  const trial = isTried ? reduce(rules, { kind: "set", track: editing.track, rule: editing.draft }) : null;
  const tried = useDeferredValue(trial && !isSame(trial, rules) ? trial : null);
  const reach = useReach(tried, lens.moment);
  const track = tracks.find((one) => one === tab) ?? null;
  const total = rules ? tracks.reduce((sum, one) => sum + rules[one].length, 0) : 0;

  const write = () => {
    const on = track ?? "signature";
    const first = on === "disclaimer" ? names.disclaimers[0] : on === "banner" ? names.banners[0] : undefined;
    const rule = newRule(crypto.randomUUID(), on, first?.value);
    act("write a rule", { kind: "add", track: on, rule });
    setChosen(rule.id);
    setEditing({ track: on, draft: rule, open: { rule: rule.id, piece: "result" } });
  };
  const tabs: readonly { tab: Tab; label: string; figure: number | undefined }[] = [
    { tab: "signature", label: "Signature", figure: rules?.signature.length },
    { tab: "disclaimer", label: "Disclaimers", figure: rules?.disclaimer.length },
    { tab: "banner", label: "Banners", figure: rules?.banner.length },
    { tab: "audiences", label: "Audiences", figure: names.audiences.length },
    { tab: "expectations", label: "Expectations", figure: rules?.tests.length },
  ];
  return (
    <Page
      title="Who gets what"
      lede={
        total === 0 || !reach.data
          ? "No rules yet: every message leaves without a signature."
          : summary(reach.data.accounts, total, reach.data.findings)
      }
      action={
        track && (
          <Button look="main" disabled={!rules || (track === "banner" && names.banners.length === 0)} onClick={write}>
            Write a rule
          </Button>
        )
      }
    >
      <div className="flex flex-col gap-3">
        <Trouble error={error ?? reach.error} />
        {failure && (
          <div className="flex flex-col items-start gap-2">
            <Trouble error={failure} />
            <Button onClick={reload}>Load the newest state</Button>
          </div>
        )}
        <div className="grid grid-cols-[minmax(0,1fr)_560px] gap-7">
          <div className="min-w-0">
            <div className="flex items-end justify-between border-b border-line">
              <nav aria-label="Tracks" className="flex gap-5">
                {tabs.map((one) => (
                  <NavLink
                    key={one.tab}
                    to={`/rules/${one.tab}`}
                    aria-current={one.tab === tab ? "page" : undefined}
                    className={`-mb-px pb-2 ${one.tab === tab ? "border-b-2 border-ink font-semibold" : "text-soft hover:text-ink"}`}
                  >
                    {one.label} {one.figure}
                  </NavLink>
                ))}
              </nav>
              <FileMenu revision={revision} />
            </div>
            {tab === "audiences" && <Audiences />}
            {tab === "expectations" && rules && (
              <Expectations
                tests={rules.tests}
                results={reach.data?.tests ?? []}
                sentences={sentences}
                names={names}
                act={act}
              />
            )}
            {track && rules && (
              <TrackRules
                track={track}
                rules={rules}
                reach={reach.data}
                sentences={sentences}
                names={names}
                chosen={chosen}
                editing={editing}
                onChoose={(id) => setChosen(id === chosen ? null : id)}
                onEdit={setEditing}
                act={act}
              />
            )}
            {track && <OtherFindings findings={(reach.data?.findings ?? []).filter((one) => !one.rule)} />}
          </div>
          {tab === "audiences" ? (
            <AskRecipients />
          ) : (
            reach.data &&
            rules && (
              <div className="flex flex-col gap-3 self-start">
                {tried && <Shifts reach={reach.data} rules={tried} names={names} />}
                <RuleMap
                  reach={reach.data}
                  rules={tried ?? rules}
                  track={track ?? "signature"}
                  chosen={chosen}
                  names={names}
                  isTrial={tried !== null}
                />
              </div>
            )
          )}
        </div>
      </div>
    </Page>
  );
}

const isSame = (left: RuleSet, right: RuleSet | undefined) => JSON.stringify(left) === JSON.stringify(right);

type TrackRulesProps = {
  track: Track;
  rules: RuleSet;
  reach: Api["ReachAnswer"] | undefined;
  sentences: ReadonlyMap<string, readonly Api["SentencePiece"][]> | undefined;
  names: RuleNames;
  chosen: string | null;
  editing: Editing | null;
  onChoose: (id: string) => void;
  onEdit: (editing: Editing | null) => void;
  act: ReturnType<typeof useRules>["act"];
};

function TrackRules(props: TrackRulesProps) {
  const { track, rules, reach, sentences, names, chosen, editing, onChoose, onEdit, act } = props;
  const list = rules[track];
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  if (list.length === 0)
    return (
      <div className="mt-4">
        <Empty>{emptyWords[track]}</Empty>
      </div>
    );
  return (
    <section aria-label={`Rules on the ${track} track`}>
      <DndContext
        sensors={sensors}
        collisionDetection={closestCenter}
        onDragEnd={({ active, over }) => {
          const at = list.findIndex((rule) => rule.id === over?.id);
          if (at >= 0) act("order the rules", { kind: "place", track, id: String(active.id), at });
        }}
      >
        <SortableContext items={list.map((rule) => rule.id)} strategy={verticalListSortingStrategy}>
          <ol>
            {list.map((rule, index) => {
              const own = editing?.draft.id === rule.id ? editing : null;
              return (
                <RuleRow
                  key={rule.id}
                  track={track}
                  rule={rule}
                  draft={own?.draft ?? null}
                  open={own?.open ?? null}
                  index={index}
                  sentence={sentences?.get(rule.id) ?? []}
                  reached={reach && (reach.reached[rule.id] ?? 0)}
                  findings={(reach?.findings ?? []).filter((one) => one.rule === rule.id)}
                  isChosen={chosen === rule.id}
                  names={names}
                  onChoose={() => onChoose(rule.id)}
                  onOpen={(piece, draft) => onEdit({ track, draft, open: { rule: rule.id, piece } })}
                  onDraft={(draft) => own && onEdit({ ...own, draft })}
                  onKeep={() => {
                    if (own) act("change a rule", { kind: "set", track, rule: own.draft });
                    onEdit(null);
                  }}
                  onLeave={() => onEdit(null)}
                  onPlace={(at) => act("order the rules", { kind: "place", track, id: rule.id, at })}
                  onSwitch={(isOn) =>
                    act(isOn ? "switch a rule on" : "switch a rule off", { kind: "switch", track, id: rule.id, isOn })
                  }
                  onCopy={() => act("copy a rule", { kind: "copy", track, id: rule.id, as: crypto.randomUUID() })}
                  onTakeOut={() => act("take out a rule", { kind: "take out", track, id: rule.id })}
                />
              );
            })}
          </ol>
        </SortableContext>
      </DndContext>
      {list.length > 1 && (
        <p className="mt-2 text-small text-soft">
          Drag a rule by its handle, or move it with Alt ↑ and Alt ↓. The figure is how many accounts it wins.
        </p>
      )}
    </section>
  );
}

/** What is to be looked at and belongs to no single rule. */
function OtherFindings({ findings }: { findings: readonly Api["ReachFinding"][] }) {
  if (findings.length === 0) return null;
  return (
    <section aria-label="To look at" className="mt-4">
      <h2 className="font-semibold">To look at</h2>
      <ul>
        {findings.map((finding) => (
          <li
            key={finding.message}
            className={`py-0.5 text-second ${finding.weight === "note" ? "text-soft" : "text-madder"}`}
          >
            {finding.message}
          </li>
        ))}
      </ul>
    </section>
  );
}

/** What would be other if the rule that is being edited were kept. */
function Shifts({ reach, rules, names }: { reach: Api["ReachAnswer"]; rules: RuleSet; names: RuleNames }) {
  const said = (id: string | null | undefined) => {
    const at = rules.signature.findIndex((rule) => rule.id === id);
    const rule = rules.signature[at];
    return rule ? `rule ${at + 1} (${outcomeName(rule, names)})` : "no rule";
  };
  const addingRule = (gain: Api["ReachGain"]) => {
    const at = rules[gain.track].findIndex((rule) => rule.id === gain.rule);
    const rule = rules[gain.track][at];
    return rule ? `${gain.track} rule ${at + 1} (${outcomeName(rule, names)})` : "a rule that is taken out";
  };
  return (
    <section
      aria-label="What would change"
      aria-live="polite"
      className="rounded-[6px] border border-lens bg-sheet px-4 py-2.5"
    >
      <h2 className="font-semibold text-lens">If it is kept</h2>
      {reach.shifts.length + reach.gains.length === 0 && (
        <p className="text-second text-soft">Nobody gets anything by another rule.</p>
      )}
      {reach.gains.length > 0 && (
        <ul className="text-second">
          {reach.gains.map((gain) => (
            <li key={gain.rule}>
              {addingRule(gain)}: <b className="font-semibold">{gain.gained}</b>{" "}
              {gain.gained === 1 ? "account" : "accounts"} more, <b className="font-semibold">{gain.lost}</b> fewer
            </li>
          ))}
        </ul>
      )}
      {reach.shifts.length > 0 && (
        <ul className="text-second">
          {reach.shifts.slice(0, 6).map((shift) => (
            <li key={`${shift.from} ${shift.to}`}>
              <b className="font-semibold">{shift.accounts}</b> {shift.accounts === 1 ? "account goes" : "accounts go"}{" "}
              from {said(shift.from)} to {said(shift.to)}, in {shift.squares}{" "}
              {shift.squares === 1 ? "square" : "squares"}
              <span className="text-soft">, such as {shift.first[0]}</span>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

/** Rules and audiences as a file, out and in. */
function FileMenu({ revision }: { revision: number }) {
  const queries = useQueryClient();
  const input = useRef<HTMLInputElement>(null);
  const takeIn = useMutation({
    mutationFn: async (file: File) =>
      take(
        api.POST("/api/rules/file", { body: JSON.parse(await file.text()) as Api["RuleFile"], ...ifMatch(revision) }),
      ),
    onSuccess: () => queries.invalidateQueries(),
  });
  return (
    <div className="flex flex-col items-end">
      <Menu>
        <MenuButton
          aria-label="Rules as a file"
          className="flex size-7 items-center justify-center text-soft hover:text-ink"
        >
          <Ellipsis size={16} aria-hidden />
        </MenuButton>
        <MenuItems
          anchor={{ to: "bottom end", gap: 4 }}
          className="z-30 min-w-56 rounded-[4px] border border-field bg-sheet py-1 text-body shadow-lg focus:outline-none"
        >
          <MenuItem>
            <a href="/api/rules/file" download="rules.json" className="block px-3 py-1 data-focus:bg-fold">
              Save rules and audiences as a file
            </a>
          </MenuItem>
          <MenuItem>
            <button
              type="button"
              onClick={() => input.current?.click()}
              className="block w-full px-3 py-1 text-left data-focus:bg-fold"
            >
              Take them in from a file…
            </button>
          </MenuItem>
        </MenuItems>
      </Menu>
      <FileInput
        input={input}
        label="File of rules"
        accept=".json,application/json"
        onFile={(file) => takeIn.mutate(file)}
      />
      {takeIn.error && <Trouble error={takeIn.error} />}
    </div>
  );
}
