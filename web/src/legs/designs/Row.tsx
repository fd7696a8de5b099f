import { useState, type ReactNode } from "react";

/** A property: its name at the left, its control at the right. */
export function Row({ label, children }: { label: string; children: ReactNode }) {
  return (
    <div className="grid grid-cols-[92px_1fr] items-start gap-2">
      <span className="pt-1.5 text-second text-soft">{label}</span>
      <div className="min-w-0">{children}</div>
    </div>
  );
}

type TextInputProps = {
  label: string;
  value: string;
  onChange: (value: string) => void;
  isValid?: (text: string) => boolean;
  hint?: string;
  placeholder?: string;
};

/** A text that is saved while it is valid; while it is not, it stays as typed with a hint, and goes back when left. */
export function TextInput({ label, value, onChange, isValid = () => true, hint = "", placeholder }: TextInputProps) {
  const [typed, setTyped] = useState<string | null>(null);
  const isWrong = typed !== null && !isValid(typed);
  return (
    <div className="min-w-0 flex-1">
      <input
        aria-label={label}
        aria-invalid={isWrong}
        value={isWrong ? typed : value}
        placeholder={placeholder}
        onChange={(event) => {
          setTyped(event.target.value);
          if (isValid(event.target.value)) onChange(event.target.value);
        }}
        onBlur={() => setTyped(null)}
        className="min-h-8 w-full rounded-[4px] border border-field bg-sheet px-2.5 py-1"
      />
      {isWrong && (
        <p role="alert" className="text-small text-madder">
          {hint}
        </p>
      )}
    </div>
  );
}
