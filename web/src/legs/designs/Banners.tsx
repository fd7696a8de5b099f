import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, ifMatch, take, type Api } from "../../api/client";
import { count } from "../../frame/legs";
import { Button } from "../../kit/Button";
import { SignatureFrame } from "../../kit/SignatureFrame";
import { Tick } from "../../kit/Ticks";
import { Trouble } from "../../kit/Trouble";
import { ownZone, TimeEditor } from "../rules/TimeEditor";
import { newBanner, weeksOf } from "./disclaimerState";
import { ThroughLens } from "./Disclaimers";
import { DocumentPage, LostDraft, TakeOut, usedWords } from "./DocumentPage";
import { Library } from "./Library";
import { useDocument, type DocumentDoor } from "./useDocument";

type Banner = Api["Banner"];

const door: DocumentDoor<Banner> = {
  kind: "banner",
  read: (id) => take(api.GET("/api/banners/{id}", { params: { path: { id } } })),
  save: (id, body, revision) =>
    take(api.PUT("/api/banners/{id}", { params: { path: { id } }, body, ...ifMatch(revision) })),
};

const stateWords: Record<string, string> = {
  running: "runs now",
  ahead: "has not begun",
  over: "is over",
  resting: "rests now",
};

const layoutWords: Record<Api["BannerLayout"], string> = {
  picture: "A picture",
  stacked: "Above each other",
  oneLine: "In one line",
  buttonBeside: "Button beside",
  buttonBelow: "Button below",
  betweenLines: "Between lines",
  onColour: "On colour",
  withBar: "With a bar",
};

/** Banners: what they say, how they are drawn, when they run. */
export function Banners() {
  const banners = useQuery({
    queryKey: ["banners"],
    queryFn: () => take(api.GET("/api/banners")),
    meta: { followsDrafts: true },
  });
  return (
    <DocumentPage
      title="What runs under signatures"
      noun="banner"
      label="Banners"
      address="/designs/banners"
      list={banners}
      queryKey="banners"
      lede={(all) =>
        `${count(all.length, "banner", "banners")}, ${all.filter((one) => one.state === "running").length} running now.`
      }
      about={(one) => `${stateWords[one.state] ?? one.state}, ${usedWords(one.usedBy, "banner")}`}
      add={(taken) => take(api.POST("/api/banners", { body: newBanner(taken) }))}
      columns="grid-cols-[210px_1fr_400px]"
      empty={
        <>
          {" "}
          A banner runs for a while where a design has a place for it. Rules on the banner track say who shows it to
          whom.
        </>
      }
    >
      {(shown) => (
        <>
          <BannerEditor key={shown} id={shown} />
          <div className="flex min-h-0 flex-col gap-4 overflow-y-auto">
            <Calendar />
            <ThroughLens />
          </div>
        </>
      )}
    </DocumentPage>
  );
}

function BannerEditor({ id }: { id: string }) {
  const { draft, error, failure, reload, change } = useDocument(door, id);
  if (!draft) return <Trouble error={error} />;
  const { value } = draft;
  const box = "min-h-8 w-full rounded-[4px] border border-field bg-sheet px-2.5 py-1";
  const text = (label: string, key: "name" | "headline" | "text" | "linkLabel" | "link" | "altText") => (
    <label className="grid grid-cols-[110px_1fr] items-center gap-2">
      <span className="text-second text-soft">{label}</span>
      <input
        className={box}
        value={value[key] ?? ""}
        onChange={(event) => change(`${label.toLowerCase()} of a banner`, { ...value, [key]: event.target.value }, key)}
      />
    </label>
  );
  return (
    <div className="flex min-h-0 flex-col gap-2 overflow-y-auto px-1 pb-2">
      <LostDraft failure={failure} reload={reload} />
      {text("Name", "name")}
      {value.layout === "picture" ? (
        <>
          {text("For the blind", "altText")}
          <Library
            label="Banner picture"
            value={value.sha256 ?? ""}
            onPick={(picture) =>
              change("picture of a banner", {
                ...value,
                sha256: picture.sha256,
                width: picture.width,
                height: picture.height,
                altText: value.altText || picture.name,
              })
            }
          />
        </>
      ) : (
        <>
          {text("Headline", "headline")}
          {text("Text", "text")}
          {text("Link says", "linkLabel")}
        </>
      )}
      {text("Leads to", "link")}
      <Layouts banner={value} onPick={(layout) => change("layout of a banner", { ...value, layout })} />
      <Tick
        label="runs only for a time"
        isOn={value.runs != null}
        onChange={(isOn) => change("time of a banner", { ...value, runs: isOn ? { zone: ownZone } : null })}
      />
      {value.runs && (
        <TimeEditor time={value.runs} onChange={(runs) => change("time of a banner", { ...value, runs }, "runs")} />
      )}
      <div className="flex items-center gap-2">
        <TakeOut
          address="/designs/banners"
          queryKey="banners"
          remove={() => take(api.DELETE("/api/banners/{id}", { params: { path: { id } }, ...ifMatch(draft.revision) }))}
        />
      </div>
    </div>
  );
}

