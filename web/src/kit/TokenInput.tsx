import { X } from "lucide-react";
import { useId, useState } from "react";

type TokenInputProps = {
  label: string;
  values: readonly string[];
  onChange: (values: string[]) => void;
  /** Values that are offered while typing. */
  known?: readonly string[];
  placeholder?: string;
};

/** Several short texts: each one is entered with Enter or a comma, and taken out by its cross or with Backspace. */
export function TokenInput({ label, values, onChange, known = [], placeholder }: TokenInputProps) {
  const [text, setText] = useState("");
  const list = useId();
  const add = (typed: string) => {
    const fresh = typed
      .split(/[,;\n]/)
      .map((part) => part.trim())
      .filter((part) => part !== "" && !values.includes(part));
    if (fresh.length > 0) onChange([...values, ...fresh]);
    setText("");
  };
  return (
    <div className="flex min-h-8 flex-1 flex-wrap items-center gap-1 rounded-[4px] border border-field bg-sheet px-1.5 py-0.5">
      {values.map((value) => (
        <span key={value} className="flex items-center gap-0.5 rounded-[3px] bg-fold pl-1.5 text-second">
          {value}
          <button
            type="button"
            aria-label={`Take out ${value}`}
            className="flex size-6 items-center justify-center text-soft hover:text-ink"
            onClick={() => onChange(values.filter((other) => other !== value))}
          >
            <X size={12} aria-hidden />
          </button>
        </span>
      ))}
      <input
        aria-label={label}
        list={known.length > 0 ? list : undefined}
        className="min-h-6 min-w-32 flex-1 bg-transparent outline-offset-4"
        value={text}
        placeholder={values.length === 0 ? (placeholder ?? "type and press Enter") : ""}
        onChange={(event) => {
          const typed = event.target.value;
          // What is picked from the list of known values is complete at once.
          if (known.includes(typed) && !(event.nativeEvent instanceof InputEvent)) add(typed);
          else setText(typed);
        }}
        onKeyDown={(event) => {
          if ((event.key === "Enter" || event.key === ",") && text.trim() !== "") {
            event.preventDefault();
            add(text);
          }
          if (event.key === "Backspace" && text === "" && values.length > 0) onChange(values.slice(0, -1));
        }}
        onBlur={() => add(text)}
      />
      {known.length > 0 && (
        <datalist id={list}>
          {known.map((value) => (
            <option key={value} value={value} />
          ))}
        </datalist>
      )}
    </div>
  );
}
