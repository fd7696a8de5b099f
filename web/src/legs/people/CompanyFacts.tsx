import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, ifMatch, take, type Api } from "../../api/client";
import { count } from "../../frame/legs";
import { Button } from "../../kit/Button";
import { Choice } from "../../kit/Choice";
import { Page } from "../../kit/Page";
import { Trouble } from "../../kit/Trouble";
import { PeopleTabs } from "./PeopleTabs";
import { teamTree } from "./unitState";

type Unit = Api["UnitAnswer"];

const groups: readonly { kind: Api["UnitKind"]; label: string; one: string }[] = [
  { kind: "entity", label: "Legal entities", one: "legal entity" },
  { kind: "office", label: "Offices", one: "office" },
  { kind: "team", label: "Teams", one: "team" },
];

/** Facts that stand once for everybody in an office, a team, an entity or the company. */
export function CompanyFacts() {
  const units = useQuery({ queryKey: ["units"], queryFn: () => take(api.GET("/api/units")) });
  const fields = useQuery({ queryKey: ["fields"], queryFn: () => take(api.GET("/api/fields")) });
  const [chosen, setChosen] = useState<string | null>(null);
  const [adding, setAdding] = useState<Api["UnitKind"] | null>(null);
  const list = units.data ?? [];
  const unit =
    list.find((candidate) => candidate.id === chosen) ?? list.find((candidate) => candidate.kind === "company");
  return (
    <Page
      title="What the company says of itself"
      lede="A fact entered here reaches everybody in that part of the company whose own source says nothing else."
    >
      <div className="flex h-full min-h-0 flex-col gap-3">
        <PeopleTabs />
        <Trouble error={units.error ?? fields.error} />
        <div className="grid min-h-0 flex-1 grid-cols-[340px_minmax(0,1fr)] gap-8">
          <nav aria-label="Parts of the company" className="min-h-0 overflow-y-auto">
            <ul>
              {list
                .filter((candidate) => candidate.kind === "company")
                .map((company) => (
                  <UnitItem
                    key={company.id}
                    unit={company}
                    depth={0}
                    isChosen={company === unit}
                    onChoose={setChosen}
                  />
                ))}
            </ul>
            {groups.map((group) => (
              <section key={group.kind} aria-label={group.label} className="mt-3">
                <div className="flex items-center justify-between border-b border-ink">
                  <h2 className="text-small font-semibold text-soft">{group.label}</h2>
                  <Button look="quiet" label={`Add a ${group.one}`} onClick={() => setAdding(group.kind)}>
                    Add
                  </Button>
                </div>
                {adding === group.kind && <AddUnit kind={group.kind} onDone={() => setAdding(null)} />}
                <ul>
                  {teamTree(list.filter((candidate) => candidate.kind === group.kind)).map(
                    ({ unit: member, depth }) => (
                      <UnitItem
                        key={member.id}
                        unit={member}
                        depth={depth}
                        isChosen={member === unit}
                        onChoose={setChosen}
                      />
                    ),
                  )}
                </ul>
              </section>
            ))}
          </nav>
          {unit && fields.data && (
            <UnitForm
              key={`${unit.id}${unit.revision}`}
              unit={unit}
              teams={list.filter((candidate) => candidate.kind === "team")}
              fields={fields.data}
            />
          )}
        </div>
      </div>
    </Page>
  );
}

type UnitItemProps = { unit: Unit; depth: number; isChosen: boolean; onChoose: (id: string) => void };

function UnitItem({ unit, depth, isChosen, onChoose }: UnitItemProps) {
  const facts = Object.keys(unit.facts).length;
  return (
    <li>
      <button
        type="button"
        aria-current={isChosen ? "true" : undefined}
        onClick={() => onChoose(unit.id)}
        style={{ paddingLeft: 8 + 16 * depth }}
        className={`flex min-h-8 w-full items-center justify-between gap-3 border-b border-line pr-2 text-left hover:bg-sheet ${isChosen ? "bg-sheet font-semibold shadow-[inset_3px_0_0_var(--color-baton)]" : ""}`}
      >
        <span className="truncate">{unit.name}</span>
        <span className="shrink-0 text-small font-normal text-soft">
          {facts > 0 && `${count(facts, "fact", "facts")}, `}
          {count(unit.people, "person", "people")}
        </span>
      </button>
    </li>
  );
}

function AddUnit({ kind, onDone }: { kind: Api["UnitKind"]; onDone: () => void }) {
  const queries = useQueryClient();
  const [name, setName] = useState("");
  const add = useMutation({
    mutationFn: () => take(api.POST("/api/units", { body: { kind, name, parent: null, facts: {} } })),
    onSuccess: async () => {
      await queries.invalidateQueries();
      onDone();
    },
  });
  return (
    <form
      className="flex flex-col gap-1.5 py-1.5"
      onSubmit={(event) => {
        event.preventDefault();
        add.mutate();
      }}
    >
      <div className="flex gap-1.5">
        <input
          autoFocus
          aria-label="Name of the new one"
          value={name}
          onChange={(event) => setName(event.target.value)}
          className="min-w-0 flex-1 rounded-[4px] border border-field bg-sheet px-2 py-1"
        />
        <Button type="submit">Add it</Button>
        <Button look="quiet" onClick={onDone}>
          Leave
        </Button>
      </div>
      <Trouble error={add.error} />
    </form>
  );
}

