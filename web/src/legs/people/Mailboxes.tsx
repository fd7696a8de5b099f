import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, ifMatch, take, type Api } from "../../api/client";
import { count } from "../../frame/legs";
import { Button } from "../../kit/Button";
import { Choice, Several } from "../../kit/Choice";
import { Page } from "../../kit/Page";
import { Trouble } from "../../kit/Trouble";
import { PersonPick } from "../../lens/PersonPick";
import { draftOf, mailboxRequest, splitFields, without } from "./mailboxState";
import { PeopleTabs } from "./PeopleTabs";

type Mailbox = Api["MailboxAnswer"];

/** Mailboxes that several people send from, with what they say and who sends. */
export function Mailboxes() {
  const mailboxes = useQuery({ queryKey: ["mailboxes"], queryFn: () => take(api.GET("/api/mailboxes")) });
  const fields = useQuery({ queryKey: ["fields"], queryFn: () => take(api.GET("/api/fields")) });
  const groups = useQuery({ queryKey: ["groups"], queryFn: () => take(api.GET("/api/groups")) });
  const [chosen, setChosen] = useState<string | null>(null);
  const list = mailboxes.data ?? [];
  const isNew = chosen === "new" || (mailboxes.isSuccess && list.length === 0);
  const mailbox = isNew ? null : (list.find((candidate) => candidate.id === chosen) ?? list[0]);
  return (
    <Page
      title="Mailboxes that several people send from"
      lede="Each of them is one more account of every sender, with a name and a telephone of its own."
    >
      <div className="flex h-full min-h-0 flex-col gap-3">
        <PeopleTabs />
        <Trouble error={mailboxes.error ?? fields.error ?? groups.error} />
        <div className="grid min-h-0 flex-1 grid-cols-[340px_minmax(0,1fr)] gap-8">
          <nav aria-label="Shared mailboxes" className="min-h-0 overflow-y-auto">
            <ul>
              {list.map((candidate) => (
                <li key={candidate.id}>
                  <button
                    type="button"
                    aria-current={candidate === mailbox ? "true" : undefined}
                    onClick={() => setChosen(candidate.id)}
                    className={`flex min-h-11 w-full flex-col justify-center border-b border-line px-2 py-1 text-left hover:bg-sheet ${candidate === mailbox ? "bg-sheet shadow-[inset_3px_0_0_var(--color-baton)]" : ""}`}
                  >
                    <span className={`w-full truncate ${candidate === mailbox ? "font-semibold" : ""}`}>
                      {candidate.facts.displayName || candidate.address}
                    </span>
                    <span className="flex w-full justify-between gap-3 text-small text-soft">
                      <span className="truncate">{candidate.address}</span>
                      <span className="shrink-0">{count(candidate.senders.length, "sender", "senders")}</span>
                    </span>
                  </button>
                </li>
              ))}
            </ul>
            <div className="mt-3">
              <Button onClick={() => setChosen("new")}>Add a shared mailbox</Button>
            </div>
          </nav>
          {fields.data && groups.data && mailbox !== undefined && (
            <MailboxForm
              key={mailbox ? `${mailbox.id}${mailbox.revision}` : "new"}
              mailbox={mailbox}
              fields={fields.data}
              groups={groups.data}
              onChoose={setChosen}
            />
          )}
        </div>
      </div>
    </Page>
  );
}

type MailboxFormProps = {
  mailbox: Mailbox | null;
  fields: readonly Api["FieldAnswer"][];
  groups: readonly Api["GroupAnswer"][];
  onChoose: (id: string | null) => void;
};

const box = "w-full min-h-8 rounded-[4px] border border-field bg-sheet px-2.5 py-1";

