import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, saveFile, take, type Api } from "../../api/client";
import { count } from "../../frame/legs";
import { Button } from "../../kit/Button";
import { Choice } from "../../kit/Choice";
import { Trouble } from "../../kit/Trouble";
import { nobody, selectionRequest, type PeopleFilter, type Selection } from "./peopleState";

type ManyAtOnceProps = {
  selection: Selection;
  filter: PeopleFilter;
  found: number;
  fields: readonly Api["FieldAnswer"][];
  onSelect: (selection: Selection) => void;
};

/** What can be done with everybody who is selected. */
export function ManyAtOnce({ selection, filter, found, fields, onSelect }: ManyAtOnceProps) {
  const [action, setAction] = useState<"set" | "open" | "retire" | null>(null);
  const close = () => setAction(null);
  const isOfRetired = filter.state === "retired";
  const selected = selection.all ? found : selection.ids.size;
  const people = selectionRequest(selection, filter);
  const designs = useQuery({
    queryKey: ["designs"],
    queryFn: () => take(api.GET("/api/designs")),
    enabled: selected > 0,
  });
  const exported = useMutation({
    mutationFn: (what: string) => {
      const [kind = "", name = ""] = what.split(/ (.*)/s);
      if (kind === "csv") return saveFile("/api/people/export", { people, format: kind }, "people.csv");
      if (kind === "vcard") return saveFile("/api/people/export", { people, format: kind }, "people.vcf");
      const which = kind === "set" ? { set: name, design: null } : { set: "", design: name };
      return saveFile("/api/people/signatures", { people, ...which }, "signatures.zip");
    },
  });
  if (selected === 0) return null;
  const sets = [...new Set((designs.data ?? []).map((design) => design.set))].filter((set) => set !== "");
  return (
    <section
      aria-label="Selected people"
      className="flex flex-col gap-2 rounded-[4px] border border-line bg-sheet px-3 py-2"
    >
      <div className="flex items-center gap-2">
        <span className="mr-2 font-semibold whitespace-nowrap">{count(selected, "person", "people")} selected</span>
        <Button onClick={() => setAction(action === "set" ? null : "set")}>Set a value</Button>
        <Button onClick={() => setAction(action === "open" ? null : "open")}>Open a field</Button>
        <Button onClick={() => setAction(action === "retire" ? null : "retire")}>
          {isOfRetired ? "Bring back" : "Retire"}
        </Button>
        <div className="w-32">
          <Choice
            label="Export"
            value=""
            placeholder={exported.isPending ? "Exporting" : "Export…"}
            options={[
              { value: "csv", label: "as CSV" },
              { value: "vcard", label: "as vCard" },
              ...sets.map((set) => ({ value: `set ${set}`, label: `signatures, all of ${set}` })),
              ...(designs.data ?? []).map((design) => ({
                value: `design ${design.id}`,
                label: `signatures, ${design.name}`,
              })),
            ]}
            onChange={(what) => exported.mutate(what)}
          />
        </div>
        <Button look="quiet" onClick={() => onSelect(nobody)}>
          Clear
        </Button>
      </div>
      {action === "set" && <SetValue people={people} count={selected} fields={fields} onDone={close} />}
      {action === "open" && <OpenField people={people} count={selected} fields={fields} onDone={close} />}
      {action === "retire" && (
        <Retire
          people={people}
          count={selected}
          isBack={isOfRetired}
          onDone={(isDone) => {
            close();
            if (isDone) onSelect(nobody);
          }}
        />
      )}
      <Trouble error={exported.error ?? designs.error} />
    </section>
  );
}

type SetValueProps = {
  people: Api["PeopleSelection"];
  count: number;
  fields: readonly Api["FieldAnswer"][];
  onDone: () => void;
};

