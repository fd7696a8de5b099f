import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ifMatch, take, type Api } from "../../api/client";
import { count } from "../../frame/legs";
import { Button } from "../../kit/Button";
import { Choice } from "../../kit/Choice";
import { momentText } from "../../kit/dates";
import { Tick } from "../../kit/Ticks";
import { Trouble } from "../../kit/Trouble";
import { PersonPick } from "../../lens/PersonPick";

/** How clients are reached and treated. */
export function Ways() {
  return (
    <div className="grid h-full min-h-0 grid-cols-[minmax(0,1fr)_360px] gap-7 overflow-y-auto">
      <div className="flex flex-col gap-6">
        <KindSettings />
        <MailboxServer />
      </div>
      <AddClient />
    </div>
  );
}

type Settings = { kinds: Api["KindChoice"][]; flow: Api["Flow"] };

const driftOptions: readonly { value: Api["DriftAnswer"]; label: string }[] = [
  { value: "atOnce", label: "put right at once" },
  { value: "nextContact", label: "put right at the next contact" },
  { value: "leave", label: "told and left" },
];

function KindSettings() {
  const queries = useQueryClient();
  const settings = useQuery({
    queryKey: ["client-settings"],
    queryFn: async () => {
      const answer = await api.GET("/api/client-settings");
      const data = await take(Promise.resolve(answer));
      return { data, revision: Number(answer.response.headers.get("ETag")?.replaceAll('"', "") ?? 0) };
    },
  });
  const save = useMutation({
    mutationFn: ({ kinds, flow }: Settings) =>
      take(
        api.PUT("/api/client-settings", {
          body: { kinds: Object.fromEntries(kinds.map((kind) => [kind.kind, kind.settings])), flow },
          ...ifMatch(settings.data?.revision ?? 0),
        }),
      ),
    onSettled: () => queries.invalidateQueries(),
  });
  if (!settings.data) return <Trouble error={settings.error} />;
  const { kinds, flow } = settings.data.data;
  const set = (kind: string, change: Partial<Api["KindSettings"]>) =>
    save.mutate({
      flow,
      kinds: kinds.map((one) => (one.kind === kind ? { ...one, settings: { ...one.settings, ...change } } : one)),
    });
  return (
    <section aria-label="How kinds are treated" className="flex flex-col gap-2">
      <h2 className="font-semibold">How each kind is treated</h2>
      <Trouble error={save.error} />
      <ul className="border-t border-line">
        {kinds
          .filter((kind) => kind.hasSlots)
          .map(({ kind, name, settings: one }) => (
            <li key={kind} className="border-b border-line py-2">
              <b className="font-semibold">{name}</b>: a slot for several situations gets what{" "}
              <Choice
                label={`${name}: audience`}
                look="condition"
                value={one.caution.insideFirst ? "inside" : "outside"}
                options={[
                  { value: "outside", label: "outside" },
                  { value: "inside", label: "inside" },
                ]}
                onChange={(value) => set(kind, { caution: { ...one.caution, insideFirst: value === "inside" } })}
              />{" "}
              gets in{" "}
              <Choice
                label={`${name}: occasion`}
                look="condition"
                value={one.caution.answersFirst ? "answers" : "new"}
                options={[
                  { value: "new", label: "new messages" },
                  { value: "answers", label: "answers" },
                ]}
                onChange={(value) => set(kind, { caution: { ...one.caution, answersFirst: value === "answers" } })}
              />
              . Drift is{" "}
              <Choice
                label={`${name}: drift`}
                look="condition"
                value={one.fixed}
                options={driftOptions}
                onChange={(fixed) => set(kind, { fixed })}
              />
              ; where employees may choose otherwise it is{" "}
              <Choice
                label={`${name}: drift where employees may choose`}
                look="condition"
                value={one.open}
                options={driftOptions}
                onChange={(open) => set(kind, { open })}
              />
              .
            </li>
          ))}
      </ul>
      <FlowForm key={JSON.stringify(flow)} flow={flow} onSave={(next) => save.mutate({ kinds, flow: next })} />
    </section>
  );
}

function FlowForm({ flow, onSave }: { flow: Api["Flow"]; onSave: (flow: Api["Flow"]) => void }) {
  const [draft, setDraft] = useState(flow);
  const field = "mx-1 w-20 rounded-[4px] border border-field bg-sheet px-2 min-h-7 text-right tabular-nums";
  return (
    <form
      aria-label="Changes outside rollouts"
      className="leading-8"
      onSubmit={(event) => {
        event.preventDefault();
        onSave(draft);
      }}
    >
      Changed facts and joiners reach at most
      <input
        type="number"
        aria-label="Clients in a minute"
        className={field}
        value={draft.mostPerMinute}
        onChange={(event) => setDraft({ ...draft, mostPerMinute: Number(event.target.value) })}
      />
      clients a minute, and wait for you when more than
      <input
        type="number"
        aria-label="Brake in percent"
        className={field}
        value={draft.brakePercent}
        onChange={(event) => setDraft({ ...draft, brakePercent: Number(event.target.value) })}
      />
      % of all clients would change at once.{" "}
      <Button
        type="submit"
        disabled={draft.mostPerMinute === flow.mostPerMinute && draft.brakePercent === flow.brakePercent}
      >
        Keep
      </Button>
    </form>
  );
}

