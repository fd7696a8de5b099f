import { useState } from "react";
import { Button } from "../../kit/Button";
import { Choice } from "../../kit/Choice";
import { Trouble } from "../../kit/Trouble";
import type { Act } from "./DesignBench";
import type { Design } from "./designState";
import { Row, TextInput } from "./Row";
import { useSets } from "./useSets";

const beginning = "begin";

/** The set a design belongs to: join one and take its theme, begin one, or stand alone. */
export function SetChoice({ design, act }: { design: Design; act: Act }) {
  const sets = useSets();
  const [name, setName] = useState<string | null>(null);
  const { set = "", theme } = design;
  const known = sets.data ?? [];
  const others = known.find((one) => one.name === set)?.designs.length ?? 1;
  return (
    <>
      <Row label="Set">
        <Choice
          label="Set"
          value={set}
          options={[
            { value: "", label: "stands alone" },
            ...[...new Set([...known.map((one) => one.name), set])]
              .filter((one) => one !== "")
              .map((one) => ({ value: one, label: one })),
            { value: ` ${beginning}`, label: "a new set…" },
          ]}
          onChange={(next) => {
            if (next === ` ${beginning}`) setName("");
            else
              act("set of a design", {
                kind: "set",
                set: next,
                theme: known.find((one) => one.name === next)?.theme ?? theme,
              });
          }}
        />
      </Row>
      {name !== null && (
        <Row label="Called">
          <div className="flex gap-1">
            <TextInput label="Name of the new set" value={name} placeholder="a name" onChange={setName} />
            <Button
              disabled={name.trim() === "" || known.some((one) => one.name === name.trim())}
              onClick={() => {
                act("begin a set", { kind: "set", set: name.trim(), theme });
                setName(null);
              }}
            >
              Begin
            </Button>
          </div>
        </Row>
      )}
      {set !== "" && (
        <p className="text-second text-soft">
          {others > 1
            ? `What is changed in the theme changes in all ${others} designs of the set.`
            : "Designs that join the set take this theme and follow it."}
        </p>
      )}
      <Trouble error={sets.error} />
    </>
  );
}
