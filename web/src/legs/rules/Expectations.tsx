import { useState } from "react";
import { X } from "lucide-react";
import type { Api } from "../../api/client";
import { Button } from "../../kit/Button";
import { Empty } from "../../kit/Page";
import { count } from "../../frame/legs";
import { Tick, Ticks } from "../../kit/Ticks";
import { AddCondition, ConditionEditor } from "./ConditionEditor";
import { ownZone } from "./TimeEditor";
import { isUnsaid, newCondition, type RuleAction, type RuleTest } from "./ruleState";
import type { RuleNames } from "./useRules";

type ExpectationsProps = {
  tests: readonly RuleTest[];
  results: readonly Api["RuleTestAnswer"][];
  sentences: ReadonlyMap<string, readonly Api["SentencePiece"][]> | undefined;
  names: RuleNames;
  act: (label: string, action: RuleAction) => void;
};

/** What is expected of the rules, checked over everybody at every change; one that fails stops publishing. */
export function Expectations({ tests, results, sentences, names, act }: ExpectationsProps) {
  const [open, setOpen] = useState<RuleTest | null>(null);
  const keep = (test: RuleTest) => {
    act("change an expectation", { kind: "set test", test });
    setOpen(null);
  };
  return (
    <section aria-label="Expectations">
      {tests.length === 0 && !open && (
        <div className="mt-4">
          <Empty>
            Write down what must hold, such as “a vet in Berlin answers an owner with the short one”. It is checked over
            everybody at every change, and nothing is published while it fails.
          </Empty>
        </div>
      )}
      <ul>
        {tests.map((test) => {
          const result = results.find((one) => one.test === test.id);
          return (
            <li key={test.id} className="border-b border-line py-2">
              {open?.id === test.id ? (
                <Editor test={open} names={names} onChange={setOpen} onKeep={keep} onLeave={() => setOpen(null)} />
              ) : (
                <div className="flex items-start gap-3">
                  <span
                    className={`w-10 shrink-0 text-second font-semibold ${result?.isMet === false ? "text-madder" : "text-pine"}`}
                  >
                    {result && (result.isMet ? "met" : "fails")}
                  </span>
                  <div className="min-w-0 flex-1">
                    <button
                      type="button"
                      className="text-left font-semibold hover:underline"
                      onClick={() => setOpen(test)}
                    >
                      {test.name || "An expectation without a name"}
                    </button>
                    <p className="text-second text-soft">
                      {sentences?.get(test.id)?.map((piece) => piece.text)}
                      {test.disclaimers &&
                        ` With ${test.disclaimers.map((id) => names.disclaimers.find((one) => one.value === id)?.label ?? "a disclaimer that is gone").join(" and ") || "no disclaimer"}.`}
                    </p>
                    {result && <Result result={result} />}
                  </div>
                  <Button
                    look="quiet"
                    label={`Take out ${test.name}`}
                    onClick={() => act("take out an expectation", { kind: "take out test", id: test.id })}
                  >
                    <X size={16} aria-hidden />
                  </Button>
                </div>
              )}
            </li>
          );
        })}
        {open && !tests.some((test) => test.id === open.id) && (
          <li className="py-2">
            <Editor test={open} names={names} onChange={setOpen} onKeep={keep} onLeave={() => setOpen(null)} />
          </li>
        )}
      </ul>
      {!open && (
        <div className="mt-3">
          <Button onClick={() => setOpen({ id: crypto.randomUUID(), name: "", conditions: [], designs: [] })}>
            Write an expectation
          </Button>
        </div>
      )}
    </section>
  );
}

function Result({ result }: { result: Api["RuleTestAnswer"] }) {
  if (result.isMet)
    return <p className="text-small text-soft">Holds in all {count(result.situations, "situation", "situations")}.</p>;
  const decided = result.trace.find((step) => step.track === "signature" && step.outcome === "matched");
  return (
    <div className="mt-1 text-second text-madder">
      <p>
        {result.situations === 0
          ? "Nobody is meant: no account meets it."
          : `Fails in ${result.failed} of ${count(result.situations, "situation", "situations")}, first for ${result.address} in a ${result.cell?.occasion} read ${result.cell?.audience} on the ${result.cell?.client}.`}
      </p>
      {decided && (
        <p>
          Rule {decided.number} decides: {decided.sentence} Because {decided.reason}.
        </p>
      )}
      {result.situations > 0 && !decided && <p>No rule matches there.</p>}
    </div>
  );
}

type EditorProps = {
  test: RuleTest;
  names: RuleNames;
  onChange: (test: RuleTest) => void;
  onKeep: (test: RuleTest) => void;
  onLeave: () => void;
};

function Editor({ test, names, onChange, onKeep, onLeave }: EditorProps) {
  const chosen = test.disclaimers ?? null;
  return (
    <div
      role="group"
      aria-label="Editing an expectation"
      className="flex flex-col gap-3 rounded-[4px] border border-line bg-sheet p-3"
    >
      <input
        aria-label="Name of the expectation"
        placeholder="A vet in Berlin answers an owner"
        className="min-h-8 rounded-[4px] border border-field bg-sheet px-2.5"
        value={test.name}
        onChange={(event) => onChange({ ...test, name: event.target.value })}
      />
      {test.conditions.map((condition, index) => (
        <div key={index} className="flex items-start gap-1 border-l-[3px] border-line pl-3">
          <div className="min-w-0 flex-1">
            <ConditionEditor
              condition={condition}
              names={names}
              onChange={(next) => onChange({ ...test, conditions: test.conditions.with(index, next) })}
            />
          </div>
          <Button
            look="quiet"
            label={`Take out condition ${index + 1}`}
            onClick={() => onChange({ ...test, conditions: test.conditions.toSpliced(index, 1) })}
          >
            <X size={14} aria-hidden />
          </Button>
        </div>
      ))}
      <AddCondition
        label="+ a condition"
        onAdd={(kind) => onChange({ ...test, conditions: [...test.conditions, newCondition(kind, ownZone)] })}
      />
      <div className="flex gap-3">
        <span className="w-24 shrink-0 text-soft">gets one of</span>
        <Ticks
          label="Expected designs"
          options={names.designs}
          values={test.designs}
          onChange={(designs) => onChange({ ...test, designs })}
        />
      </div>
      {test.designs.length === 0 && <p className="text-small text-soft">None ticked: no signature is expected.</p>}
      <div className="flex flex-col gap-1">
        <Tick
          label="and exactly these disclaimers"
          isOn={chosen !== null}
          onChange={(isOn) => onChange({ ...test, disclaimers: isOn ? [] : null })}
        />
        {chosen && (
          <Ticks
            label="Expected disclaimers"
            options={names.disclaimers}
            values={chosen}
            onChange={(disclaimers) => onChange({ ...test, disclaimers })}
          />
        )}
      </div>
      <div className="flex gap-2">
        <button
          type="button"
          disabled={test.conditions.some(isUnsaid) || test.name.trim() === ""}
          className="min-h-7 rounded-[4px] border border-ink bg-ink px-3 text-paper disabled:border-line disabled:bg-fold disabled:text-soft"
          onClick={() => onKeep(test)}
        >
          Keep
        </button>
        <Button onClick={onLeave}>Leave as it was</Button>
      </div>
    </div>
  );
}
