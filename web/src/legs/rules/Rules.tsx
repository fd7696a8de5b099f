import { closestCenter, DndContext, KeyboardSensor, PointerSensor, useSensor, useSensors } from "@dnd-kit/core";
import {
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
  verticalListSortingStrategy,
} from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import { Switch } from "@headlessui/react";
import { useQuery } from "@tanstack/react-query";
import { GripVertical, X } from "lucide-react";
import { api, take, type Api } from "../../api/client";
import { count } from "../../frame/legs";
import { Button } from "../../kit/Button";
import { Choice, Several } from "../../kit/Choice";
import { Empty, Page } from "../../kit/Page";
import { Trouble } from "../../kit/Trouble";
import { OccasionMap } from "./OccasionMap";
import { allOccasions, occasionsOf, type Rule, type RuleAction } from "./ruleState";
import { useRules } from "./useRules";

const occasionWords: Record<Api["Occasion"], string> = { new: "new message", reply: "reply", forward: "forward" };

/** Who gets what, and is anybody left out? */
export function Rules() {
  const { rules, sentences, error, failure, reload, act } = useRules();
  const designs = useQuery({ queryKey: ["designs"], queryFn: () => take(api.GET("/api/designs")) });
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const list = rules?.signature ?? [];
  const add = () => act("write a rule", { kind: "add", id: crypto.randomUUID() });
  return (
    <Page
      title="Who gets what"
      lede={
        list.length === 0
          ? "No rules yet: every message leaves without a signature."
          : `${count(list.length, "rule", "rules")} on the signature track. The first one that matches decides.`
      }
      action={
        <Button look="main" onClick={add}>
          Write a rule
        </Button>
      }
    >
      <div className="flex flex-col gap-3">
        <Trouble error={error} />
        {failure && (
          <div className="flex flex-col items-start gap-2">
            <Trouble error={failure} />
            <Button onClick={reload}>Load the newest state</Button>
          </div>
        )}
        <div className="grid grid-cols-[minmax(0,640px)_minmax(0,1fr)] gap-7">
          <section aria-label="Signature track">
            <h2 className="border-b border-line pb-2 font-semibold">Signature {list.length}</h2>
            {rules && list.length === 0 && (
              <div className="mt-4">
                <Empty>
                  Each rule is a sentence: which message carries which design. Write the first one; its words are
                  changed where they stand.
                </Empty>
              </div>
            )}
            <DndContext
              sensors={sensors}
              collisionDetection={closestCenter}
              onDragEnd={({ active, over }) => {
                const at = list.findIndex((rule) => rule.id === over?.id);
                if (at >= 0) act("order the rules", { kind: "place", id: String(active.id), at });
              }}
            >
              <SortableContext items={list.map((rule) => rule.id)} strategy={verticalListSortingStrategy}>
                <ol>
                  {list.map((rule, index) => (
                    <RuleRow
                      key={rule.id}
                      rule={rule}
                      index={index}
                      sentence={sentences?.get(rule.id) ?? []}
                      designs={designs.data ?? []}
                      act={act}
                    />
                  ))}
                </ol>
              </SortableContext>
            </DndContext>
            {list.length > 1 && (
              <p className="mt-2 text-small text-soft">Drag a rule by its handle, or move it with Alt ↑ and Alt ↓.</p>
            )}
          </section>
          <OccasionMap />
        </div>
      </div>
    </Page>
  );
}

type RuleRowProps = {
  rule: Rule;
  index: number;
  sentence: readonly Api["SentencePiece"][];
  designs: readonly Api["DesignRow"][];
  act: (label: string, action: RuleAction) => void;
};

function RuleRow({ rule, index, sentence, designs, act }: RuleRowProps) {
  const { attributes, listeners, setNodeRef, setActivatorNodeRef, transform, transition } = useSortable({
    id: rule.id,
  });
  const number = index + 1;
  return (
    <li
      ref={setNodeRef}
      style={{ transform: CSS.Translate.toString(transform), transition }}
      className={`grid grid-cols-[24px_26px_1fr_auto_auto] items-center gap-x-1 border-b border-line bg-paper py-2 ${rule.isOn ? "" : "text-soft"}`}
      onKeyDown={(event) => {
        if (!event.altKey || (event.key !== "ArrowUp" && event.key !== "ArrowDown")) return;
        event.preventDefault();
        act("order the rules", { kind: "place", id: rule.id, at: event.key === "ArrowUp" ? index - 1 : index + 1 });
      }}
    >
      <button
        type="button"
        ref={setActivatorNodeRef}
        {...attributes}
        {...listeners}
        aria-label={`Move rule ${number}`}
        aria-keyshortcuts="Alt+ArrowUp Alt+ArrowDown"
        className="flex size-6 touch-none items-center justify-center text-soft hover:text-ink"
      >
        <GripVertical size={14} aria-hidden />
      </button>
      <span className="text-second text-soft">{number}</span>
      <span className={rule.isOn ? "" : "line-through decoration-soft/60"}>
        {sentence.map((piece, at) =>
          piece.role === "condition" ? (
            <Several
              key={at}
              label={`Messages of rule ${number}`}
              values={occasionsOf(rule)}
              options={allOccasions.map((occasion) => ({ value: occasion, label: occasionWords[occasion] }))}
              onChange={(occasions) => act("change a rule", { kind: "occasions", id: rule.id, occasions })}
              text={piece.text}
            />
          ) : piece.role === "result" ? (
            <Choice
              key={at}
              look="result"
              label={`Design of rule ${number}`}
              value={rule.design ?? "nothing"}
              options={[
                ...designs.map((design) => ({ value: design.id, label: design.name })),
                { value: "nothing", label: "nothing" },
              ]}
              onChange={(design) =>
                act("change a rule", { kind: "design", id: rule.id, design: design === "nothing" ? null : design })
              }
            />
          ) : (
            <span key={at}>{piece.text}</span>
          ),
        )}
      </span>
      <span className="flex items-center gap-2 text-second">
        <Switch
          checked={rule.isOn}
          onChange={(isOn) =>
            act(isOn ? "switch a rule on" : "switch a rule off", { kind: "switch", id: rule.id, isOn })
          }
          aria-label={`Rule ${number} is on`}
          className="group flex min-h-6 w-14 items-center gap-2"
        >
          <span className="relative inline-block h-3 w-6 rounded-[2px] border border-field bg-sheet group-data-checked:border-ink">
            <span className="absolute top-px left-px h-2 w-2.5 rounded-[1px] bg-field group-data-checked:left-[11px] group-data-checked:bg-ink" />
          </span>
          {rule.isOn ? "on" : "off"}
        </Switch>
      </span>
      <Button
        look="quiet"
        label={`Take out rule ${number}`}
        onClick={() => act("take out a rule", { kind: "take out", id: rule.id })}
      >
        <X size={16} aria-hidden />
      </Button>
    </li>
  );
}
