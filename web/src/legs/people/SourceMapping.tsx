import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate, useParams } from "react-router";
import { api, ifMatch, take, type Api } from "../../api/client";
import { Button } from "../../kit/Button";
import { Choice } from "../../kit/Choice";
import { Page } from "../../kit/Page";
import { Trouble } from "../../kit/Trouble";
import { FilePick } from "./FileDrop";
import { TransformList } from "./TransformList";
import { readNames, rowOf, seenAttributes, seenValues, withoutRow, withRow } from "./transformState";
import { lookAtFile } from "./useUpload";

/** Which of a source's attributes each field is read from, seen at once on real entries. */
export function SourceMapping() {
  const { id = "" } = useParams();
  const sources = useQuery({ queryKey: ["sources"], queryFn: () => take(api.GET("/api/sources")) });
  const fields = useQuery({ queryKey: ["fields"], queryFn: () => take(api.GET("/api/fields")) });
  const sample = useQuery({
    queryKey: ["sample", id],
    queryFn: () => take(api.GET("/api/sources/{id}/sample", { params: { path: { id } } })),
    retry: false,
  });
  const look = useMutation({ mutationFn: lookAtFile });
  const source = sources.data?.find((candidate) => candidate.id === id);
  if (!source || !fields.data || sample.isPending)
    return (
      <div className="p-6">
        <Trouble error={sources.error ?? fields.error} />
      </div>
    );
  return (
    <Form
      key={`${source.id}${source.revision}`}
      source={source}
      fields={fields.data.filter((field) => field.holders.includes("person") && field.name !== "mail")}
      entries={look.data?.entries ?? sample.data?.entries ?? []}
      trouble={look.error ?? sample.error}
      onLook={(file) => look.mutate(file)}
    />
  );
}

type FormProps = {
  source: Api["SourceAnswer"];
  fields: readonly Api["FieldAnswer"][];
  entries: readonly Api["SampleEntry"][];
  trouble: Error | null;
  onLook: (file: File) => void;
};

function Form({ source, fields, entries, trouble, onLook }: FormProps) {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const [mapping, setMapping] = useState(source.mapping);
  const [chosen, setChosen] = useState(fields[0]?.name ?? "");
  const preview = useQuery({
    queryKey: ["sample", "try", source.id, mapping, entries],
    queryFn: () => take(api.POST("/api/sources/try", { body: { entries: [...entries], mapping } })),
    enabled: entries.length > 0,
    placeholderData: (before) => before,
    retry: false,
  });
  const save = useMutation({
    mutationFn: () =>
      take(
        api.PUT("/api/sources/{id}", {
          params: { path: { id: source.id } },
          body: {
            name: source.name,
            mapping,
            brake: source.brake,
            joinBy: [...source.joinBy],
            everyMinutes: source.everyMinutes,
          },
          ...ifMatch(source.revision),
        }),
      ),
    onSuccess: async () => {
      await queries.invalidateQueries();
      void navigate("/people/sources");
    },
  });
  const field = fields.find((candidate) => candidate.name === chosen);
  return (
    <Page
      title={`What ${source.name} says`}
      lede={`Each field is read from the first of its attributes that has a value. What you change holds from the next ${source.kind === "scim" ? "push" : "reading"} on.`}
      action={
        <>
          <Button onClick={() => void navigate("/people/sources")}>Put away</Button>
          <Button look="main" disabled={save.isPending} onClick={() => save.mutate()}>
            Keep it
          </Button>
        </>
      }
    >
      <div className="flex h-full min-h-0 flex-col gap-3">
        <Trouble error={save.error ?? trouble ?? preview.error} />
        <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_400px] gap-8">
          <div className="min-h-0 overflow-y-auto">
            <p className="mb-2 text-second">
              People are known again by{" "}
              <NameList
                label="Known again by"
                names={mapping.key}
                onChange={(key) => setMapping({ ...mapping, key })}
              />{" "}
              and their mail addresses are in{" "}
              <NameList
                label="Mail addresses in"
                names={mapping.addresses}
                onChange={(addresses) => setMapping({ ...mapping, addresses })}
              />
            </p>
            <table className="w-full">
              <caption className="sr-only">Fields</caption>
              <thead>
                <tr className="border-b border-ink text-left text-small text-soft">
                  <th className="w-40 py-1 font-semibold">Field</th>
                  <th className="py-1 font-semibold">Read from</th>
                  <th className="py-1 font-semibold">First values</th>
                </tr>
              </thead>
              <tbody>
                {fields.map((one) => {
                  const row = rowOf(mapping, one, one.attributes);
                  return (
                    <tr
                      key={one.name}
                      className={`border-b border-line ${one.name === chosen ? "bg-sheet shadow-[inset_3px_0_0_var(--color-baton)]" : ""}`}
                    >
                      <td className="px-2">
                        <button
                          type="button"
                          aria-current={one.name === chosen ? "true" : undefined}
                          onClick={() => setChosen(one.name)}
                          className={`min-h-8 w-full text-left hover:underline ${one.name === chosen ? "font-semibold" : ""}`}
                        >
                          {one.label}
                        </button>
                      </td>
                      <td className="max-w-56 truncate py-1 pr-3 text-second">
                        {row.attributes.join(row.joiner === null ? ", else " : " and ") || (
                          <span className="text-soft">not read</span>
                        )}
                        {row.transforms.length > 0 && <span className="text-soft">, changed</span>}
                      </td>
                      <td className="max-w-64 truncate py-1 text-second text-soft">
                        {seenValues(entries, row.attributes).join(" · ")}
                      </td>
                    </tr>
                  );
                })}
              </tbody>
            </table>
          </div>
          {field && (
            <FieldWay
              key={field.name}
              field={field}
              mapping={mapping}
              entries={entries}
              people={preview.data?.people ?? []}
              onLook={source.kind === "ldif" ? onLook : null}
              onChange={setMapping}
            />
          )}
        </div>
      </div>
    </Page>
  );
}

