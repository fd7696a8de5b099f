import { useMutation, useQuery } from "@tanstack/react-query";
import { ArrowDown, ArrowUp, X } from "lucide-react";
import { useRef, useState } from "react";
import { api, ifMatch, take, type Api } from "../../api/client";
import { useDrafts, type DraftData, type DraftDoor } from "../../frame/drafts";
import { count } from "../../frame/legs";
import { Button } from "../../kit/Button";
import { FileInput } from "../../kit/FileInput";
import { TokenInput } from "../../kit/TokenInput";
import { Trouble } from "../../kit/Trouble";
import { Tick } from "../../kit/Ticks";
import { addMembers, newAudience, type Audience, type AudienceBook } from "./audienceState";

const door: DraftDoor = {
  queryKey: ["audiences"],
  save: (next, revision) =>
    take(api.PUT("/api/audiences", { body: next as AudienceBook, ...ifMatch(revision) })).then(() => undefined),
};

const box = "min-h-8 rounded-[4px] border border-field bg-sheet px-2.5";

/** Who will read: colleagues, named groups of recipients, and everybody else. */
export function Audiences() {
  const drafts = useDrafts();
  const book = useQuery<DraftData<AudienceBook>>({
    queryKey: ["audiences"],
    queryFn: async () => {
      const answer = await take(api.GET("/api/audiences"));
      return { revision: answer.revision, value: answer.book };
    },
    refetchOnMount: "always",
  });
  const [open, setOpen] = useState<string | null>(null);
  const value = book.data?.value;
  if (!value) return <Trouble error={book.error} />;
  const change = (label: string, next: AudienceBook, mergeKey = "") =>
    drafts.change("audiences", door, label, next, mergeKey);
  const set = (label: string, audience: Audience, mergeKey = "") =>
    change(label, { ...value, named: value.named.map((one) => (one.key === audience.key ? audience : one)) }, mergeKey);
  const move = (from: number, to: number) => {
    const audience = value.named[from];
    if (!audience || to < 0 || to >= value.named.length) return;
    change("order the audiences", { ...value, named: value.named.toSpliced(from, 1).toSpliced(to, 0, audience) });
  };
  const failure = drafts.failures.get("audiences");
  return (
    <section aria-label="Audiences" className="flex flex-col gap-3 pt-2">
      {failure && (
        <div className="flex flex-col items-start gap-2">
          <Trouble error={failure} />
          <Button onClick={() => drafts.reload("audiences")}>Load the newest state</Button>
        </div>
      )}
      <p className="text-second text-soft">
        With several recipients the strictest decides: outside before every named audience, an earlier one before a
        later one, and inside last.
      </p>
      <div className="flex flex-col gap-1 border-b border-line pb-3">
        <h3 className="font-semibold">Inside</h3>
        <p className="text-second text-soft">Recipients in the company’s own domains.</p>
        <TokenInput
          label="Own domains"
          placeholder="clinic.example"
          values={value.ownDomains}
          onChange={(ownDomains) => change("own domains", { ...value, ownDomains })}
        />
        <Tick
          label="and their subdomains"
          isOn={value.withSubdomains}
          onChange={(withSubdomains) => change("own subdomains", { ...value, withSubdomains })}
        />
      </div>
      <ol>
        {value.named.map((audience, index) => (
          <li
            key={audience.key}
            className="border-b border-line py-2"
            onKeyDown={(event) => {
              if (!event.altKey || (event.key !== "ArrowUp" && event.key !== "ArrowDown")) return;
              event.preventDefault();
              move(index, event.key === "ArrowUp" ? index - 1 : index + 1);
            }}
          >
            <div className="flex items-center gap-2">
              <span className="w-6 text-second text-soft">{index + 1}</span>
              <button
                type="button"
                aria-expanded={open === audience.key}
                className="min-h-6 flex-1 text-left font-semibold hover:underline"
                onClick={() => setOpen(open === audience.key ? null : audience.key)}
              >
                {audience.name}{" "}
                <span className="font-normal text-soft">{count(audience.members.length, "member", "members")}</span>
              </button>
              <Button look="quiet" label={`Move ${audience.name} up`} onClick={() => move(index, index - 1)}>
                <ArrowUp size={14} aria-hidden />
              </Button>
              <Button look="quiet" label={`Move ${audience.name} down`} onClick={() => move(index, index + 1)}>
                <ArrowDown size={14} aria-hidden />
              </Button>
              <Button
                look="quiet"
                label={`Take out ${audience.name}`}
                onClick={() =>
                  change("take out an audience", {
                    ...value,
                    named: value.named.filter((one) => one.key !== audience.key),
                  })
                }
              >
                <X size={14} aria-hidden />
              </Button>
            </div>
            {open === audience.key && <AudienceEditor audience={audience} set={set} />}
          </li>
        ))}
      </ol>
      <div>
        <Button
          onClick={() => {
            const audience = newAudience(value);
            change("add an audience", { ...value, named: [...value.named, audience] });
            setOpen(audience.key);
          }}
        >
          Add an audience
        </Button>
      </div>
    </section>
  );
}

const shownMembers = 100; // more are found by searching

type AudienceEditorProps = { audience: Audience; set: (label: string, audience: Audience, mergeKey?: string) => void };

