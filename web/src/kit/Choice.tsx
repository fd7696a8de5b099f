import { Listbox, ListboxButton, ListboxOption, ListboxOptions } from "@headlessui/react";
import type { ReactNode } from "react";

export type Option<T extends string> = { value: T; label: string };

const buttonLooks = {
  box: "rounded-[4px] border border-field bg-sheet px-2.5 py-1 text-left w-full min-h-8 truncate",
  lens: "border-b-[1.5px] border-dotted border-lens text-lens font-semibold min-h-6",
  condition: "border-b-[1.5px] border-dotted border-soft font-semibold min-h-6",
  result: "text-baton font-semibold border-b-[1.5px] border-dotted border-transparent hover:border-baton min-h-6",
};

type ChoiceProps<T extends string> = {
  label: string;
  value: T;
  options: readonly Option<T>[];
  onChange: (value: T) => void;
  look?: keyof typeof buttonLooks;
  upward?: boolean;
  /** What is read while none of them is chosen. */
  placeholder?: string;
};

/** One of several values, as a box in a form or as a chip in a sentence. */
export function Choice<T extends string>({
  label,
  value,
  options,
  onChange,
  look = "box",
  upward,
  placeholder = "choose",
}: ChoiceProps<T>) {
  const shown = options.find((option) => option.value === value)?.label ?? placeholder;
  return (
    <Listbox value={value} onChange={onChange}>
      <ListboxButton aria-label={`${label}: ${shown}`} className={buttonLooks[look]}>
        {shown}
      </ListboxButton>
      <OptionSheet upward={upward ?? false}>
        {options.map((option) => (
          <OptionRow key={option.value} value={option.value} label={option.label} />
        ))}
      </OptionSheet>
    </Listbox>
  );
}

type SeveralProps<T extends string> = {
  label: string;
  values: readonly T[];
  options: readonly Option<T>[];
  onChange: (values: T[]) => void;
  text: string;
};

/** Any number of values, as a chip in a sentence. */
export function Several<T extends string>({ label, values, options, onChange, text }: SeveralProps<T>) {
  return (
    <Listbox value={[...values]} onChange={onChange} multiple>
      <ListboxButton aria-label={`${label}: ${text}`} className={buttonLooks.condition}>
        {text}
      </ListboxButton>
      <OptionSheet upward={false}>
        {options.map((option) => (
          <OptionRow key={option.value} value={option.value} label={option.label} />
        ))}
      </OptionSheet>
    </Listbox>
  );
}

function OptionSheet({ children, upward }: { children: ReactNode; upward: boolean }) {
  return (
    <ListboxOptions
      anchor={{ to: upward ? "top start" : "bottom start", gap: 4 }}
      className="z-30 max-h-72 min-w-44 overflow-y-auto rounded-[4px] border border-field bg-sheet py-1 text-body shadow-lg focus:outline-none"
    >
      {children}
    </ListboxOptions>
  );
}

function OptionRow({ value, label }: { value: string; label: string }) {
  return (
    <ListboxOption value={value} className="group flex gap-2 px-3 py-1 data-focus:bg-fold">
      <span aria-hidden className="w-3 text-baton">
        <span className="hidden group-data-selected:inline">✓</span>
      </span>
      {label}
    </ListboxOption>
  );
}
