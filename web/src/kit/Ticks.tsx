type TicksProps<T extends string> = {
  label: string;
  options: readonly { value: T; label: string }[];
  values: readonly T[];
  onChange: (values: T[]) => void;
};

/** Any number of a few. */
export function Ticks<T extends string>({ label, options, values, onChange }: TicksProps<T>) {
  return (
    <fieldset className="flex flex-wrap gap-x-4 gap-y-1">
      <legend className="sr-only">{label}</legend>
      {options.map((option) => (
        <Tick
          key={option.value}
          label={option.label}
          isOn={values.includes(option.value)}
          onChange={(isOn) =>
            onChange(
              options
                .map((other) => other.value)
                .filter((other) => (other === option.value ? isOn : values.includes(other))),
            )
          }
        />
      ))}
    </fieldset>
  );
}

/** Yes or no. */
export function Tick({ label, isOn, onChange }: { label: string; isOn: boolean; onChange: (isOn: boolean) => void }) {
  return (
    <label className="flex min-h-6 items-center gap-1.5">
      <input
        type="checkbox"
        className="size-4 accent-baton"
        checked={isOn}
        onChange={(event) => onChange(event.target.checked)}
      />
      {label}
    </label>
  );
}
