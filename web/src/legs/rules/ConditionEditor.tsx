import { Menu, MenuButton, MenuItem, MenuItems } from "@headlessui/react";
import { useQuery } from "@tanstack/react-query";
import { X } from "lucide-react";
import { api, take } from "../../api/client";
import { Button } from "../../kit/Button";
import { Choice } from "../../kit/Choice";
import { Tick, Ticks } from "../../kit/Ticks";
import { TokenInput } from "../../kit/TokenInput";
import { clientKinds } from "../../lens/clientKinds";
import { PersonPick } from "../../lens/PersonPick";
import { useFields } from "../designs/useDesign";
import { conditionKinds, newCondition, type Condition } from "./ruleState";
import { ownZone, TimeEditor } from "./TimeEditor";
import type { RuleNames } from "./useRules";

type EditorProps<T extends Condition> = {
  condition: T;
  names: RuleNames;
  onChange: (condition: Condition) => void;
};

const kindsOf = <K extends Condition["kind"]>(condition: Condition, kind: K) =>
  condition.kind === kind ? (condition as Extract<Condition, { kind: K }>) : null;

/** What a condition asks, edited where it stands. */
export function ConditionEditor({ condition, names, onChange }: EditorProps<Condition>) {
  const occasion = kindsOf(condition, "occasion");
  if (occasion)
    return (
      <Ticks
        label="Messages"
        options={[
          { value: "new", label: "new message" },
          { value: "reply", label: "reply" },
          { value: "forward", label: "forward" },
        ]}
        values={occasion.occasions}
        onChange={(occasions) => onChange({ ...occasion, occasions })}
      />
    );
  const audience = kindsOf(condition, "audience");
  if (audience)
    return (
      <Ticks
        label="Readers"
        options={names.audiences}
        values={audience.audiences}
        onChange={(audiences) => onChange({ ...audience, audiences })}
      />
    );
  const client = kindsOf(condition, "client");
  if (client)
    return (
      <Ticks
        label="Client kinds"
        options={clientKinds}
        values={client.clients}
        onChange={(clients) => onChange({ ...client, clients })}
      />
    );
  const account = kindsOf(condition, "account");
  if (account)
    return (
      <Ticks
        label="Accounts"
        options={[
          { value: "own", label: "the person’s own address" },
          { value: "alias", label: "an alias" },
          { value: "shared", label: "a shared mailbox" },
        ]}
        values={account.kinds}
        onChange={(kinds) => onChange({ ...account, kinds })}
      />
    );
  const unit = kindsOf(condition, "unit");
  if (unit) return <UnitEditor condition={unit} names={names} onChange={onChange} />;
  const value = kindsOf(condition, "value");
  if (value) return <ValueEditor condition={value} names={names} onChange={onChange} />;
  const group = kindsOf(condition, "group");
  if (group)
    return (
      <Words label="Groups" values={group.groups} onChange={(groups) => onChange({ ...group, groups })}>
        Any of these groups, by the names the directory uses.
      </Words>
    );
  const person = kindsOf(condition, "person");
  if (person) return <PeopleEditor condition={person} names={names} onChange={onChange} />;
  const address = kindsOf(condition, "address");
  if (address)
    return (
      <Words
        label="Addresses"
        placeholder="emergency@clinic.example, or emergency@ for any domain"
        values={address.addresses}
        onChange={(addresses) => onChange({ ...address, addresses })}
      >
        Any of these addresses; one that ends in @ stands for any domain.
      </Words>
    );
  const domain = kindsOf(condition, "domain");
  if (domain)
    return (
      <div className="flex flex-col gap-2">
        <Words label="Domains" values={domain.domains} onChange={(domains) => onChange({ ...domain, domains })}>
          Addresses in any of these domains.
        </Words>
        <Tick
          label="and their subdomains"
          isOn={domain.withParts}
          onChange={(withParts) => onChange({ ...domain, withParts })}
        />
      </div>
    );
  const time = kindsOf(condition, "time");
  if (time) return <TimeEditor time={time} onChange={(next) => onChange({ ...next, kind: "time" })} />;
  return <NestedEditor condition={condition as Nested} names={names} onChange={onChange} />;
}

type Nested = Extract<Condition, { kind: "any" | "all" | "none" }>;

const joins = [
  { value: "any", label: "any of these holds" },
  { value: "all", label: "all of these hold" },
  { value: "none", label: "none of these holds" },
] as const;

function NestedEditor({ condition, names, onChange }: EditorProps<Nested>) {
  const inner = condition.conditions;
  const set = (conditions: Condition[]) => onChange({ ...condition, conditions });
  return (
    <div className="flex flex-col gap-2">
      <div>
        where{" "}
        <Choice
          label="How they join"
          look="condition"
          value={condition.kind}
          options={joins}
          onChange={(kind) => onChange({ kind, conditions: inner })}
        />
      </div>
      {inner.map((one, index) => (
        <div key={index} className="flex items-start gap-1 border-l-[3px] border-line pl-3">
          <div className="min-w-0 flex-1">
            <p className="text-small text-soft">{conditionKinds.find((kind) => kind.kind === one.kind)?.label}</p>
            <ConditionEditor condition={one} names={names} onChange={(next) => set(inner.with(index, next))} />
          </div>
          <Button look="quiet" label={`Take out part ${index + 1}`} onClick={() => set(inner.toSpliced(index, 1))}>
            <X size={14} aria-hidden />
          </Button>
        </div>
      ))}
      <AddCondition label="Add a part" onAdd={(kind) => set([...inner, newCondition(kind, ownZone)])} />
    </div>
  );
}

