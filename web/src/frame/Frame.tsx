import { lazy, Suspense, useEffect, useEffectEvent, useState } from "react";
import { Navigate, Route, Routes, useNavigate } from "react-router";
import type { Api } from "../api/client";
import { LensTray } from "../lens/LensTray";
import { useLens } from "../lens/lensState";
import { Designs } from "../legs/designs/Designs";
import { CompanyFacts } from "../legs/people/CompanyFacts";
import { Fields } from "../legs/people/Fields";
import { Mailboxes } from "../legs/people/Mailboxes";
import { People } from "../legs/people/People";
import { RunPage } from "../legs/people/RunPage";
import { SourceMapping } from "../legs/people/SourceMapping";
import { Sources } from "../legs/people/Sources";
import { TableMapping } from "../legs/people/TableMapping";
import { Proof } from "../legs/proof/Proof";
import { Results } from "../legs/results/Results";
import { isTyping, keysOf, type Command } from "./commands";
import { useDrafts } from "./drafts";
import { KeysSheet } from "./KeysSheet";
import { legs } from "./legs";
import { Line } from "./Line";
import { Palette } from "./Palette";

/** The largest pages are loaded when they are first opened. */
const Answers = lazy(async () => ({ default: (await import("../legs/designs/Answers")).Answers }));
const Banners = lazy(async () => ({ default: (await import("../legs/designs/Banners")).Banners }));
const Disclaimers = lazy(async () => ({ default: (await import("../legs/designs/Disclaimers")).Disclaimers }));
const Rollout = lazy(async () => ({ default: (await import("../legs/rollout/Rollout")).Rollout }));
const Rules = lazy(async () => ({ default: (await import("../legs/rules/Rules")).Rules }));
const DesignBench = lazy(async () => ({ default: (await import("../legs/designs/DesignBench")).DesignBench }));

/** The administrator's frame: the line, the page, the lens tray. */
export function Frame({ user }: { user: Api["SessionUser"] }) {
  const [over, setOver] = useState<"nothing" | "palette" | "keys">("nothing");
  const commands = useCommands(() => setOver("palette"));
  const close = () => setOver("nothing");

  const onKey = useEffectEvent((event: KeyboardEvent) => {
    const keys = keysOf(event);
    if (isTyping(event.target) && !keys.includes(" ")) return;
    if (keys === "?") setOver("keys");
    const command = commands.find((candidate) => candidate.keys === keys && candidate.isAllowed);
    if (!command) return;
    event.preventDefault();
    command.run();
  });
  useEffect(() => {
    const listen = (event: KeyboardEvent) => onKey(event);
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  }, []);

  return (
    <div className="flex h-full flex-col">
      <Line user={user} onFind={() => setOver("palette")} onKeys={() => setOver("keys")} />
      <main className="min-h-0 flex-1 overflow-y-auto">
        <Suspense fallback={null}>
          <Routes>
            <Route path="/people/runs/:id" element={<RunPage />} />
            <Route path="/people/sources" element={<Sources />} />
            <Route path="/people/sources/:id" element={<SourceMapping />} />
            <Route path="/people/company" element={<CompanyFacts />} />
            <Route path="/people/mailboxes" element={<Mailboxes />} />
            <Route path="/people/fields" element={<Fields />} />
            <Route path="/people/table" element={<TableMapping />} />
            <Route path="/people/:id?" element={<People />} />
            <Route path="/designs/disclaimers/:id?" element={<Disclaimers />} />
            <Route path="/designs/banners/:id?" element={<Banners />} />
            <Route path="/designs" element={<Designs />} />
            <Route path="/designs/answers/:id?" element={<Answers />} />
            <Route path="/designs/:id" element={<DesignBench />} />
            <Route path="/rules/:tab?" element={<Rules />} />
            <Route path="/proof" element={<Proof />} />
            <Route path="/rollout/:tab?/:client?" element={<Rollout />} />
            <Route path="/results" element={<Results />} />
            <Route path="*" element={<Navigate to="/people" replace />} />
          </Routes>
        </Suspense>
      </main>
      <LensTray />
      {over === "palette" && <Palette commands={commands} onClose={close} />}
      {over === "keys" && <KeysSheet commands={commands} onClose={close} />}
    </div>
  );
}

function useCommands(find: () => void): readonly Command[] {
  const navigate = useNavigate();
  const lens = useLens();
  const drafts = useDrafts();
  return [
    ...legs.map((leg) => ({
      label: `Go to ${leg.name}`,
      keys: `Alt ${leg.key}`,
      isAllowed: true,
      run: () => void navigate(leg.path),
    })),
    { label: "Find people, designs, rules and actions", keys: "Ctrl K", isAllowed: true, run: find },
    {
      label: lens.isOpen ? "Close the lens" : "Open the lens",
      keys: "L",
      isAllowed: true,
      run: () => lens.setOpen(!lens.isOpen),
    },
    {
      label: drafts.undoLabel ? `Undo: ${drafts.undoLabel}` : "Undo",
      keys: "Ctrl Z",
      isAllowed: drafts.undoLabel !== null,
      run: drafts.undo,
    },
    {
      label: drafts.redoLabel ? `Redo: ${drafts.redoLabel}` : "Redo",
      keys: "Ctrl Shift Z",
      isAllowed: drafts.redoLabel !== null,
      run: drafts.redo,
    },
  ];
}