function MailboxServer() {
  const queries = useQueryClient();
  const server = useQuery({
    queryKey: ["mailbox-server"],
    queryFn: () => take(api.GET("/api/mailbox-server")),
    refetchInterval: 2000,
  });
  const [url, setUrl] = useState<string | null>(null);
  const [token, setToken] = useState("");
  const save = useMutation({
    mutationFn: () =>
      take(api.PUT("/api/mailbox-server", { body: { url: url ?? server.data?.url ?? "", token: token || null } })),
    onSuccess: () => {
      setUrl(null);
      setToken("");
      return queries.invalidateQueries({ queryKey: ["mailbox-server"] });
    },
  });
  if (!server.data) return <Trouble error={server.error} />;
  const field = "min-h-8 rounded-[4px] border border-field bg-sheet px-2.5";
  return (
    <section aria-label="Mailbox server" className="flex flex-col gap-2">
      <h2 className="font-semibold">Browser mailboxes</h2>
      <p className="text-soft">
        Signatures are set in the identities of each mailbox, by JMAP (RFC 8621).{" "}
        {server.data.url === ""
          ? "No mailbox server is connected."
          : `${count(server.data.mailboxes, "mailbox belongs", "mailboxes belong")} to people of the directory${server.data.lookedAt ? `, looked at ${momentText(server.data.lookedAt)}` : ""}.`}
      </p>
      {server.data.trouble && (
        <p role="alert" className="text-madder">
          {server.data.trouble}
        </p>
      )}
      <form
        className="flex flex-wrap items-end gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate();
        }}
      >
        <label className="flex flex-col gap-1">
          <span>Address of its session</span>
          <input
            className={`${field} w-96`}
            value={url ?? server.data.url}
            placeholder="https://mail.company.example/.well-known/jmap"
            onChange={(event) => setUrl(event.target.value)}
          />
        </label>
        <label className="flex flex-col gap-1">
          <span>Token</span>
          <input
            type="password"
            autoComplete="off"
            className={`${field} w-52`}
            value={token}
            placeholder={server.data.url ? "as it is" : ""}
            onChange={(event) => setToken(event.target.value)}
          />
        </label>
        <Button type="submit" disabled={save.isPending || (url === null && token === "")}>
          Connect
        </Button>
      </form>
      <Trouble error={save.error} />
    </section>
  );
}

const askingKinds = [
  { value: "desk-app", label: "desk app: a computer with an agent" },
  { value: "pocket-app", label: "pocket app: a phone" },
  { value: "compose-helper", label: "compose helper" },
] as const;

type AskingKind = (typeof askingKinds)[number]["value"];

const callWords: Record<AskingKind, (code: string) => string> = {
  "desk-app": (code) => `relevo-agent enrol --server ${location.origin} --code ${code} --token-file FILE`,
  "pocket-app": (code) => `POST ${location.origin}/agent/v1/enrol {"code":"${code}"}`,
  "compose-helper": (code) => `POST ${location.origin}/agent/v1/enrol {"code":"${code}"}`,
};

/** Adds a client that asks by itself; its code and token are shown once. */
function AddClient() {
  const queries = useQueryClient();
  const [kind, setKind] = useState<AskingKind>("desk-app");
  const [name, setName] = useState("");
  const [isForAll, setForAll] = useState(true);
  const [person, setPerson] = useState<{ id: string; name: string } | null>(null);
  const add = useMutation({
    mutationFn: (personId: string) =>
      take(api.POST("/api/clients", { body: { kind, name, personId, isForAll: kind === "pocket-app" && isForAll } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["rollout"] }),
  });
  if (add.data)
    return (
      <section
        aria-label="New client"
        className="flex flex-col items-start gap-3 self-start border-l-[3px] border-baton pl-5"
      >
        <h2 className="font-semibold">{name} is added</h2>
        <p>
          Its code, good once and until {momentText(add.data.codeUntil)}:{" "}
          <b className="font-semibold">{add.data.code}</b>
        </p>
        <code className="w-full rounded-[4px] border border-field bg-sheet p-2 text-second break-all">
          {callWords[kind](add.data.code)}
        </code>
        <p className="text-soft">Or give it this token at once. Both are shown this once and kept only as hashes.</p>
        <code className="w-full rounded-[4px] border border-field bg-sheet p-2 text-second break-all">
          {add.data.token}
        </code>
        <Button
          onClick={() => {
            add.reset();
            setName("");
          }}
        >
          Done
        </Button>
      </section>
    );
  return (
    <form
      aria-label="New client"
      className="flex flex-col items-start gap-3 self-start border-l-[3px] border-line pl-5"
      onSubmit={(event) => {
        event.preventDefault();
        if (person) add.mutate(person.id);
      }}
    >
      <h2 className="font-semibold">Add a client</h2>
      <div className="flex w-full flex-col gap-1">
        <span>What it is</span>
        <Choice label="Kind of client" value={kind} options={askingKinds} onChange={setKind} />
      </div>
      <label className="flex w-full flex-col gap-1">
        Name
        <input
          value={name}
          required
          maxLength={200}
          placeholder={kind === "desk-app" ? "Berlin 01" : ""}
          onChange={(event) => setName(event.target.value)}
          className="rounded-[4px] border border-field bg-sheet px-2.5 py-1.5"
        />
      </label>
      <div className="flex w-full flex-col gap-1">
        <span>Whose</span>
        <PersonPick label="Whose client" look="box" name={person?.name ?? ""} onPick={setPerson} />
      </div>
      {kind === "pocket-app" && <Tick label="one signature for every account" isOn={isForAll} onChange={setForAll} />}
      <Trouble error={add.error} />
      <Button type="submit" disabled={!person || !name.trim() || add.isPending}>
        Add
      </Button>
    </form>
  );
}
