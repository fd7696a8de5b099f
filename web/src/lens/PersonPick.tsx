import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from "@headlessui/react";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, take, type Api } from "../api/client";

type PersonPickProps = {
  label: string;
  name: string;
  placeholder?: string;
  onPick: (person: Api["PersonRow"]) => void;
  look: "lens" | "box";
};

const looks = {
  lens: "border-b-[1.5px] border-dotted border-lens bg-transparent font-semibold text-lens min-h-6 min-w-28 max-w-72 [field-sizing:content]",
  box: "rounded-[4px] border border-field bg-sheet px-2.5 py-1 w-full min-h-8",
};

/** Finds a person by typing a part of the name, address, title or department. */
export function PersonPick({ label, name, placeholder, onPick, look }: PersonPickProps) {
  const [text, setText] = useState("");
  const found = useQuery({
    queryKey: ["people", "pick", text],
    queryFn: () => take(api.GET("/api/people", { params: { query: { search: text, limit: 12 } } })),
    placeholderData: keepPreviousData,
  });
  return (
    <Combobox<Api["PersonRow"] | null>
      value={null}
      immediate
      onChange={(person) => person && onPick(person)}
      onClose={() => setText("")}
    >
      <ComboboxInput
        aria-label={label}
        className={looks[look]}
        placeholder={placeholder}
        displayValue={() => name}
        onFocus={(event) => event.target.select()}
        onChange={(event) => setText(event.target.value)}
        autoComplete="off"
        spellCheck={false}
      />
      <ComboboxOptions
        anchor={{ to: look === "lens" ? "top start" : "bottom start", gap: 4 }}
        className="z-30 max-h-80 w-96 overflow-y-auto rounded-[4px] border border-field bg-sheet py-1 text-body shadow-lg empty:hidden"
      >
        {found.data?.people.map((person) => (
          <ComboboxOption key={person.id} value={person} className="flex flex-col px-3 py-1 data-focus:bg-fold">
            <span className="font-semibold">{person.name}</span>
            <span className="text-small text-soft">
              {[person.title, person.department].filter(Boolean).join(", ") || person.addresses[0]}
            </span>
          </ComboboxOption>
        ))}
        {found.data?.people.length === 0 && <p className="px-3 py-1 text-soft">Nobody is found with “{text}”.</p>}
      </ComboboxOptions>
    </Combobox>
  );
}