/** The banner in every layout, drawn by the renderer; one is picked by choosing it. */
function Layouts({ banner, onPick }: { banner: Banner; onPick: (layout: Api["BannerLayout"]) => void }) {
  const words = banner.layout === "picture" ? { ...banner, layout: "stacked" as const } : banner;
  const hasWords = words.headline + words.text !== "" && words.linkLabel !== "";
  const drawn = useQuery({
    queryKey: ["drawn", words],
    queryFn: () => take(api.POST("/api/banners/drawn", { params: { query: { width: 250 } }, body: words })),
    placeholderData: (before: Api["DrawnBanner"][] | undefined) => before,
    enabled: hasWords,
    retry: false,
  });
  return (
    <div role="radiogroup" aria-label="Layout" className="grid grid-cols-2 gap-2">
      {drawn.data?.map((one) => (
        <button
          key={one.layout}
          type="button"
          role="radio"
          aria-checked={one.layout === banner.layout}
          onClick={() => onPick(one.layout)}
          className={`flex flex-col overflow-hidden rounded-[4px] border text-left ${one.layout === banner.layout ? "border-baton outline-1 outline-baton" : "border-line hover:border-field"}`}
        >
          <span className="px-2 py-0.5 text-small text-soft">{layoutWords[one.layout]}</span>
          <span className="pointer-events-none block h-20 w-full overflow-hidden bg-mail-light px-2 py-1" aria-hidden>
            <SignatureFrame html={one.html} title={layoutWords[one.layout]} dark={null} />
          </span>
        </button>
      ))}
      <button
        type="button"
        role="radio"
        aria-checked={banner.layout === "picture"}
        onClick={() => onPick("picture")}
        className={`min-h-20 rounded-[4px] border text-second ${banner.layout === "picture" ? "border-baton outline-1 outline-baton" : "border-line text-soft hover:border-field"}`}
      >
        A picture of your own
      </button>
    </div>
  );
}

const month = new Intl.DateTimeFormat("en-GB", { month: "long", year: "numeric", timeZone: "UTC" });

/** What runs when, and for whom. */
function Calendar() {
  const today = new Date();
  const [at, setAt] = useState({ year: today.getUTCFullYear(), month: today.getUTCMonth() + 1 });
  const weeks = weeksOf(at.year, at.month);
  const days = weeks.flat().filter((day) => day !== null);
  const runs = useQuery({
    queryKey: ["banner calendar", at],
    queryFn: () =>
      take(api.GET("/api/banners/calendar", { params: { query: { from: days[0] ?? "", until: days.at(-1) ?? "" } } })),
    placeholderData: (before) => before,
    meta: { followsDrafts: true },
  });
  const step = (by: number) =>
    setAt((before) => {
      const next = new Date(Date.UTC(before.year, before.month - 1 + by, 1));
      return { year: next.getUTCFullYear(), month: next.getUTCMonth() + 1 };
    });
  const all = runs.data ?? [];
  const running = all.filter((run) => run.days.length > 0);
  return (
    <section aria-label="Calendar" className="rounded-[6px] border border-line bg-sheet px-4 py-2.5">
      <header className="flex items-center justify-between">
        <h2 className="font-semibold">{month.format(new Date(Date.UTC(at.year, at.month - 1, 1)))}</h2>
        <span>
          <Button look="quiet" onClick={() => step(-1)}>
            earlier
          </Button>
          <Button look="quiet" onClick={() => step(1)}>
            later
          </Button>
        </span>
      </header>
      <table className="w-full table-fixed border-collapse text-small">
        <thead>
          <tr>
            {["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"].map((day) => (
              <th key={day} className="pb-0.5 text-left font-normal text-soft">
                {day}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {weeks.map((week, index) => (
            <tr key={index}>
              {week.map((day, column) => (
                <td key={column} className="h-9 border-t border-line align-top">
                  {day && Number(day.slice(8))}
                  {day &&
                    running.map((run, lane) =>
                      run.days.includes(day) ? (
                        <span
                          key={run.banner}
                          title={run.name}
                          className="mt-px block h-[5px]"
                          style={{ marginTop: lane === 0 ? 1 : 2 }}
                        >
                          <span className="block h-full bg-baton" style={{ opacity: 1 - lane * 0.28 }} />
                          <span className="sr-only">{run.name}</span>
                        </span>
                      ) : null,
                    )}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      <ul className="mt-1 text-second">
        {running.map((run, lane) => (
          <li key={run.banner} className="flex gap-2 py-0.5">
            <span aria-hidden className="mt-1.5 h-[5px] w-3 shrink-0 bg-baton" style={{ opacity: 1 - lane * 0.28 }} />
            <span>
              <b className="font-semibold">{run.name}</b>{" "}
              <span className="text-soft">{run.for.length > 0 ? run.for.join(" ") : "No rule shows it."}</span>
            </span>
          </li>
        ))}
        {running.length === 0 && <li className="text-soft">Nothing runs in this month.</li>}
      </ul>
    </section>
  );
}
