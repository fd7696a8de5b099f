import { Dialog, DialogPanel, DialogTitle } from "@headlessui/react";
import { Button } from "../kit/Button";
import type { Command } from "./commands";

/** The keys that work here. */
export function KeysSheet({ commands, onClose }: { commands: readonly Command[]; onClose: () => void }) {
  return (
    <Dialog open onClose={onClose} className="relative z-40">
      <div className="fixed inset-0 flex items-center justify-center bg-veil">
        <DialogPanel className="w-[440px] rounded-[6px] border border-field bg-sheet p-6 shadow-xl">
          <DialogTitle className="font-title text-title font-medium">Keys</DialogTitle>
          <dl className="my-4 grid grid-cols-[130px_1fr] gap-y-1.5">
            {[
              ...commands,
              { label: "Move the rule or block that has the focus", keys: "Alt ↑ ↓" },
              { label: "Show these keys", keys: "?" },
            ].map((command) => (
              <div key={command.label} className="contents">
                <dt className="font-semibold">{command.keys}</dt>
                <dd className="text-soft">{command.label}</dd>
              </div>
            ))}
          </dl>
          <Button onClick={onClose}>Close</Button>
        </DialogPanel>
      </div>
    </Dialog>
  );
}
