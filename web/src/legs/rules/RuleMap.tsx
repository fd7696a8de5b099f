import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, take, type Api } from "../../api/client";
import { Choice } from "../../kit/Choice";
import { Button } from "../../kit/Button";
import { count } from "../../frame/legs";
import { useLens } from "../../lens/lensState";
import { clientKinds } from "../../lens/clientKinds";
import { squareShares, type Share } from "./mapState";
import { allOccasions, type Occasion, type RuleSet, type Track } from "./ruleState";
import type { RuleNames } from "./useRules";

type RuleMapProps = {
  reach: Api["ReachAnswer"];
  rules: RuleSet;
  track: Track;
  chosen: string | null;
  names: RuleNames;
  isTrial: boolean;
};

type Place = { audience: string; occasion: Occasion };

const headings: Record<Occasion, string> = { new: "New", reply: "Reply", forward: "Forward" };

/** What wins where: audiences by occasions, for one client kind at one moment. A square shows what most accounts get, and is opened to see who they are. */
export function RuleMap({ reach, rules, track, chosen, names, isTrial }: RuleMapProps) {
  const { lens, look } = useLens();
  const [place, setPlace] = useState<Place | null>(null);
  const kind = clientKinds.find((one) => one.value === lens.client);
  const number = rules[track].findIndex((rule) => rule.id === chosen);
  const label = (key: string) => names.audiences.find((audience) => audience.value === key)?.label ?? key;
  const square = (at: Place) =>
    reach.squares.find(
      (one) =>
        one.cell.audience === at.audience && one.cell.occasion === at.occasion && one.cell.client === lens.client,
    );
  const opened = place && square(place);
  return (
    <section aria-label="Map" className="flex flex-col gap-3 rounded-[6px] border border-line bg-sheet px-4 py-3.5">
      <header>
        <h2 className="font-semibold">
          {number >= 0 ? `Where rule ${number + 1} wins` : "What goes out"}
          {isTrial && <span className="ml-2 font-normal text-lens">as it would be</span>}
        </h2>
        <p className="text-second text-soft">
          {count(reach.accounts, "account", "accounts")} on the{" "}
          <Choice
            label="Client kind"
            look="lens"
            value={lens.client}
            options={clientKinds}
            onChange={(client) => look({ client })}
          />
          , <Moment />
        </p>
        {kind?.knowsReaders === false && (
          <p className="text-small text-soft">
            A {kind.label} does not know who reads: everybody is given what goes to outside.
          </p>
        )}
      </header>
      <div
        role="grid"
        aria-label="Audiences by occasions"
        className="grid grid-cols-[92px_repeat(3,minmax(0,1fr))] gap-1.5"
      >
        <div role="row" className="contents">
          <span role="columnheader">
            <span className="sr-only">Readers</span>
          </span>
          {allOccasions.map((occasion) => (
            <span key={occasion} role="columnheader" className="px-1 text-second font-semibold">
              {headings[occasion]}
            </span>
          ))}
        </div>
        {reach.audiences.map((audience) => (
          <div key={audience} role="row" className="contents">
            <span role="rowheader" className="self-center text-second font-semibold break-words first-letter:uppercase">
              {label(audience)}
            </span>
            {allOccasions.map((occasion) => {
              const found = square({ audience, occasion });
              return (
                <div key={occasion} role="gridcell" className="min-w-0">
                  {found && (
                    <Square
                      shares={squareShares(found, rules, track, names)}
                      addsUp={track === "signature"}
                      isWon={number >= 0 && (found[track][number] ?? 0) > 0}
                      isOpen={place?.audience === audience && place.occasion === occasion}
                      label={`${label(audience)}, ${headings[occasion]}`}
                      onOpen={() => {
                        setPlace({ audience, occasion });
                        look({ audience, occasion });
                      }}
                    />
                  )}
                </div>
              );
            })}
          </div>
        ))}
      </div>
      {opened && (
        <InSquare
          shares={squareShares(opened, rules, track, names)}
          cell={opened.cell}
          track={track}
          label={`${label(place.audience)}, ${headings[place.occasion].toLowerCase()}`}
          onClose={() => setPlace(null)}
          isTrial={isTrial}
        />
      )}
    </section>
  );
}

/** The moment that is looked at: now, or any other. */
function Moment() {
  const { lens, look } = useLens();
  const [isPicking, setPicking] = useState(false);
  if (!lens.moment && !isPicking)
    return (
      <button
        type="button"
        className="min-h-6 border-b-[1.5px] border-dotted border-lens font-semibold text-lens"
        onClick={() => setPicking(true)}
      >
        now
      </button>
    );
  return (
    <span className="inline-flex items-center gap-1.5">
      at
      <input
        type="datetime-local"
        aria-label="Moment to look at"
        className="min-h-6 rounded-[3px] border border-lens bg-sheet px-1 font-semibold text-lens"
        defaultValue={lens.moment ? localOf(lens.moment) : ""}
        onChange={(event) => event.target.value && look({ moment: new Date(event.target.value).toISOString() })}
      />
      <Button
        look="quiet"
        onClick={() => {
          setPicking(false);
          look({ moment: "" });
        }}
      >
        back to now
      </Button>
    </span>
  );
}

function localOf(iso: string) {
  const at = new Date(iso);
  return new Date(at.getTime() - at.getTimezoneOffset() * 60_000).toISOString().slice(0, 16);
}

