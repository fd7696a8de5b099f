import { useState } from "react";
import { Choice } from "../../kit/Choice";
import { caseWords, freshTransform, readTable, tableText, transformWords, type Transform } from "./transformState";

type TransformListProps = { label: string; transforms: readonly Transform[]; onChange: (next: Transform[]) => void };

/** Steps a value goes through, one under the other. */
export function TransformList({ label, transforms, onChange }: TransformListProps) {
  return (
    <div className="flex flex-col gap-1.5">
      {transforms.map((transform, index) => (
        <div key={index} className="flex items-start gap-2">
          <span className="w-16 shrink-0 pt-1 text-small text-soft">{index === 0 ? "then" : "and then"}</span>
          <div className="min-w-0 flex-1">
            <Step
              label={`${label}, step ${index + 1}`}
              transform={transform}
              onChange={(next) => onChange(transforms.map((other, place) => (place === index ? next : other)))}
            />
          </div>
          <button
            type="button"
            aria-label={`Take out step ${index + 1} of ${label}`}
            className="min-h-6 px-1.5 text-soft hover:text-ink"
            onClick={() => onChange(transforms.filter((_, place) => place !== index))}
          >
            ✕
          </button>
        </div>
      ))}
      <div className="flex items-center gap-2">
        <span className="w-16 shrink-0 text-small text-soft">{transforms.length === 0 ? "then" : "and then"}</span>
        <Choice
          label={`Add a step to ${label}`}
          look="condition"
          value=""
          options={[{ value: "", label: "nothing more" }, ...transformWords]}
          onChange={(kind) => kind !== "" && onChange([...transforms, freshTransform(kind)])}
        />
      </div>
    </div>
  );
}

type StepProps = { label: string; transform: Transform; onChange: (next: Transform) => void };

const box = "rounded-[4px] border border-field bg-sheet px-2 py-0.5";

function Step({ label, transform, onChange }: StepProps) {
  switch (transform.kind) {
    case "case":
      return (
        <span>
          written{" "}
          <Choice
            label={`${label}: case`}
            look="condition"
            value={transform.style}
            options={caseWords}
            onChange={(style) => onChange({ ...transform, style })}
          />
        </span>
      );
    case "split":
      return (
        <span className="flex flex-wrap items-center gap-1.5">
          part
          <input
            aria-label={`${label}: which part`}
            inputMode="numeric"
            value={transform.index < 0 ? `${transform.index}` : `${transform.index + 1}`}
            className={`${box} w-12 text-right`}
            onChange={(event) => {
              const number = Number.parseInt(event.target.value, 10);
              if (Number.isFinite(number)) onChange({ ...transform, index: number > 0 ? number - 1 : number });
            }}
          />
          of what stands between
          <input
            aria-label={`${label}: parted by`}
            value={transform.separator}
            className={`${box} w-14`}
            onChange={(event) => onChange({ ...transform, separator: event.target.value })}
          />
        </span>
      );
    case "lookup":
      return <Lookup label={label} transform={transform} onChange={onChange} />;
    case "extract":
      return (
        <span className="flex items-center gap-1.5">
          what
          <input
            aria-label={`${label}: pattern`}
            value={transform.pattern}
            spellCheck={false}
            className={`${box} min-w-0 flex-1`}
            onChange={(event) => onChange({ ...transform, pattern: event.target.value })}
          />
          finds
        </span>
      );
  }
}

type LookupProps = {
  label: string;
  transform: Extract<Transform, { kind: "lookup" }>;
  onChange: (next: Transform) => void;
};

function Lookup({ label, transform, onChange }: LookupProps) {
  // Lines that are typed are no table yet; they stay as they are while somebody types.
  const [text, setText] = useState(() => tableText(transform.table));
  return (
    <span className="flex flex-col gap-1">
      <textarea
        aria-label={`${label}: table`}
        rows={3}
        value={text}
        placeholder="HR = Human resources"
        spellCheck={false}
        className={`${box} w-full`}
        onChange={(event) => {
          setText(event.target.value);
          onChange({ ...transform, table: readTable(event.target.value) });
        }}
      />
      <label className="flex items-center gap-1.5 text-small">
        <input
          type="checkbox"
          className="size-4 accent-baton"
          checked={transform.isStrict}
          onChange={(event) => onChange({ ...transform, isStrict: event.target.checked })}
        />
        what is not in the table is left out
      </label>
    </span>
  );
}