function MailboxForm({ mailbox, fields, groups, onChoose }: MailboxFormProps) {
  const queries = useQueryClient();
  const [draft, setDraft] = useState(() => draftOf(mailbox));
  const { said, silent } = splitFields(fields, draft.facts);
  const save = useMutation({
    mutationFn: async () => {
      const body = mailboxRequest(draft);
      if (!mailbox) return take(api.POST("/api/mailboxes", { body }));
      return take(
        api.PUT("/api/mailboxes/{id}", {
          params: { path: { id: mailbox.id } },
          body,
          ...ifMatch(mailbox.revision),
        }),
      );
    },
    onSuccess: async () => {
      await queries.invalidateQueries();
      if (!mailbox) onChoose(null);
    },
  });
  const retire = useMutation({
    mutationFn: (gone: Mailbox) =>
      take(api.DELETE("/api/mailboxes/{id}", { params: { path: { id: gone.id } }, ...ifMatch(gone.revision) })),
    onSuccess: async () => {
      await queries.invalidateQueries();
      onChoose(null);
    },
  });
  const groupNames = [...new Set([...groups.map((group) => group.name), ...draft.groups])];
  return (
    <form
      aria-label={mailbox?.address ?? "New shared mailbox"}
      className="min-h-0 overflow-y-auto border-l border-line pl-6"
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate();
      }}
    >
      <h2 className="mb-3 font-title text-[20px] leading-6 font-medium">
        {mailbox ? mailbox.facts.displayName || mailbox.address : "A new shared mailbox"}
      </h2>
      <div className="grid max-w-2xl grid-cols-[130px_minmax(0,1fr)_90px] items-center gap-x-4 gap-y-2">
        <label htmlFor="mailbox-address" className="text-second text-soft">
          Address
        </label>
        <input
          id="mailbox-address"
          value={draft.address}
          onChange={(event) => setDraft({ ...draft, address: event.target.value })}
          className={box}
        />
        <span />
        {said.map((field) => (
          <MailboxFact
            key={field.name}
            field={field}
            value={draft.facts[field.name] ?? ""}
            onChange={(value) => setDraft({ ...draft, facts: { ...draft.facts, [field.name]: value } })}
            onRemove={() => setDraft({ ...draft, facts: without(draft.facts, field.name) })}
          />
        ))}
        <span className="text-second text-soft">Everything else</span>
        <Choice
          label="Add a field"
          value=""
          options={[
            { value: "", label: "the sender's own; choose a field to say it here" },
            ...silent.map((field) => ({ value: field.name, label: field.label })),
          ]}
          onChange={(name) => name && setDraft({ ...draft, facts: { ...draft.facts, [name]: "" } })}
        />
        <span />
      </div>
      <h3 className="mt-5 border-b border-ink text-small font-semibold text-soft">Who sends from it</h3>
      <p className="mt-2">
        Everybody in{" "}
        <Several
          label="Groups that send from it"
          values={draft.groups}
          options={groupNames.map((name) => ({
            value: name,
            label: `${name} (${groups.find((group) => group.name === name)?.people ?? 0})`,
          }))}
          onChange={(chosen) => setDraft({ ...draft, groups: chosen })}
          text={draft.groups.length === 0 ? "no group" : draft.groups.join(", ")}
        />
      </p>
      <div className="mt-2 flex max-w-2xl flex-wrap items-center gap-1.5">
        {draft.senders.map((sender) => (
          <span key={sender.id} className="inline-flex items-center rounded-[3px] border border-line bg-sheet pl-2">
            {sender.name}
            <button
              type="button"
              aria-label={`${sender.name} no longer sends from it`}
              className="min-h-6 px-1.5 text-soft hover:text-ink"
              onClick={() => setDraft({ ...draft, senders: draft.senders.filter((other) => other.id !== sender.id) })}
            >
              ✕
            </button>
          </span>
        ))}
        <div className="w-56">
          <PersonPick
            label="Add a sender"
            name=""
            placeholder="and somebody by name"
            look="box"
            onPick={(person) =>
              draft.senders.some((sender) => sender.id === person.id) ||
              setDraft({ ...draft, senders: [...draft.senders, { id: person.id, name: person.name }] })
            }
          />
        </div>
      </div>
      <div className="mt-4 flex flex-col gap-3">
        <Trouble error={save.error ?? retire.error} />
        <div className="flex gap-2">
          <Button type="submit" disabled={save.isPending}>
            {mailbox ? "Save mailbox" : "Add mailbox"}
          </Button>
          {mailbox && (
            <Button look="quiet" disabled={retire.isPending} onClick={() => retire.mutate(mailbox)}>
              Retire it
            </Button>
          )}
        </div>
      </div>
      {mailbox && (
        <section aria-label="Senders now" className="mt-5 pb-4">
          <h3 className="border-b border-ink text-small font-semibold text-soft">
            {count(mailbox.senders.length, "person sends", "people send")} from it now
          </h3>
          <ul className="columns-2 gap-6">
            {mailbox.senders.map((sender) => (
              <li key={sender.id} className="flex justify-between gap-3 border-b border-line py-1">
                <Link to={`/people/${sender.id}`} className="truncate hover:underline">
                  {sender.name}
                </Link>
                <span className="shrink-0 text-small text-soft">{sender.isByHand ? "by hand" : "by group"}</span>
              </li>
            ))}
          </ul>
        </section>
      )}
    </form>
  );
}

type MailboxFactProps = {
  field: Api["FieldAnswer"];
  value: string;
  onChange: (value: string) => void;
  onRemove: () => void;
};

function MailboxFact({ field, value, onChange, onRemove }: MailboxFactProps) {
  return (
    <>
      <label htmlFor={`mailbox-${field.name}`} className="text-second text-soft">
        {field.label}
      </label>
      <input
        id={`mailbox-${field.name}`}
        value={value}
        placeholder="blank on purpose"
        onChange={(event) => onChange(event.target.value)}
        className={box}
      />
      <Button look="quiet" label={`Take out ${field.label}`} onClick={onRemove}>
        Take out
      </Button>
    </>
  );
}