/** Asks what a new condition is about. */
export function AddCondition({ label, onAdd }: { label: string; onAdd: (kind: Condition["kind"]) => void }) {
  return (
    <Menu>
      <MenuButton className="min-h-6 self-start rounded-[3px] px-1.5 text-second text-soft hover:bg-fold hover:text-ink">
        {label}
      </MenuButton>
      <MenuItems
        anchor={{ to: "bottom start", gap: 4 }}
        className="z-30 max-h-80 min-w-52 overflow-y-auto rounded-[4px] border border-field bg-sheet py-1 text-body shadow-lg focus:outline-none"
      >
        {conditionKinds.map(({ kind, label: words }) => (
          <MenuItem key={kind}>
            <button
              type="button"
              onClick={() => onAdd(kind)}
              className="block w-full px-3 py-1 text-left data-focus:bg-fold"
            >
              {words}
            </button>
          </MenuItem>
        ))}
      </MenuItems>
    </Menu>
  );
}

type WordsProps = {
  label: string;
  values: readonly string[];
  onChange: (values: string[]) => void;
  known?: readonly string[];
  placeholder?: string;
  children: string;
};

function Words({ label, values, onChange, known = [], placeholder, children }: WordsProps) {
  return (
    <div className="flex flex-col gap-1">
      <TokenInput
        label={label}
        values={values}
        onChange={onChange}
        known={known}
        {...(placeholder ? { placeholder } : {})}
      />
      <p className="text-small text-soft">{children}</p>
    </div>
  );
}

const unitKinds = [
  { value: "office", label: "office" },
  { value: "team", label: "team" },
  { value: "entity", label: "legal entity" },
] as const;

function UnitEditor({ condition, onChange }: EditorProps<Extract<Condition, { kind: "unit" }>>) {
  const units = useQuery({ queryKey: ["units"], queryFn: () => take(api.GET("/api/units")) });
  const known = (units.data ?? []).filter((unit) => unit.kind === condition.unit).map((unit) => unit.name);
  const kind = condition.unit === "company" ? "office" : condition.unit;
  return (
    <div className="flex flex-col gap-2">
      <div>
        people whose{" "}
        <Choice
          label="Unit"
          look="condition"
          value={kind}
          options={unitKinds}
          onChange={(unit) => onChange({ ...condition, unit, names: [] })}
        />{" "}
        is one of
      </div>
      <TokenInput
        label="Names"
        values={condition.names}
        known={known}
        placeholder="type a name and press Enter"
        onChange={(names) => onChange({ ...condition, names })}
      />
      {kind === "team" && (
        <Tick
          label="with the teams within it"
          isOn={condition.withParts}
          onChange={(withParts) => onChange({ ...condition, withParts })}
        />
      )}
    </div>
  );
}

const valueTests = [
  { value: "oneOf", label: "is one of" },
  { value: "contains", label: "contains one of" },
  { value: "startsWith", label: "starts with one of" },
  { value: "matches", label: "matches the pattern" },
  { value: "present", label: "is there" },
] as const;

function ValueEditor({ condition, onChange }: EditorProps<Extract<Condition, { kind: "value" }>>) {
  const fields = useFields();
  return (
    <div className="flex flex-col gap-2">
      <div>
        people whose{" "}
        <Choice
          label="Field"
          look="condition"
          value={condition.field}
          options={(fields.data ?? []).map((field) => ({ value: field.name, label: field.label.toLowerCase() }))}
          onChange={(field) => onChange({ ...condition, field })}
        />{" "}
        <Choice
          label="Test"
          look="condition"
          value={condition.test}
          options={valueTests}
          onChange={(test) => onChange({ ...condition, test, values: test === "present" ? [] : condition.values })}
        />
      </div>
      {condition.test !== "present" && (
        <TokenInput
          label="Values"
          values={condition.values}
          onChange={(values) => onChange({ ...condition, values })}
        />
      )}
    </div>
  );
}

function PeopleEditor({ condition, onChange }: EditorProps<Extract<Condition, { kind: "person" }>>) {
  return (
    <div className="flex flex-col gap-2">
      <ul>
        {condition.people.map((id) => (
          <PickedPerson
            key={id}
            id={id}
            onRemove={() => onChange({ ...condition, people: condition.people.filter((other) => other !== id) })}
          />
        ))}
      </ul>
      <div className="max-w-80">
        <PersonPick
          label="Add a person"
          look="box"
          name=""
          placeholder="Add a person by name"
          onPick={(person) =>
            !condition.people.includes(person.id) &&
            onChange({ ...condition, people: [...condition.people, person.id] })
          }
        />
      </div>
    </div>
  );
}

function PickedPerson({ id, onRemove }: { id: string; onRemove: () => void }) {
  const person = useQuery({
    queryKey: ["person", id, "name"],
    queryFn: () => take(api.GET("/api/people/{id}", { params: { path: { id } } })),
    staleTime: Infinity,
  });
  const name = person.data?.name ?? (person.isError ? "somebody who is gone" : "…");
  return (
    <li className="flex items-center gap-1">
      {name}
      <Button look="quiet" label={`Take out ${name}`} onClick={onRemove}>
        <X size={14} aria-hidden />
      </Button>
    </li>
  );
}