function SetValue({ people, count: number, fields, onDone }: SetValueProps) {
  const queries = useQueryClient();
  const options = fields.filter((field) => field.name !== "mail" && field.holders.includes("person"));
  const [field, setField] = useState(options.find((option) => option.name === "title")?.name ?? "");
  const [value, setValue] = useState("");
  const set = useMutation({
    mutationFn: (next: string | null) =>
      take(api.POST("/api/people/overrides", { body: { people, field, value: next } })),
    onSuccess: async () => {
      await queries.invalidateQueries();
      onDone();
    },
  });
  return (
    <form
      className="flex flex-col gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        set.mutate(value);
      }}
    >
      <div className="flex items-center gap-2">
        <div className="w-44">
          <Choice
            label="Field to set"
            value={field}
            options={options.map((option) => ({ value: option.name, label: option.label }))}
            onChange={setField}
          />
        </div>
        <input
          aria-label="Value"
          value={value}
          onChange={(event) => setValue(event.target.value)}
          placeholder="empty: an explicit blank"
          className="min-w-0 flex-1 rounded-[4px] border border-field bg-sheet px-2.5 py-1"
        />
        <Button type="submit" disabled={set.isPending}>
          Set for {number}
        </Button>
        <Button look="quiet" onClick={() => set.mutate(null)}>
          Take overrides out
        </Button>
      </div>
      <Trouble error={set.error} />
    </form>
  );
}

type OpenFieldProps = SetValueProps;

/** Lets the selected people, and nobody else, set a field for themselves. */
function OpenField({ people, count: number, fields, onDone }: OpenFieldProps) {
  const queries = useQueryClient();
  const options = fields.filter(
    (field) => field.name !== "mail" && field.holders.includes("person") && !field.rule.isOpen,
  );
  const [field, setField] = useState(options.find((option) => option.name === "pronouns")?.name ?? "");
  const open = useMutation({
    mutationFn: (isOpen: boolean) => take(api.POST("/api/people/opened", { body: { people, field, isOpen } })),
    onSuccess: async () => {
      await queries.invalidateQueries();
      onDone();
    },
  });
  return (
    <form
      className="flex flex-col gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        open.mutate(true);
      }}
    >
      <div className="flex items-center gap-2">
        <span>Let them set</span>
        <div className="w-44">
          <Choice
            label="Field to open"
            value={field}
            options={options.map((option) => ({ value: option.name, label: option.label }))}
            onChange={setField}
          />
        </div>
        <span className="mr-2">for themselves</span>
        <Button type="submit" disabled={open.isPending || field === ""}>
          Open for {number}
        </Button>
        <Button look="quiet" disabled={field === ""} onClick={() => open.mutate(false)}>
          Close it for them again
        </Button>
      </div>
      <Trouble error={open.error} />
    </form>
  );
}

type RetireProps = {
  people: Api["PeopleSelection"];
  count: number;
  isBack: boolean;
  onDone: (isDone: boolean) => void;
};

/** Asks once more before people lose their accounts. */
function Retire({ people, count: number, isBack, onDone }: RetireProps) {
  const queries = useQueryClient();
  const retire = useMutation({
    mutationFn: () => take(api.POST("/api/people/retire", { body: { people, isRetired: !isBack } })),
    onSuccess: async () => {
      await queries.invalidateQueries();
      onDone(true);
    },
  });
  const whom = count(number, "person", "people");
  return (
    <div className="flex flex-col gap-2">
      <div className="flex items-center gap-2">
        <span className="mr-2">
          {isBack
            ? `Those of ${whom} who were retired by hand and are still listed get their accounts back.`
            : `${whom} will have no signature and no account here, whatever the directory lists. It can be taken back.`}
        </span>
        <Button disabled={retire.isPending} onClick={() => retire.mutate()}>
          {isBack ? `Bring ${number} back` : `Retire ${number}`}
        </Button>
        <Button look="quiet" onClick={() => onDone(false)}>
          Leave
        </Button>
      </div>
      <Trouble error={retire.error} />
    </div>
  );
}
