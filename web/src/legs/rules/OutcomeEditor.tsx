import { Choice } from "../../kit/Choice";
import { Tick, Ticks } from "../../kit/Ticks";
import type { Outcome, Track } from "./ruleState";
import type { RuleNames } from "./useRules";

type OutcomeEditorProps = { track: Track; then: Outcome; names: RuleNames; onChange: (then: Outcome) => void };

/** What follows from a rule, edited where it stands. */
export function OutcomeEditor({ track, then, names, onChange }: OutcomeEditorProps) {
  if (track === "banner") {
    const show = then.kind === "banner" ? then : { kind: "banner" as const, banner: "", link: "" };
    return (
      <div className="flex flex-col gap-2">
        <div>
          shows{" "}
          <Choice
            label="Banner"
            look="result"
            value={show.banner}
            options={names.banners}
            onChange={(banner) => onChange({ ...show, banner })}
          />
        </div>
        <label className="flex items-center gap-1.5">
          leading to
          <input
            className="min-h-8 flex-1 rounded-[4px] border border-field bg-sheet px-2"
            placeholder="its own target"
            value={show.link}
            onChange={(event) => onChange({ ...show, link: event.target.value })}
          />
        </label>
      </div>
    );
  }

  if (track === "disclaimer") {
    const chosen = then.kind === "disclaimers" ? then.disclaimers : [];
    return (
      <div className="flex flex-col gap-2">
        <Tick
          label="takes no further disclaimer: later rules are not looked at"
          isOn={then.kind === "stop"}
          onChange={(isOn) => onChange(isOn ? { kind: "stop" } : { kind: "disclaimers", disclaimers: chosen })}
        />
        {then.kind !== "stop" && (
          <Ticks
            label="Disclaimers"
            options={names.disclaimers}
            values={chosen}
            onChange={(disclaimers) => onChange({ kind: "disclaimers", disclaimers })}
          />
        )}
      </div>
    );
  }

  const carry = then.kind === "designs" ? then : null;
  const offered = carry?.offered ?? [];
  return (
    <div className="flex flex-col gap-2">
      <Tick
        label="carries nothing"
        isOn={!carry}
        onChange={(isOn) => onChange(isOn ? { kind: "nothing" } : { kind: "designs", designs: [] })}
      />
      {carry && (
        <>
          <div className="flex gap-3">
            <span className="w-20 shrink-0 text-soft">carries</span>
            <Ticks
              label="Designs"
              options={names.designs}
              values={carry.designs}
              onChange={(designs) => onChange({ ...carry, designs })}
            />
          </div>
          {carry.designs.length > 1 && (
            <div className="flex gap-3">
              <span className="w-20 shrink-0 text-soft">in turn</span>
              <span>
                <Choice
                  label="Order of turns"
                  look="condition"
                  value={carry.order ?? "inSequence"}
                  options={[
                    { value: "inSequence", label: "one after the other" },
                    { value: "shuffled", label: "shuffled" },
                  ]}
                  onChange={(order) => onChange({ ...carry, order })}
                />
                ,{" "}
                <Choice
                  label="Turns change"
                  look="condition"
                  value={carry.by ?? "day"}
                  options={[
                    { value: "day", label: "each day" },
                    { value: "message", label: "each message" },
                  ]}
                  onChange={(by) => onChange({ ...carry, by })}
                />
              </span>
            </div>
          )}
          <div className="flex gap-3">
            <span className="w-20 shrink-0 text-soft">offers too</span>
            <Ticks
              label="Offered designs"
              options={names.designs.filter((design) => !carry.designs.includes(design.value))}
              values={offered}
              onChange={(next) => onChange({ ...carry, offered: next })}
            />
          </div>
          <div className="flex gap-3">
            <span className="w-20 shrink-0 text-soft">in answers</span>
            <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
              <Choice
                label="Place in an answer"
                look="condition"
                value={carry.place ?? "underNewText"}
                options={[
                  { value: "underNewText", label: "directly under the new text" },
                  { value: "atEnd", label: "at the very end" },
                ]}
                onChange={(place) => onChange({ ...carry, place })}
              />
              <Tick
                label="with the separator line"
                isOn={carry.hasSeparator ?? true}
                onChange={(hasSeparator) => onChange({ ...carry, hasSeparator })}
              />
              <Tick
                label="employees may choose otherwise"
                isOn={carry.mayChoose ?? false}
                onChange={(mayChoose) => onChange({ ...carry, mayChoose })}
              />
            </div>
          </div>
        </>
      )}
    </div>
  );
}
