import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions, Dialog, DialogPanel } from "@headlessui/react";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, take } from "../api/client";
import { foundRules } from "./foundRules";
import type { Command } from "./commands";

type PaletteProps = { commands: readonly Command[]; onClose: () => void };
type Found = { key: string; label: string; hint: string; run: () => void };

/** Finds people, designs, rules and actions. */
export function Palette({ commands, onClose }: PaletteProps) {
  const [text, setText] = useState("");
  const navigate = useNavigate();
  const people = useQuery({
    queryKey: ["people", "find", text],
    queryFn: () => take(api.GET("/api/people", { params: { query: { search: text, limit: 8 } } })),
    enabled: text.trim().length > 1,
    placeholderData: keepPreviousData,
  });
  const designs = useQuery({ queryKey: ["designs"], queryFn: () => take(api.GET("/api/designs")) });
  const rules = useQuery({ queryKey: ["rules", "find"], queryFn: () => take(api.GET("/api/rules")) });
  const wanted = text.trim().toLowerCase();
  const found: Found[] = [
    ...commands
      .filter((command) => command.isAllowed && command.label.toLowerCase().includes(wanted))
      .map((command) => ({ key: command.label, label: command.label, hint: command.keys, run: command.run })),
    ...(designs.data ?? [])
      .filter((design) => design.name.toLowerCase().includes(wanted))
      .map((design) => ({
        key: design.id,
        label: design.name,
        hint: "design",
        run: () => void navigate(`/designs/${design.id}`),
      })),
    ...(wanted.length > 1 ? foundRules(rules.data, wanted) : []).map(({ track, id, sentence, hint }) => ({
      key: id,
      label: sentence,
      hint,
      run: () => void navigate(`/rules/${track}`, { state: { rule: id } }),
    })),
    ...(wanted.length > 1 ? (people.data?.people ?? []) : []).map((person) => ({
      key: person.id,
      label: person.name,
      hint: [person.title, person.department].filter(Boolean).join(", "),
      run: () => void navigate(`/people/${person.id}`),
    })),
  ];
  return (
    <Dialog open onClose={onClose} className="relative z-40">
      <div className="fixed inset-0 flex justify-center bg-veil pt-[12vh]">
        <DialogPanel className="h-fit w-[560px] rounded-[6px] border border-field bg-sheet p-2 shadow-xl">
          <Combobox<Found | null>
            value={null}
            onChange={(entry) => {
              onClose();
              entry?.run();
            }}
          >
            <ComboboxInput
              autoFocus
              aria-label="Find people, designs, rules and actions"
              placeholder="Find people, designs, rules and actions"
              className="w-full rounded-[4px] border border-field bg-sheet px-3 py-2"
              onChange={(event) => setText(event.target.value)}
            />
            <ComboboxOptions static className="mt-1 max-h-[50vh] overflow-y-auto focus:outline-none">
              {found.map((entry) => (
                <ComboboxOption
                  key={entry.key}
                  value={entry}
                  className="flex justify-between gap-4 rounded-[3px] px-3 py-1.5 data-focus:bg-fold"
                >
                  <span>{entry.label}</span>
                  <span className="truncate text-second text-soft">{entry.hint}</span>
                </ComboboxOption>
              ))}
              {found.length === 0 && <p className="px-3 py-1.5 text-soft">Nothing is found with “{text}”.</p>}
            </ComboboxOptions>
          </Combobox>
        </DialogPanel>
      </div>
    </Dialog>
  );
}