type FieldWayProps = {
  field: Api["FieldAnswer"];
  mapping: Api["Mapping"];
  entries: readonly Api["SampleEntry"][];
  people: readonly Api["PreviewPerson"][];
  onLook: ((file: File) => void) | null;
  onChange: (mapping: Api["Mapping"]) => void;
};

/** How one field is read, and what comes of it. */
function FieldWay({ field, mapping, entries, people, onLook, onChange }: FieldWayProps) {
  const row = rowOf(mapping, field, field.attributes);
  const isOwn = mapping.fields.some((one) => one.field === field.name);
  const attributes = seenAttributes(entries).filter((one) => !row.attributes.includes(one.name));
  return (
    <section aria-label={field.label} className="min-h-0 overflow-y-auto border-l border-line pl-5 text-second">
      <h2 className="mb-1 font-title text-[20px] leading-6 font-medium">{field.label}</h2>
      <div className="flex flex-col gap-2">
        <label className="flex items-center gap-2">
          <span className="w-16 shrink-0 text-small text-soft">Read from</span>
          <NameList
            label={`Attributes of ${field.label}`}
            names={row.attributes}
            isWide
            onChange={(names) => onChange(withRow(mapping, { ...row, attributes: names }))}
          />
        </label>
        {attributes.length > 0 && (
          <div className="flex items-center gap-2">
            <span className="w-16 shrink-0 text-small text-soft">or from</span>
            <Choice
              label={`Add an attribute to ${field.label}`}
              look="condition"
              value=""
              options={[
                { value: "", label: "an attribute that is there" },
                ...attributes.map((one) => ({ value: one.name, label: `${one.name} (${one.people})` })),
              ]}
              onChange={(name) =>
                name !== "" && onChange(withRow(mapping, { ...row, attributes: [...row.attributes, name] }))
              }
            />
          </div>
        )}
        {row.attributes.length > 1 && (
          <div className="flex items-center gap-2">
            <span className="w-16 shrink-0 text-small text-soft">and take</span>
            <Choice
              label={`Several attributes of ${field.label}`}
              look="condition"
              value={row.joiner === null ? "first" : row.joiner}
              options={[
                { value: "first", label: "the first that has a value" },
                { value: " ", label: "all, with a space between" },
                { value: ", ", label: "all, with a comma between" },
              ]}
              onChange={(joiner) => onChange(withRow(mapping, { ...row, joiner: joiner === "first" ? null : joiner }))}
            />
          </div>
        )}
        <TransformList
          label={field.label}
          transforms={row.transforms}
          onChange={(transforms) => onChange(withRow(mapping, { ...row, transforms }))}
        />
        {isOwn && mapping.hasStandardFields && (
          <div>
            <Button look="quiet" onClick={() => onChange(withoutRow(mapping, field.name))}>
              Read it as usual again
            </Button>
          </div>
        )}
      </div>
      <h3 className="mt-4 border-b border-ink text-small font-semibold text-soft">Seen on real entries</h3>
      {onLook && (
        <div className="flex items-center gap-2 py-1.5">
          <FilePick
            label={entries.length === 0 ? "Look at a file" : "Look at another file"}
            look="quiet"
            onFile={onLook}
          />
          {entries.length === 0 && <span className="text-soft">Files are not kept; pick the one to map by.</span>}
        </div>
      )}
      {!onLook && entries.length === 0 && (
        <p className="py-1.5 text-soft">No entry to look at: nothing was pushed yet.</p>
      )}
      <ul>
        {people.slice(0, 12).map((person) => (
          <li
            key={`${person.name}${person.addresses[0] ?? ""}`}
            className="grid grid-cols-[150px_minmax(0,1fr)] gap-3 border-b border-line py-1"
          >
            <span className="truncate text-soft">{person.name}</span>
            <span className="[overflow-wrap:anywhere]">
              {person.facts[field.name] ?? <span className="text-soft">nothing</span>}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

type NameListProps = { label: string; names: readonly string[]; isWide?: boolean; onChange: (names: string[]) => void };

/** Names of attributes, parted by commas, taken over when the field is left. */
function NameList({ label, names, isWide, onChange }: NameListProps) {
  const joined = names.join(", ");
  const [typed, setTyped] = useState<string | null>(null);
  return (
    <input
      aria-label={label}
      value={typed ?? joined}
      spellCheck={false}
      className={`rounded-[4px] border border-field bg-sheet px-2 py-0.5 ${isWide ? "min-w-0 flex-1" : "w-44"}`}
      onChange={(event) => {
        setTyped(event.target.value);
        onChange(readNames(event.target.value));
      }}
      onBlur={() => setTyped(null)}
    />
  );
}
