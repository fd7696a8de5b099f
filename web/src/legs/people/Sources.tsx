import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, ifMatch, take, type Api } from "../../api/client";
import { count } from "../../frame/legs";
import { Button } from "../../kit/Button";
import { momentText } from "../../kit/dates";
import { Empty, Page } from "../../kit/Page";
import { Trouble } from "../../kit/Trouble";
import { FileDrop, FilePick, FileProgress } from "./FileDrop";
import { LdapForm } from "./LdapForm";
import { scheduleWord } from "./ldapState";
import { PeopleTabs } from "./PeopleTabs";
import { PortraitPick } from "./PortraitPick";
import { countsText, kindWord, runWord } from "./runWords";
import { MakeToken, Tokens } from "./Tokens";
import { useUpload } from "./useUpload";

/** Where people come from, in the order in which sources are believed, and every reading of them. */
export function Sources() {
  const queries = useQueryClient();
  const upload = useUpload();
  const [adding, setAdding] = useState<"server" | "client" | null>(null);
  const sources = useQuery({ queryKey: ["sources"], queryFn: () => take(api.GET("/api/sources")) });
  const runs = useQuery({ queryKey: ["runs"], queryFn: () => take(api.GET("/api/runs")) });
  const order = useMutation({
    mutationFn: (ids: string[]) => take(api.PUT("/api/sources/order", { body: { sources: ids } })),
    onSuccess: () => queries.invalidateQueries(),
  });
  const list = sources.data ?? [];
  const move = (index: number, by: number) => {
    const ids = list.map((source) => source.id);
    const [moved] = ids.splice(index, 1);
    if (moved) ids.splice(index + by, 0, moved);
    order.mutate(ids);
  };
  return (
    <FileDrop onFile={(file) => upload.start(file)}>
      <Page
        title="Where people come from"
        lede="Of two sources that list the same person, the upper one is believed; the lower one fills what it leaves open."
        action={
          <>
            <Button onClick={() => setAdding("client")}>Let a client push</Button>
            <Button onClick={() => setAdding("server")}>Add a directory server</Button>
            <FilePick onFile={(file) => upload.start(file)} />
          </>
        }
      >
        <div className="flex h-full min-h-0 flex-col gap-3">
          <PeopleTabs />
          <Trouble error={sources.error ?? runs.error ?? order.error ?? upload.error} />
          <FileProgress share={upload.share} />
          {sources.isSuccess && list.length === 0 && adding === null ? (
            <Empty>No source yet. The first file you drop makes one; or add a directory server that is asked.</Empty>
          ) : (
            <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_minmax(0,1fr)] gap-8">
              <section aria-label="Sources" className="min-h-0 overflow-y-auto">
                <h2 className="border-b border-ink pb-1 font-semibold">Sources</h2>
                {adding === "server" && <LdapForm source={null} onDone={() => setAdding(null)} />}
                {adding === "client" && <MakeToken source={null} onDone={() => setAdding(null)} />}
                <ol>
                  {list.map((source, index) => (
                    <SourceItem
                      key={`${source.id}${source.revision}`}
                      source={source}
                      onUp={index > 0 ? () => move(index, -1) : undefined}
                      onDown={index < list.length - 1 ? () => move(index, 1) : undefined}
                    />
                  ))}
                </ol>
                <PortraitPick />
              </section>
              <section aria-label="Runs" className="flex min-h-0 flex-col">
                <h2 className="border-b border-ink pb-1 font-semibold">Runs</h2>
                <ul className="min-h-0 flex-1 overflow-y-auto">
                  {runs.data?.map((run) => (
                    <li key={run.id} className="border-b border-line py-1.5">
                      <Link to={`/people/runs/${run.id}`} className="font-semibold hover:underline">
                        {run.name}
                      </Link>{" "}
                      <span className="text-second">
                        {run.state === "applied" ? (
                          countsText(run.counts)
                        ) : (
                          <span className={tone(run.state)}>{runWord(run.state)}</span>
                        )}
                      </span>
                      <div className="text-small text-soft">
                        {momentText(run.startedAt)}, {kindWord(run.kind)}, {run.startedBy}
                      </div>
                    </li>
                  ))}
                </ul>
              </section>
            </div>
          )}
        </div>
      </Page>
    </FileDrop>
  );
}

function tone(state: Api["RunState"]) {
  return state === "refused" || state === "failed"
    ? "text-madder"
    : state === "held" || state === "planned"
      ? "text-ochre"
      : "text-soft";
}

const kinds: Record<Api["SourceKind"], string> = {
  ldif: "LDIF files",
  csv: "tables",
  ldap: "directory server",
  scim: "pushes (SCIM)",
};

type SourceItemProps = {
  source: Api["SourceAnswer"];
  onUp: (() => void) | undefined;
  onDown: (() => void) | undefined;
};

