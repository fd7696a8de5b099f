import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, take } from "../../api/client";
import { Button } from "../../kit/Button";
import { Choice } from "../../kit/Choice";
import { Trouble } from "../../kit/Trouble";
import type { Act } from "./DesignBench";
import type { Design } from "./designState";
import { Row, TextInput } from "./Row";
import { useSets } from "./useSets";

const beginning = "begin";

/** The set a design belongs to: join one and take its theme, begin one, or stand alone. And what stands in for it where it is too long. */
export function SetChoice({ design, act }: { design: Design; act: Act }) {
  const sets = useSets();
  const designs = useQuery({ queryKey: ["designs"], queryFn: () => take(api.GET("/api/designs")) });
  const [name, setName] = useState<string | null>(null);
  const { set = "", theme, smaller = "" } = design;
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
      <Row label="Too long">
        <Choice
          label="Where it is too long"
          value={smaller}
          options={[
            { value: "", label: "nothing stands in" },
            ...[...new Set([...(designs.data ?? []).map((one) => one.name), smaller])]
              .filter((one) => one !== "" && one !== design.name)
              .map((one) => ({ value: one, label: `${one} stands in` })),
          ]}
          onChange={(next) => act("what stands in for a design", { kind: "smaller", smaller: next })}
        />
      </Row>
      <Trouble error={sets.error} />
    </>
  );
}
