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

/** Properties under a title. */
export function Titled({ title, children }: { title: string; children: ReactNode }) {
  return (
    <div className="flex flex-col gap-2">
      <h2 className="font-semibold text-soft">{title}</h2>
      {children}
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

type SizeProps = {
  row: string;
  label: string;
  unit: string;
  least: number;
  most: number;
  value: number;
  isValid?: (value: number) => boolean;
  onChange: (value: number) => void;
};

/** A property that is a whole number within limits. What is outside them is kept as typed and not saved. */
export function SizeRow({ row, label, unit, least, most, value, isValid: isRight = () => true, onChange }: SizeProps) {
  const [typed, setTyped] = useState<string | null>(null);
  const number = Number(typed ?? value);
  const fits = (size: number) => Number.isInteger(size) && size >= least && size <= most && isRight(size);
  const isValid = fits(number);
  return (
    <Row label={row}>
      <div className="flex items-center gap-2">
        <input
          type="number"
          aria-label={label}
          aria-invalid={!isValid}
          min={least}
          max={most}
          value={typed ?? value}
          onChange={(event) => {
            setTyped(event.target.value);
            const next = Number(event.target.value);
            if (event.target.value !== "" && fits(next)) onChange(next);
          }}
          onBlur={() => setTyped(null)}
          className="min-h-8 w-20 rounded-[4px] border border-field bg-sheet px-2.5 py-1"
        />
        <span className="text-soft">{unit}</span>
      </div>
      {!isValid && (
        <p role="alert" className="text-small text-madder">
          From {least === 0 && !isRight(1) ? 10 : least} to {most}
          {least === 0 && !isRight(1) ? ", or 0" : ""}.
        </p>
      )}
    </Row>
  );
}

type IconSizeProps = { without: "none" | "words"; value: number; onChange: (value: number) => void };

/** The size of a block's icons; 0 for what stands without them. */
export function IconSizeRow({ without, value, onChange }: IconSizeProps) {
  return (
    <SizeRow
      row="Icons"
      label="Size of icons"
      unit={`px, 0 for ${without}`}
      least={0}
      most={48}
      isValid={(size) => size === 0 || size >= 10}
      value={value}
      onChange={onChange}
    />
  );
}