function SourceItem({ source, onUp, onDown }: SourceItemProps) {
  const [isOpen, setOpen] = useState(false);
  const navigate = useNavigate();
  const queries = useQueryClient();
  const read = useMutation({
    mutationFn: () => take(api.POST("/api/sources/{id}/runs", { params: { path: { id: source.id } } })),
    onSuccess: async (run) => {
      await queries.invalidateQueries({ queryKey: ["runs"] });
      void navigate(`/people/runs/${run.id}`);
    },
  });
  return (
    <li className="border-b border-line py-2">
      <div className="flex items-center justify-between gap-3">
        <div className="min-w-0">
          <span className="font-semibold">{source.name}</span>{" "}
          <span className="text-second text-soft">
            {kinds[source.kind]}, {count(source.people, "person", "people")}
            {source.kind === "ldap" && `, asked ${scheduleWord(source.everyMinutes ?? 0)}`}
          </span>
        </div>
        <div className="flex shrink-0 gap-1">
          <Button
            look="quiet"
            label={`Believe ${source.name} more`}
            disabled={!onUp}
            onClick={onUp ?? (() => undefined)}
          >
            ↑
          </Button>
          <Button
            look="quiet"
            label={`Believe ${source.name} less`}
            disabled={!onDown}
            onClick={onDown ?? (() => undefined)}
          >
            ↓
          </Button>
          {source.kind === "ldap" && (
            <Button disabled={read.isPending} onClick={() => read.mutate()}>
              Read now
            </Button>
          )}
          <Button look="quiet" onClick={() => setOpen(!isOpen)}>
            {isOpen ? "Close" : "Settings"}
          </Button>
        </div>
      </div>
      <Trouble error={read.error} />
      {isOpen && source.kind === "ldap" && <LdapForm source={source} onDone={() => setOpen(false)} />}
      {isOpen && source.kind === "scim" && <Tokens source={source} />}
      {isOpen && <SourceForm source={source} />}
    </li>
  );
}

function SourceForm({ source }: { source: Api["SourceAnswer"] }) {
  const queries = useQueryClient();
  const [name, setName] = useState(source.name);
  const [leaving, setLeaving] = useState(String(source.brake.leavingPercent));
  const [emptied, setEmptied] = useState(String(source.brake.emptiedPercent));
  const [atLeast, setAtLeast] = useState(String(source.brake.atLeast));
  const [joinBy, setJoinBy] = useState<readonly string[]>(source.joinBy);
  const save = useMutation({
    mutationFn: () =>
      take(
        api.PUT("/api/sources/{id}", {
          params: { path: { id: source.id } },
          body: {
            name,
            mapping: source.hasOwnMapping ? source.mapping : null,
            brake: { leavingPercent: Number(leaving), emptiedPercent: Number(emptied), atLeast: Number(atLeast) },
            joinBy: [...joinBy],
            everyMinutes: source.everyMinutes,
          },
          ...ifMatch(source.revision),
        }),
      ),
    onSuccess: () => queries.invalidateQueries(),
  });
  const flip = (by: string) =>
    setJoinBy(joinBy.includes(by) ? joinBy.filter((other) => other !== by) : [...joinBy, by]);
  const box = "w-14 rounded-[4px] border border-field bg-sheet px-1.5 py-0.5 text-right";
  return (
    <form
      className="mt-2 flex flex-col gap-2.5 rounded-[4px] bg-fold px-3 py-2.5 text-second"
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate();
      }}
    >
      <label className="flex items-center gap-2">
        <span className="w-16 text-soft">Name</span>
        <input
          value={name}
          onChange={(event) => setName(event.target.value)}
          className="flex-1 rounded-[4px] border border-field bg-sheet px-2 py-1"
        />
      </label>
      <p className="leading-8">
        The brake holds a run when more than{" "}
        <input
          aria-label="Share of leavers in a hundred"
          value={leaving}
          onChange={(event) => setLeaving(event.target.value)}
          className={box}
        />{" "}
        % of the people would leave, or more than{" "}
        <input
          aria-label="Share of emptied values in a hundred"
          value={emptied}
          onChange={(event) => setEmptied(event.target.value)}
          className={box}
        />{" "}
        % would lose a field, and at least{" "}
        <input
          aria-label="Least number of people"
          value={atLeast}
          onChange={(event) => setAtLeast(event.target.value)}
          className={box}
        />{" "}
        people.
      </p>
      <fieldset className="flex flex-wrap items-center gap-x-4 gap-y-1">
        <legend className="mb-1 text-soft">Somebody another source has too is known again by</legend>
        {[
          ["mail", "mail address"],
          ["employeeNumber", "employee number"],
        ].map(([by, label]) => (
          <label key={by} className="flex items-center gap-1.5">
            <input
              type="checkbox"
              checked={joinBy.includes(by ?? "")}
              className="size-4 accent-baton"
              onChange={() => flip(by ?? "")}
            />
            {label}
          </label>
        ))}
      </fieldset>
      <Trouble error={save.error} />
      <div className="flex items-center gap-3">
        <Button type="submit" disabled={save.isPending}>
          Save settings
        </Button>
        {source.kind !== "csv" && (
          <Link to={`/people/sources/${source.id}`} className="text-lens underline">
            What its attributes are{source.hasOwnMapping && " (changed)"}
          </Link>
        )}
      </div>
    </form>
  );
}
