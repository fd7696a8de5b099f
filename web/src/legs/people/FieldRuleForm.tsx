import { useState } from "react";
import type { Api } from "../../api/client";
import { Button } from "../../kit/Button";
import { checkText, ruleOf, type CheckDraft } from "./fieldState";

type FieldRuleFormProps = {
  field: Api["FieldAnswer"];
  onSave: (rule: Api["FieldRule"]) => void;
  isBusy: boolean;
};

/** What a field's values must be: read as a sentence, changed in place. */
export function FieldRuleForm({ field, onSave, isBusy }: FieldRuleFormProps) {
  const [draft, setDraft] = useState<CheckDraft | null>(null);
  if (!draft)
    return (
      <button
        type="button"
        aria-label={`${checkText(field.rule)}: what ${field.label} must be`}
        className="min-h-6 max-w-56 truncate border-b-[1.5px] border-dotted border-soft text-left"
        onClick={() =>
          setDraft({
            maxLength: field.rule.maxLength === 0 ? "" : `${field.rule.maxLength}`,
            pattern: field.rule.pattern,
            choices: field.rule.choices.join(", "),
          })
        }
      >
        {checkText(field.rule)}
      </button>
    );
  const box = "rounded-[4px] border border-field bg-sheet px-2 py-0.5";
  return (
    <form
      aria-label={`What ${field.label} must be`}
      className="flex flex-col gap-1.5 py-1"
      onSubmit={(event) => {
        event.preventDefault();
        onSave(ruleOf(field.rule, draft));
        setDraft(null);
      }}
    >
      {field.kind === "choice" ? (
        <label className="flex items-center gap-2">
          <span className="w-20 text-soft">One of</span>
          <input
            autoFocus
            value={draft.choices}
            className={`${box} min-w-0 flex-1`}
            onChange={(event) => setDraft({ ...draft, choices: event.target.value })}
          />
        </label>
      ) : (
        <>
          <label className="flex items-center gap-2">
            <span className="w-20 text-soft">At most</span>
            <input
              autoFocus
              inputMode="numeric"
              value={draft.maxLength}
              placeholder="1000"
              className={`${box} w-16`}
              onChange={(event) => setDraft({ ...draft, maxLength: event.target.value.replace(/\D/g, "").slice(0, 4) })}
            />
            <span className="text-soft">characters</span>
          </label>
          <label className="flex items-center gap-2">
            <span className="w-20 text-soft">Like</span>
            <input
              value={draft.pattern}
              placeholder="any; or a pattern as B-[0-9]{5}"
              className={`${box} min-w-0 flex-1`}
              onChange={(event) => setDraft({ ...draft, pattern: event.target.value })}
            />
          </label>
        </>
      )}
      <div className="flex gap-1.5">
        <Button type="submit" disabled={isBusy}>
          Keep
        </Button>
        <Button look="quiet" onClick={() => setDraft(null)}>
          Leave
        </Button>
      </div>
    </form>
  );
}
