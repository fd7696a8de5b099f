import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ifMatch, take, type Api } from "../../api/client";
import { Button } from "../../kit/Button";
import { Choice } from "../../kit/Choice";
import { Page } from "../../kit/Page";
import { Trouble } from "../../kit/Trouble";
import { FieldRuleForm } from "./FieldRuleForm";
import { PeopleTabs } from "./PeopleTabs";
import { Wishes } from "./Wishes";
import {
  addField,
  displayWords,
  fieldName,
  holderWords,
  kindWords,
  profileWords,
  employeeWay,
  employeeWords,
  setEmployeeWay,
  setRule,
  setDisplay,
  type NewField,
} from "./fieldState";

/** The facts a company keeps: the standard ones, and its own. */
export function Fields() {
  const queries = useQueryClient();
  const fields = useQuery({ queryKey: ["fields"], queryFn: () => take(api.GET("/api/fields")) });
  const set = useQuery({ queryKey: ["field-set"], queryFn: () => take(api.GET("/api/field-set")) });
  const [isAdding, setAdding] = useState(false);
  const save = useMutation({
    mutationFn: (next: Api["FieldSet"]) =>
      take(api.PUT("/api/field-set", { body: next, ...ifMatch(set.data?.revision ?? 0) })),
    onSuccess: async () => {
      await queries.invalidateQueries();
      setAdding(false);
    },
    onError: () => queries.invalidateQueries({ queryKey: ["field-set"] }),
  });
  const current = set.data?.fields;
  return (
    <Page
      title="Which facts there are"
      lede="Standard fields follow inetOrgPerson (RFC 2798). Add your own; open to employees what they may set themselves."
      action={
        !isAdding && (
          <Button look="main" onClick={() => setAdding(true)}>
            Make a field
          </Button>
        )
      }
    >
      <div className="flex h-full min-h-0 flex-col gap-3">
        <PeopleTabs />
        <Trouble error={fields.error ?? set.error ?? save.error} />
        {isAdding && current && (
          <AddField
            onAdd={(field) => save.mutate(addField(current, field))}
            onLeave={() => setAdding(false)}
            isBusy={save.isPending}
          />
        )}
        <Wishes />
        <div className="min-h-0 flex-1 overflow-y-auto">
          <table className="w-full">
            <caption className="sr-only">Fields</caption>
            <thead>
              <tr className="border-b border-ink text-left text-small text-soft">
                <th className="py-1 font-semibold">Field</th>
                <th className="py-1 font-semibold">Kind</th>
                <th className="py-1 font-semibold">May stand at</th>
                <th className="py-1 font-semibold">Shown</th>
                <th className="py-1 font-semibold">Must be</th>
                <th className="py-1 font-semibold">Employees</th>
              </tr>
            </thead>
            <tbody>
              {fields.data?.map((field) => (
                <tr key={field.name} className="border-b border-line">
                  <td className="py-1 pr-4 font-semibold">
                    {field.label}{" "}
                    {field.isCompanyMade && <span className="text-small font-normal text-soft">your own</span>}
                  </td>
                  <td className="py-1 pr-4 text-second">
                    {field.profile ? `profile link to ${profileWords[field.profile]}` : kindWords[field.kind]}
                  </td>
                  <td className="py-1 pr-4 text-second text-soft">
                    {field.holders.map((holder) => holderWords[holder]).join(", ")}
                  </td>
                  <td className="py-1 pr-4 text-second">
                    {field.kind === "phone" && current ? (
                      <div className="w-64">
                        <Choice
                          label={`${field.label} is shown`}
                          value={field.display}
                          options={displayWords}
                          onChange={(display) => save.mutate(setDisplay(current, field, display))}
                        />
                      </div>
                    ) : (
                      <span className="text-soft">as it is</span>
                    )}
                  </td>
                  <td className="py-1 pr-4 text-second">
                    {current && (
                      <FieldRuleForm
                        field={field}
                        isBusy={save.isPending}
                        onSave={(rule) => save.mutate(setRule(current, field, rule))}
                      />
                    )}
                  </td>
                  <td className="py-1 text-second">
                    {field.name === "mail" || field.name === "displayName" || !field.holders.includes("person") ? (
                      <span className="text-soft">fixed</span>
                    ) : (
                      <div className="w-36">
                        <Choice
                          label={`Employees and ${field.label}`}
                          value={employeeWay(field)}
                          options={employeeWords}
                          onChange={(way) => current && save.mutate(setEmployeeWay(current, field, way))}
                        />
                      </div>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      </div>
    </Page>
  );
}

type AddFieldProps = { onAdd: (field: NewField) => void; onLeave: () => void; isBusy: boolean };

function AddField({ onAdd, onLeave, isBusy }: AddFieldProps) {
  const [field, setField] = useState<NewField>({
    label: "",
    kind: "text",
    choices: "",
    attribute: "",
    holders: ["person"],
    profile: null,
  });
  const box = "rounded-[4px] border border-field bg-sheet px-2.5 py-1";
  const flip = (holder: Api["FieldHolder"]) =>
    setField({
      ...field,
      holders: field.holders.includes(holder)
        ? field.holders.filter((other) => other !== holder)
        : [...field.holders, holder],
    });
  return (
    <form
      aria-label="A new field"
      className="flex flex-col gap-2.5 rounded-[4px] border border-line bg-sheet px-4 py-3"
      onSubmit={(event) => {
        event.preventDefault();
        onAdd(field);
      }}
    >
      <div className="flex flex-wrap items-center gap-3">
        <label className="flex items-center gap-2">
          <span className="text-second text-soft">Called</span>
          <input
            autoFocus
            value={field.label}
            onChange={(event) => setField({ ...field, label: event.target.value })}
            className={box}
          />
        </label>
        <div className="w-40">
          <Choice
            label="Kind"
            value={field.kind}
            options={Object.entries(kindWords).map(([value, label]) => ({ value: value as Api["FieldKind"], label }))}
            onChange={(kind) => setField({ ...field, kind })}
          />
        </div>
        <label className="flex items-center gap-2">
          <span className="text-second text-soft">read from attribute</span>
          <input
            value={field.attribute}
            onChange={(event) => setField({ ...field, attribute: event.target.value })}
            className={`${box} w-40`}
            placeholder="none"
          />
        </label>
      </div>
      {field.kind === "web" && (
        <div className="flex items-center gap-2">
          <span className="text-second text-soft">It is</span>
          <div className="w-80">
            <Choice
              label="What the link leads to"
              value={field.profile ?? ""}
              options={[
                { value: "", label: "any web address" },
                ...Object.entries(profileWords).map(([value, label]) => ({
                  value,
                  label: `a profile link to ${label}`,
                })),
              ]}
              onChange={(profile) =>
                setField({ ...field, profile: profile === "" ? null : (profile as Api["ProfileKind"]) })
              }
            />
          </div>
        </div>
      )}
      {field.kind === "choice" && (
        <label className="flex items-center gap-2">
          <span className="text-second text-soft">One of (parted by commas)</span>
          <input
            value={field.choices}
            onChange={(event) => setField({ ...field, choices: event.target.value })}
            className={`${box} flex-1`}
          />
        </label>
      )}
      <fieldset className="flex flex-wrap items-center gap-4">
        <legend className="float-left mr-2 text-second text-soft">May stand at</legend>
        {Object.entries(holderWords).map(([holder, label]) => (
          <label key={holder} className="flex items-center gap-1.5 text-second">
            <input
              type="checkbox"
              className="size-4 accent-baton"
              checked={field.holders.includes(holder as Api["FieldHolder"])}
              onChange={() => flip(holder as Api["FieldHolder"])}
            />
            {label}
          </label>
        ))}
      </fieldset>
      <div className="flex items-center gap-2">
        <Button type="submit" disabled={isBusy || field.label.trim() === ""}>
          Make it
        </Button>
        <Button look="quiet" onClick={onLeave}>
          Leave
        </Button>
        {field.label.trim() !== "" && (
          <span className="text-small text-soft">designs will know it as {fieldName(field.label)}</span>
        )}
      </div>
    </form>
  );
}
