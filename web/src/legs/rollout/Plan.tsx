import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { X } from "lucide-react";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, take, type Api } from "../../api/client";
import { count } from "../../frame/legs";
import { Button } from "../../kit/Button";
import { Choice } from "../../kit/Choice";
import { dateText } from "../../kit/dates";
import { Trouble } from "../../kit/Trouble";
import { TokenInput } from "../../kit/TokenInput";
import { PersonPick } from "../../lens/PersonPick";
import { newWave, reduceWaves, type WavePeople, type WavePlan, type WaveStart } from "./rolloutState";

const everybody: WavePlan = { ...newWave(2), name: "Everybody", people: { kind: "everybody" } };

/** A rollout before it is started: which edition, to whom first, and when it may go on. */
export function Plan({ data }: { data: Api["RolloutAnswer"] }) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const editions = useQuery({ queryKey: ["proof"], queryFn: () => take(api.GET("/api/proof")) });
  const [chosen, setChosen] = useState<number | null>(null);
  const [waves, setWaves] = useState<WavePlan[]>([everybody]);
  const [names, setNames] = useState<ReadonlyMap<string, string>>(new Map());
  const going = data.rollout && data.rollout.endedAt === null ? data.rollout : null;
  const edition = chosen ?? data.latestEdition;
  const body = { edition, waves, inPlaceOf: going?.id ?? null };
  const preview = useQuery({
    queryKey: ["rollout", "preview", edition, waves],
    queryFn: () => take(api.POST("/api/rollout/preview", { body })),
    placeholderData: keepPreviousData,
    enabled: edition > 0,
    retry: false,
  });
  const start = useMutation({
    mutationFn: () => take(api.POST("/api/rollout", { body })),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: ["rollout"] });
      void navigate("/rollout/now");
    },
  });
  const correct = useMutation({
    mutationFn: (id: number) =>
      take(api.POST("/api/rollouts/{id}/edition", { params: { path: { id } }, body: { edition } })),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: ["rollout"] });
      void navigate("/rollout/now");
    },
  });
  if (data.latestEdition === 0) return <p className="text-soft">Publish an edition on the Proof leg first.</p>;
  return (
    <div className="grid h-full min-h-0 grid-cols-[minmax(0,1fr)_340px] gap-7">
      <div className="flex min-h-0 flex-col gap-3 overflow-y-auto pr-1">
        <p>
          Bring{" "}
          <Choice
            label="Edition"
            look="result"
            value={String(edition)}
            options={(editions.data?.editions ?? []).map((one) => ({
              value: String(one.number),
              label: `edition ${one.number}, ${dateText(one.publishedAt)}`,
            }))}
            onChange={(value) => setChosen(Number(value))}
          />{" "}
          {edition === data.settledEdition ? "(which most hold already) " : ""}
          to the clients of these people, wave after wave:
        </p>
        <ol aria-label="Planned waves" className="border-t border-line">
          {waves.map((wave, at) => (
            <WaveEditor
              key={at}
              at={at}
              wave={wave}
              isLast={at === waves.length - 1}
              isOnly={waves.length === 1}
              names={names}
              preview={preview.data?.waves[at]}
              onName={(id, name) => setNames(new Map([...names, [id, name]]))}
              onChange={(next) => setWaves(reduceWaves(waves, { kind: "set", at, wave: next }))}
              onRemove={() => setWaves(reduceWaves(waves, { kind: "remove", at }))}
              onMove={(by) => setWaves(reduceWaves(waves, { kind: "move", at, by }))}
            />
          ))}
        </ol>
        <div>
          <Button disabled={waves.length >= 20} onClick={() => setWaves(reduceWaves(waves, { kind: "add" }))}>
            Add a wave
          </Button>
        </div>
      </div>
      <aside className="flex min-h-0 flex-col items-start gap-3 overflow-y-auto border-l border-line pl-5">
        <h2 className="font-semibold">Whom it would reach</h2>
        <Trouble error={preview.error ?? start.error ?? correct.error} />
        {preview.data && (
          <>
            <p className="text-soft">
              {preview.data.waves
                .map(
                  (wave) =>
                    `${wave.name}: ${count(wave.people, "person", "people")}, ${count(wave.clients, "client", "clients")}`,
                )
                .join("; ")}
              .
            </p>
            <ul aria-label="Worth a second look" className="flex flex-col gap-1">
              {preview.data.warnings.map((warning) => (
                <li key={warning} className="border-l-[3px] border-ochre pl-3">
                  {warning}
                </li>
              ))}
            </ul>
          </>
        )}
        {going && (
          <p className="text-soft">
            The rollout of edition {going.edition} goes on. Starting this one ends it: waves that have not begun keep
            what they have.
          </p>
        )}
        <Button look="main" disabled={start.isPending || preview.error !== null} onClick={() => start.mutate()}>
          {going ? `Start it in the place of edition ${going.edition}'s` : `Start rolling out edition ${edition}`}
        </Button>
        {going && edition !== going.edition && (
          <>
            <p className="text-soft">Or keep its waves and bring edition {edition} instead, as a correction.</p>
            <Button disabled={correct.isPending} onClick={() => correct.mutate(going.id)}>
              Correct it to edition {edition}
            </Button>
          </>
        )}
      </aside>
    </div>
  );
}