type UnitFormProps = { unit: Unit; teams: readonly Unit[]; fields: readonly Api["FieldAnswer"][] };

function UnitForm({ unit, teams, fields }: UnitFormProps) {
  const queries = useQueryClient();
  const [name, setName] = useState(unit.name);
  const [parent, setParent] = useState(unit.parent ?? "");
  const [facts, setFacts] = useState<Record<string, string>>(unit.facts);
  const save = useMutation({
    mutationFn: () =>
      take(
        api.PUT("/api/units/{id}", {
          params: { path: { id: unit.id } },
          body: { kind: unit.kind, name, parent: parent || null, facts },
          ...ifMatch(unit.revision),
        }),
      ),
    onSuccess: () => queries.invalidateQueries(),
  });
  const box = "w-full rounded-[4px] border border-field bg-sheet px-2.5 py-1";
  const held = fields.filter((field) => field.holders.includes(unit.kind));
  const input = (field: Api["FieldAnswer"]) => (
    <FactInput
      key={field.name}
      field={field}
      value={facts[field.name] ?? ""}
      uses={unit.uses[field.name] ?? 0}
      doubt={unit.doubts[field.name] ?? ""}
      isSaved={facts[field.name] === unit.facts[field.name]}
      onChange={(value) => setFacts({ ...facts, [field.name]: value })}
    />
  );
  return (
    <form
      aria-label={unit.name}
      className="min-h-0 overflow-y-auto border-l border-line pl-6"
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate();
      }}
    >
      <h2 className="font-title text-[20px] leading-6 font-medium">{unit.name}</h2>
      <p className="mb-3 text-second text-soft">
        {count(unit.people, "person is", "people are")} here
        {unit.kind === "office" && ", because their location says so"}
        {unit.kind === "team" && ", because their department says so"}
        {unit.kind === "entity" && ", because their legal entity says so"}.
      </p>
      <div className="grid max-w-2xl grid-cols-[130px_minmax(0,1fr)_150px] items-center gap-x-4 gap-y-2">
        <label htmlFor="unit-name" className="text-second text-soft">
          Name
        </label>
        <input id="unit-name" value={name} onChange={(event) => setName(event.target.value)} className={box} />
        <span />
        {unit.kind === "team" && (
          <>
            <span className="text-second text-soft">Inside</span>
            <Choice
              label="Inside team"
              value={parent}
              options={[
                { value: "", label: "no other team" },
                ...teams.filter((team) => team.id !== unit.id).map((team) => ({ value: team.id, label: team.name })),
              ]}
              onChange={setParent}
            />
            <span />
          </>
        )}
        {held.filter((field) => !field.profile).map(input)}
        <h3 className="col-span-3 mt-3 border-b border-line pb-1 text-second font-semibold">Profile links</h3>
        {held.some((field) => field.profile) ? (
          held.filter((field) => field.profile).map(input)
        ) : (
          <p className="col-span-3 text-second text-soft">
            None may stand here yet.{" "}
            <Link to="/people/fields" className="text-baton underline">
              Make a field
            </Link>{" "}
            that is a profile link: to films, posts, a calendar to book a time.
          </p>
        )}
      </div>
      <div className="mt-4 flex flex-col gap-3">
        <Trouble error={save.error} />
        <div>
          <Button type="submit" disabled={save.isPending}>
            Save facts
          </Button>
        </div>
      </div>
    </form>
  );
}

type FactInputProps = {
  field: Api["FieldAnswer"];
  value: string;
  uses: number;
  doubt: string;
  isSaved: boolean;
  onChange: (value: string) => void;
};

function FactInput({ field, value, uses, doubt, isSaved, onChange }: FactInputProps) {
  return (
    <>
      <label htmlFor={`fact-${field.name}`} className="text-second text-soft">
        {field.label}
      </label>
      <input
        id={`fact-${field.name}`}
        value={value}
        onChange={(event) => onChange(event.target.value)}
        className="w-full rounded-[4px] border border-field bg-sheet px-2.5 py-1"
      />
      <span className="text-small text-soft">
        {value !== "" &&
          (isSaved
            ? uses === 0
              ? "nobody takes it from here"
              : `${count(uses, "person takes", "people take")} it`
            : "not saved")}
      </span>
      {isSaved && doubt !== "" && <p className="col-span-2 col-start-2 -mt-1 text-small text-ochre">{doubt}</p>}
    </>
  );
}
