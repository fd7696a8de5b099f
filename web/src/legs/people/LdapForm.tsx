import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, ifMatch, take, type Api } from "../../api/client";
import { Button } from "../../kit/Button";
import { Choice } from "../../kit/Choice";
import { Trouble } from "../../kit/Trouble";
import { scheduleWords, usualPort } from "./ldapState";

type Settings = Api["LdapSettings"];

const securityWords: readonly { value: Api["LdapSecurity"]; label: string }[] = [
  { value: "ldaps", label: "TLS from the start (LDAPS)" },
  { value: "startTls", label: "TLS after the greeting (StartTLS)" },
  { value: "none", label: "not secured" },
];

const fresh: Settings = {
  host: "",
  port: 636,
  security: "ldaps",
  certificateFolder: "",
  bindName: "",
  baseName: "",
  filter: "(objectClass=inetOrgPerson)",
};

type LdapFormProps = { source: Api["SourceAnswer"] | null; onDone: () => void };

/** A directory server: where it is, how it is asked, and a try before it is kept. */
export function LdapForm({ source, onDone }: LdapFormProps) {
  const kept = useQuery({
    queryKey: ["ldap", source?.id, source?.revision],
    queryFn: () => take(api.GET("/api/ldap/{id}", { params: { path: { id: source?.id ?? "" } } })),
    enabled: source !== null,
  });
  if (source && !kept.data) return <Trouble error={kept.error} />;
  return <Form source={source} settings={kept.data?.settings ?? fresh} onDone={onDone} />;
}

function Form({ source, settings: before, onDone }: LdapFormProps & { settings: Settings }) {
  const queries = useQueryClient();
  const [settings, setSettings] = useState(before);
  const [secret, setSecret] = useState("");
  const [name, setName] = useState(source?.name ?? "Directory server");
  const [every, setEvery] = useState(String(source?.everyMinutes ?? 0));
  const [joinsByMail, setJoinsByMail] = useState(source ? source.joinBy.includes("mail") : true);
  const given = secret === "" && source ? null : secret;
  const attempt = useMutation({
    mutationFn: () =>
      take(
        api.POST("/api/ldap/try", {
          body: {
            settings,
            secret: given,
            source: source?.id ?? null,
            mapping: source?.hasOwnMapping ? source.mapping : null,
          },
        }),
      ),
  });
  const save = useMutation({
    mutationFn: async (): Promise<unknown> => {
      const body: Api["LdapSourceRequest"] = {
        source: {
          name,
          mapping: source?.hasOwnMapping ? source.mapping : null,
          brake: source?.brake ?? { leavingPercent: 5, emptiedPercent: 5, atLeast: 5 },
          joinBy: [...(source?.joinBy.filter((by) => by !== "mail") ?? []), ...(joinsByMail ? ["mail"] : [])],
          everyMinutes: every === "0" ? null : Number(every),
        },
        settings,
        secret: given,
      };
      return source
        ? take(api.PUT("/api/ldap/{id}", { params: { path: { id: source.id } }, body, ...ifMatch(source.revision) }))
        : take(api.POST("/api/ldap", { body }));
    },
    onSuccess: async () => {
      await queries.invalidateQueries();
      onDone();
    },
  });
  const change = (part: Partial<Settings>) => setSettings({ ...settings, ...part });
  return (
    <form
      aria-label="Directory server"
      className="mt-2 flex flex-col gap-3 rounded-[4px] bg-fold px-4 py-3 text-second"
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate();
      }}
    >
      <div className="grid grid-cols-[110px_minmax(0,1fr)] items-center gap-x-3 gap-y-2">
        <Text label="Called" value={name} onChange={setName} />
        <Text
          label="Server"
          value={settings.host}
          onChange={(host) => change({ host })}
          placeholder="directory.company.example"
        />
        <span className="text-soft">Secured by</span>
        <div className="flex gap-2">
          <div className="flex-1">
            <Choice
              label="Secured by"
              value={settings.security}
              options={securityWords}
              onChange={(security) =>
                change({
                  security,
                  port: settings.port === usualPort(settings.security) ? usualPort(security) : settings.port,
                })
              }
            />
          </div>
          <label className="flex items-center gap-2">
            <span className="text-soft">Port</span>
            <input
              value={settings.port}
              inputMode="numeric"
              onChange={(event) => change({ port: Number(event.target.value.replace(/\D/g, "")) })}
              className="w-20 rounded-[4px] border border-field bg-sheet px-2 py-1"
            />
          </label>
        </div>
        <Text
          label="Bind name"
          value={settings.bindName}
          onChange={(bindName) => change({ bindName })}
          placeholder="cn=relevo,dc=company,dc=example"
        />
        <Text
          label="Secret"
          value={secret}
          onChange={setSecret}
          type="password"
          placeholder={source?.hasSecret ? "kept; type to replace it" : ""}
        />
        <Text
          label="Base"
          value={settings.baseName}
          onChange={(baseName) => change({ baseName })}
          placeholder="dc=company,dc=example"
        />
        <Text label="Filter" value={settings.filter} onChange={(filter) => change({ filter })} />
        <span className="text-soft">Asked</span>
        <Choice label="Asked" value={every} options={scheduleWords(every)} onChange={setEvery} />
      </div>
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          checked={joinsByMail}
          className="size-4 accent-baton"
          onChange={(event) => setJoinsByMail(event.target.checked)}
        />
        Whoever has the mail address of somebody in another source is the same person.
      </label>
      <Trouble error={attempt.error ?? save.error} />
      {attempt.data && <Tried answer={attempt.data} />}
      <div className="flex gap-2">
        <Button disabled={attempt.isPending} onClick={() => attempt.mutate()}>
          {attempt.isPending ? "Asking" : "Try it"}
        </Button>
        <Button type="submit" disabled={save.isPending}>
          {source ? "Save server" : "Keep this server"}
        </Button>
        <Button look="quiet" onClick={onDone}>
          Leave
        </Button>
      </div>
    </form>
  );
}

function Tried({ answer }: { answer: Api["TryLdapAnswer"] }) {
  return (
    <section aria-label="What it answered" className="rounded-[4px] bg-sheet px-3 py-2">
      <p className="font-semibold">
        {answer.count} {answer.isWhole ? "people" : "people on the first page, and more"}
        {answer.otherEntries > 0 && `, ${answer.otherEntries} other entries`}
      </p>
      {answer.problems.map((problem) => (
        <p key={problem} className="text-madder">
          {problem}
        </p>
      ))}
      <ul>
        {answer.people.map((person) => (
          <li key={`${person.name}${person.addresses[0] ?? ""}`} className="truncate">
            <span className="font-semibold">{person.name}</span>{" "}
            <span className="text-soft">
              {[person.facts.title, person.facts.department, person.facts.location, person.addresses[0]]
                .filter(Boolean)
                .join(", ")}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

type TextProps = {
  label: string;
  value: string;
  onChange: (value: string) => void;
  placeholder?: string;
  type?: "text" | "password";
};

function Text({ label, value, onChange, placeholder, type = "text" }: TextProps) {
  const id = `ldap-${label.toLowerCase().replace(" ", "-")}`;
  return (
    <>
      <label htmlFor={id} className="text-soft">
        {label}
      </label>
      <input
        id={id}
        type={type}
        value={value}
        placeholder={placeholder}
        autoComplete={type === "password" ? "new-password" : "off"}
        spellCheck={false}
        onChange={(event) => onChange(event.target.value)}
        className="w-full rounded-[4px] border border-field bg-sheet px-2 py-1"
      />
    </>
  );
}