type WaveEditorProps = {
  at: number;
  wave: WavePlan;
  isLast: boolean;
  isOnly: boolean;
  names: ReadonlyMap<string, string>;
  preview: Api["WavePreview"] | undefined;
  onName: (id: string, name: string) => void;
  onChange: (wave: WavePlan) => void;
  onRemove: () => void;
  onMove: (by: -1 | 1) => void;
};

const number = "w-16 rounded-[4px] border border-field bg-sheet px-2 min-h-7 text-right tabular-nums";

function WaveEditor({ at, wave, isLast, isOnly, names, preview, onName, onChange, onRemove, onMove }: WaveEditorProps) {
  const label = `Wave ${at + 1}`;
  const gate = (change: Partial<WavePlan["gate"]>) => onChange({ ...wave, gate: { ...wave.gate, ...change } });
  return (
    <li className="flex flex-col gap-2 border-b border-line py-3">
      <div className="flex items-center gap-2">
        <span className="text-soft">{at + 1}.</span>
        <input
          aria-label={`${label}: name`}
          value={wave.name}
          maxLength={100}
          onChange={(event) => onChange({ ...wave, name: event.target.value })}
          className="min-h-8 w-48 rounded-[4px] border border-field bg-sheet px-2.5 font-semibold"
        />
        {preview && <span className="text-soft">{count(preview.clients, "client", "clients")}</span>}
        <span className="ml-auto flex gap-1">
          <Button look="quiet" label={`${label}: earlier`} disabled={at === 0} onClick={() => onMove(-1)}>
            ↑
          </Button>
          <Button look="quiet" label={`${label}: later`} disabled={isLast} onClick={() => onMove(1)}>
            ↓
          </Button>
          <Button look="quiet" label={`${label}: take out`} disabled={isOnly} onClick={onRemove}>
            <X size={14} aria-hidden />
          </Button>
        </span>
      </div>
      <div className="flex flex-wrap items-center gap-x-2 gap-y-1 pl-5">
        is for{" "}
        <PeopleEditor
          label={label}
          people={wave.people}
          names={names}
          onName={onName}
          onChange={(people) => onChange({ ...wave, people })}
        />
      </div>
      <div className="flex flex-wrap items-center gap-x-2 gap-y-1 pl-5">
        begins{" "}
        <StartEditor
          label={label}
          start={wave.start}
          isFirst={at === 0}
          onChange={(start) => onChange({ ...wave, start })}
        />
      </div>
      <div className="flex flex-wrap items-center gap-x-2 gap-y-1 pl-5">
        passes when at least
        <input
          type="number"
          aria-label={`${label}: least in place, percent`}
          min={0}
          max={100}
          value={wave.gate.leastInPlace}
          onChange={(event) => gate({ leastInPlace: Number(event.target.value) })}
          className={number}
        />
        % are in place, and pauses when more than
        <input
          type="number"
          aria-label={`${label}: most in trouble, percent`}
          min={0}
          max={100}
          value={wave.gate.mostTrouble}
          onChange={(event) => gate({ mostTrouble: Number(event.target.value) })}
          className={number}
        />
        % have failed or drifted, or when it has not passed after
        <input
          type="number"
          aria-label={`${label}: minutes at most, 0 for any`}
          min={0}
          value={wave.gate.withinMinutes ?? 0}
          onChange={(event) => gate({ withinMinutes: Number(event.target.value) })}
          className={number}
        />
        minutes (0: however long).
      </div>
    </li>
  );
}

type PeopleEditorProps = {
  label: string;
  people: WavePeople;
  names: ReadonlyMap<string, string>;
  onName: (id: string, name: string) => void;
  onChange: (people: WavePeople) => void;
};

const peopleKinds: readonly { value: WavePeople["kind"]; label: string }[] = [
  { value: "everybody", label: "everybody no earlier wave is for" },
  { value: "pilots", label: "people picked by hand" },
  { value: "units", label: "teams, offices or entities" },
  { value: "share", label: "a share of everybody" },
  { value: "found", label: "those a search finds" },
];