function AudienceEditor({ audience, set }: AudienceEditorProps) {
  const [search, setSearch] = useState("");
  const [fresh, setFresh] = useState("");
  const file = useRef<HTMLInputElement>(null);
  const read = useMutation({
    mutationFn: async (table: File) =>
      take(
        api.POST("/api/audiences/members", {
          body: await table.text(),
          bodySerializer: (body) => body,
          headers: { "Content-Type": "text/csv" },
        }),
      ),
    onSuccess: (answer) => set("members from a table", { ...audience, members: addMembers([], answer.members) }),
  });
  const found = search ? audience.members.filter((member) => member.includes(search.toLowerCase())) : audience.members;
  return (
    <div className="mt-2 ml-8 flex flex-col gap-2">
      <div className="flex gap-3">
        <label className="flex flex-1 flex-col gap-0.5">
          <span className="text-second text-soft">Name</span>
          <input
            className={box}
            value={audience.name}
            onChange={(event) => set("name an audience", { ...audience, name: event.target.value }, audience.key)}
          />
        </label>
        <label className="flex w-24 flex-col gap-0.5">
          <span className="text-second text-soft">Language</span>
          <input
            className={box}
            placeholder="de"
            value={audience.language ?? ""}
            onChange={(event) =>
              set("language of an audience", { ...audience, language: event.target.value }, `${audience.key} language`)
            }
          />
        </label>
        <label className="flex w-24 flex-col gap-0.5">
          <span className="text-second text-soft">Country</span>
          <input
            className={box}
            placeholder="DE"
            value={audience.country ?? ""}
            onChange={(event) =>
              set(
                "country of an audience",
                { ...audience, country: event.target.value.toUpperCase() },
                `${audience.key} country`,
              )
            }
          />
        </label>
      </div>
      <div className="flex gap-2">
        <input
          aria-label="Find a member"
          placeholder="Find a member"
          className={`${box} flex-1`}
          value={search}
          onChange={(event) => setSearch(event.target.value)}
        />
        <Button onClick={() => file.current?.click()}>Members from a CSV file…</Button>
        <FileInput
          input={file}
          label="CSV file of members"
          accept=".csv,text/csv,text/plain"
          onFile={(table) => read.mutate(table)}
        />
      </div>
      <Trouble error={read.error} />
      <ul className="max-h-56 overflow-y-auto text-second">
        {found.slice(0, shownMembers).map((member) => (
          <li key={member} className="flex items-center justify-between hover:bg-fold">
            {member}
            <Button
              look="quiet"
              label={`Take out ${member}`}
              onClick={() =>
                set("take out a member", {
                  ...audience,
                  members: audience.members.filter((other) => other !== member),
                })
              }
            >
              <X size={12} aria-hidden />
            </Button>
          </li>
        ))}
      </ul>
      {found.length > shownMembers && (
        <p className="text-small text-soft">{found.length - shownMembers} more; find one by a part of it.</p>
      )}
      <form
        className="flex gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          set("add members", { ...audience, members: addMembers(audience.members, fresh.split(/[\s,;]+/)) });
          setFresh("");
        }}
      >
        <input
          aria-label="New members"
          placeholder="practice.example, *.shop.example, one@home.example"
          className={`${box} flex-1`}
          value={fresh}
          onChange={(event) => setFresh(event.target.value)}
        />
        <Button type="submit" disabled={fresh.trim() === ""}>
          Add
        </Button>
      </form>
    </div>
  );
}

/** What a list of recipients comes to. */
export function AskRecipients() {
  const [text, setText] = useState("");
  const ask = useQuery({
    queryKey: ["recipients", text],
    queryFn: () => take(api.POST("/api/audiences/recipients", { body: { recipients: text } })),
    enabled: text.trim() !== "",
    placeholderData: (before: Api["RecipientsAnswer"] | undefined) => before,
    meta: { followsDrafts: true },
  });
  const names = useQuery({ queryKey: ["audiences", "book"], queryFn: () => take(api.GET("/api/audiences")) });
  const nameOf = (key: string) => names.data?.book.named.find((one) => one.key === key)?.name ?? key;
  return (
    <section
      aria-label="Ask"
      className="flex flex-col gap-2 self-start rounded-[6px] border border-line bg-sheet px-4 py-3.5"
    >
      <h2 className="font-semibold">Who would that be?</h2>
      <textarea
        aria-label="Recipients"
        className="min-h-20 rounded-[4px] border border-field bg-sheet px-2.5 py-1"
        placeholder={"Jo Fern <jo@millpond-vets.example>, Mia (vet) <mia@brackenfold.example>"}
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      <p className="text-small text-soft">Write recipients as they stand in a message’s header.</p>
      {ask.data && text.trim() !== "" && (
        <>
          <p>
            Read <b className="font-semibold text-lens">{nameOf(ask.data.audience)}</b>: {ask.data.reason}.
          </p>
          <ul className="text-second">
            {ask.data.recipients.map((one, index) => (
              <li key={index} className="grid grid-cols-2 gap-2">
                <span className="truncate">{one.address}</span>
                <span className={one.address === ask.data.deciding ? "font-semibold" : "text-soft"}>
                  {nameOf(one.audience)}
                </span>
              </li>
            ))}
          </ul>
        </>
      )}
      <Trouble error={ask.error} />
    </section>
  );
}