type SquareProps = {
  shares: readonly Share[];
  /** True when every account is in one share. */ addsUp: boolean;
  isWon: boolean;
  isOpen: boolean;
  label: string;
  onOpen: () => void;
};

function Square({ shares, addsUp, isWon, isOpen, label, onOpen }: SquareProps) {
  const first = shares[0];
  const hole = shares.find((share) => share.kind === "hole");
  const others = shares.slice(1).filter((share) => share !== hole);
  const look = hole
    ? "border-[1.5px] border-madder bg-sheet"
    : isWon
      ? "border-[1.5px] border-baton bg-baton-wash"
      : first?.kind === "nothing"
        ? "border border-dashed border-line bg-sheet"
        : "border border-transparent bg-fold";
  return (
    <button
      type="button"
      aria-expanded={isOpen}
      onClick={onOpen}
      className={`block h-[58px] w-full overflow-hidden rounded-[4px] px-2 py-1 text-left text-second leading-[17px] ${look} ${isOpen ? "outline-2 outline-lens" : ""}`}
    >
      <span className="sr-only">{label}: </span>
      <b
        className={`block truncate font-semibold ${first?.kind === "hole" ? "text-madder" : isWon ? "text-baton" : ""}`}
      >
        {first?.name ?? "Nothing"}
      </b>
      <span className="block truncate text-small text-soft">
        {first?.accounts}
        {others.length > 0 && addsUp && `, others ${others.reduce((sum, share) => sum + share.accounts, 0)}`}
        {!addsUp && others.map((share) => `, ${share.name} ${share.accounts}`)}
      </span>
      {hole && first !== hole && (
        <span className="block truncate text-small font-semibold text-madder">without: {hole.accounts}</span>
      )}
    </button>
  );
}

type InSquareProps = {
  shares: readonly Share[];
  cell: Api["Cell"];
  track: Track;
  label: string;
  isTrial: boolean;
  onClose: () => void;
};

function InSquare({ shares, cell, track, label, isTrial, onClose }: InSquareProps) {
  const [rule, setRule] = useState<number | null>(null);
  const shown =
    shares.find((share) => share.rule === rule) ?? shares.find((share) => share.kind === "hole") ?? shares[0];
  return (
    <section aria-label="Accounts in this square" className="border-t border-line pt-2">
      <header className="flex items-start justify-between">
        <h3 className="font-semibold first-letter:uppercase">{label}</h3>
        <Button look="quiet" onClick={onClose}>
          close
        </Button>
      </header>
      <ul className="flex flex-wrap gap-x-4 gap-y-0.5 text-second">
        {shares.map((share) => (
          <li key={share.rule}>
            <button
              type="button"
              aria-pressed={share === shown}
              className={`min-h-6 ${share === shown ? "font-semibold text-lens" : "hover:underline"} ${share.kind === "hole" ? "text-madder" : ""}`}
              onClick={() => setRule(share.rule)}
            >
              {share.name} {share.accounts}
              {share.rule >= 0 && <span className="font-normal text-soft"> · rule {share.rule + 1}</span>}
            </button>
          </li>
        ))}
      </ul>
      {isTrial ? (
        <p className="mt-1 text-second text-soft">Who they are is listed once the rule is kept.</p>
      ) : (
        shown && <Accounts key={shown.rule} cell={cell} rule={shown.rule} track={track} />
      )}
    </section>
  );
}

/** A square’s place in full. */
const placeOf = (cell: Api["Cell"]) => ({
  audience: cell.audience ?? "outside",
  occasion: cell.occasion ?? ("new" as const),
  client: cell.client ?? "desk-app",
});

function Accounts({ cell, rule, track }: { cell: Api["Cell"]; rule: number; track: Track }) {
  const { lens, look, setOpen } = useLens();
  const [search, setSearch] = useState("");
  const accounts = useQuery({
    queryKey: ["reach", "accounts", cell, rule, track, lens.moment, search],
    queryFn: () =>
      take(
        api.GET("/api/rules/accounts", {
          params: { query: { ...placeOf(cell), rule, track, search, ...(lens.moment && { moment: lens.moment }) } },
        }),
      ),
    placeholderData: (before) => before,
    meta: { followsDrafts: true },
  });
  const listed = accounts.data?.accounts ?? [];
  return (
    <>
      <input
        aria-label="Find among these accounts"
        placeholder="Find a name or address"
        className="mt-1 min-h-7 w-full rounded-[4px] border border-field bg-sheet px-2 text-second"
        value={search}
        onChange={(event) => setSearch(event.target.value)}
      />
      <ul className="mt-1 max-h-40 overflow-y-auto text-second">
        {listed.map((account) => (
          <li key={account.address + account.person}>
            <button
              type="button"
              className="grid min-h-6 w-full grid-cols-2 gap-2 text-left hover:bg-fold"
              title="Look through the lens as this account"
              onClick={() => {
                look({ person: account.person, address: account.address, ...placeOf(cell) });
                setOpen(true);
              }}
            >
              <span className="truncate">{account.name}</span>
              <span className="truncate text-soft">{account.address}</span>
            </button>
          </li>
        ))}
        {accounts.data && listed.length === 0 && <li className="text-soft">Nobody is found.</li>}
      </ul>
    </>
  );
}