function freshPeople(kind: WavePeople["kind"]): WavePeople {
  switch (kind) {
    case "everybody":
      return { kind };
    case "pilots":
      return { kind, people: [] };
    case "units":
      return { kind, unit: "team", names: [] };
    case "share":
      return { kind, percent: 10 };
    case "found":
      return { kind, search: "" };
  }
}

function PeopleEditor({ label, people, names, onName, onChange }: PeopleEditorProps) {
  return (
    <>
      <Choice
        label={`${label}: for whom`}
        look="condition"
        value={people.kind}
        options={peopleKinds}
        onChange={(kind) => onChange(freshPeople(kind))}
      />
      {people.kind === "share" && (
        <>
          <input
            type="number"
            aria-label={`${label}: share in percent`}
            min={1}
            max={100}
            value={people.percent}
            onChange={(event) => onChange({ kind: "share", percent: Number(event.target.value) })}
            className={number}
          />
          %, always the same people
        </>
      )}
      {people.kind === "found" && (
        <input
          aria-label={`${label}: search`}
          value={people.search}
          placeholder="as on the People leg"
          onChange={(event) => onChange({ kind: "found", search: event.target.value })}
          className="min-h-8 w-56 rounded-[4px] border border-field bg-sheet px-2.5"
        />
      )}
      {people.kind === "units" && (
        <>
          <Choice
            label={`${label}: kind of unit`}
            look="condition"
            value={people.unit}
            options={[
              { value: "team", label: "teams" },
              { value: "office", label: "offices" },
              { value: "entity", label: "legal entities" },
            ]}
            onChange={(unit) => onChange({ ...people, unit })}
          />
          <TokenInput
            label={`${label}: names of units`}
            values={people.names}
            onChange={(next) => onChange({ ...people, names: next })}
          />
        </>
      )}
      {people.kind === "pilots" && (
        <>
          {people.people.map((id) => (
            <span key={id} className="flex items-center rounded-[3px] bg-fold pl-1.5">
              {names.get(id) ?? "somebody"}
              <Button
                look="quiet"
                label={`Take out ${names.get(id) ?? "somebody"}`}
                onClick={() => onChange({ ...people, people: people.people.filter((other) => other !== id) })}
              >
                <X size={12} aria-hidden />
              </Button>
            </span>
          ))}
          <span className="w-56">
            <PersonPick
              label={`${label}: add a person`}
              look="box"
              name=""
              placeholder="add a person"
              onPick={(person) => {
                onName(person.id, person.name);
                if (!people.people.includes(person.id)) onChange({ ...people, people: [...people.people, person.id] });
              }}
            />
          </span>
        </>
      )}
    </>
  );
}

type StartEditorProps = { label: string; start: WaveStart; isFirst: boolean; onChange: (start: WaveStart) => void };

function StartEditor({ label, start, isFirst, onChange }: StartEditorProps) {
  return (
    <>
      <Choice
        label={`${label}: when`}
        look="condition"
        value={start.kind}
        options={[
          { value: "atOnce", label: isFirst ? "at once" : "as soon as the one before it has passed" },
          ...(isFirst ? [] : [{ value: "after" as const, label: "when the one before it has been in place for" }]),
          { value: "at", label: "not before" },
        ]}
        onChange={(kind) =>
          onChange(
            kind === "at"
              ? { kind, at: new Date(Date.now() + 3_600_000).toISOString() }
              : kind === "after"
                ? { kind, minutes: 60 }
                : { kind },
          )
        }
      />
      {start.kind === "after" && (
        <>
          <input
            type="number"
            aria-label={`${label}: minutes after`}
            min={0}
            value={start.minutes}
            onChange={(event) => onChange({ kind: "after", minutes: Number(event.target.value) })}
            className={number}
          />
          minutes
        </>
      )}
      {start.kind === "at" && (
        <input
          type="datetime-local"
          aria-label={`${label}: not before`}
          value={localMoment(start.at)}
          onChange={(event) =>
            event.target.value && onChange({ kind: "at", at: new Date(event.target.value).toISOString() })
          }
          className="min-h-8 rounded-[4px] border border-field bg-sheet px-2"
        />
      )}
    </>
  );
}

/** A moment as the field for one shows it: the clock on the wall here. */
function localMoment(iso: string) {
  const at = new Date(iso);
  return new Date(at.getTime() - at.getTimezoneOffset() * 60_000).toISOString().slice(0, 16);
}
