import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { useState } from "react";
import { api, ifMatch, take, type Api } from "../../api/client";
import { count } from "../../frame/legs";
import { Button } from "../../kit/Button";
import { Choice } from "../../kit/Choice";
import { SignatureFrame } from "../../kit/SignatureFrame";
import { Tick } from "../../kit/Ticks";
import { Trouble } from "../../kit/Trouble";
import { useLens, useLensAnswer } from "../../lens/lensState";
import { ownZone, TimeEditor } from "../rules/TimeEditor";
import { newDisclaimer } from "./disclaimerState";
import { DocumentPage, LostDraft, TakeOut, usedWords } from "./DocumentPage";
import { useDocument, type DocumentDoor } from "./useDocument";

type Disclaimer = Api["Disclaimer"];

const door: DocumentDoor<Disclaimer> = {
  kind: "disclaimer",
  read: (id) => take(api.GET("/api/disclaimers/{id}", { params: { path: { id } } })),
  save: (id, body, revision) =>
    take(api.PUT("/api/disclaimers/{id}", { params: { path: { id } }, body, ...ifMatch(revision) })),
};

const choices = [
  { value: "person", label: "the sender’s language" },
  { value: "audience", label: "the readers’ language" },
  { value: "both", label: "both languages" },
] as const;

/** Disclaimers: their texts by language, when they are valid, and what the law asks to be stated. */
export function Disclaimers() {
  const disclaimers = useQuery({
    queryKey: ["disclaimers"],
    queryFn: () => take(api.GET("/api/disclaimers")),
    meta: { followsDrafts: true },
  });
  return (
    <DocumentPage
      title="What must be said"
      noun="disclaimer"
      label="Disclaimers"
      address="/designs/disclaimers"
      list={disclaimers}
      queryKey="disclaimers"
      lede={(all) => `${count(all.length, "disclaimer", "disclaimers")}; rules say who adds which.`}
      about={(one) => usedWords(one.usedBy, "disclaimer")}
      add={(taken) => take(api.POST("/api/disclaimers", { body: newDisclaimer(taken) }))}
      columns="grid-cols-[230px_1fr_400px]"
      empty={
        <>
          {" "}
          A disclaimer is a notice under the signature, in as many languages as are needed, with fields like{" "}
          {"{organisation}"}. Rules on the disclaimer track say who adds it for whom.
        </>
      }
    >
      {(shown) => (
        <>
          <DisclaimerEditor key={shown} id={shown} />
          <div className="flex min-h-0 flex-col gap-4 overflow-y-auto">
            <ThroughLens />
            <Particulars />
          </div>
        </>
      )}
    </DocumentPage>
  );
}

function DisclaimerEditor({ id }: { id: string }) {
  const { draft, error, failure, reload, change } = useDocument(door, id);
  const [language, setLanguage] = useState<string | null>(null);
  const [fresh, setFresh] = useState("");
  if (!draft) return <Trouble error={error} />;
  const { value } = draft;
  const languages = Object.keys(value.texts);
  const shown = language && value.texts[language] ? language : (languages[0] ?? null);
  const text = shown ? value.texts[shown] : undefined;
  const setText = (next: Partial<Api["DisclaimerText"]>, mergeKey: string) =>
    shown &&
    text &&
    change(
      "text of a disclaimer",
      { ...value, texts: { ...value.texts, [shown]: { ...text, ...next } } },
      `${mergeKey} ${shown}`,
    );
  const addLanguage = () => {
    const added = fresh.trim();
    if (added === "" || value.texts[added]) return;
    change("add a language", {
      ...value,
      mainLanguage: languages.length === 0 ? added : value.mainLanguage,
      texts: { ...value.texts, [added]: { rich: "…", plain: "" } },
    });
    setLanguage(added);
    setFresh("");
  };
  const box = "w-full rounded-[4px] border border-field bg-sheet px-2.5 py-1";
  return (
    <div className="flex min-h-0 flex-col gap-3 overflow-y-auto px-1 pb-2">
      <LostDraft failure={failure} reload={reload} />
      <label className="flex flex-col gap-0.5">
        <span className="text-second text-soft">Name</span>
        <input
          className={`${box} min-h-8`}
          value={value.name}
          onChange={(event) => change("name a disclaimer", { ...value, name: event.target.value }, "name")}
        />
      </label>
      <Tick
        label="begins with the legal entity’s particulars"
        isOn={value.hasParticulars ?? false}
        onChange={(hasParticulars) => change("particulars of a disclaimer", { ...value, hasParticulars })}
      />
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-line pb-1">
        {languages.map((one) => (
          <button
            key={one}
            type="button"
            aria-pressed={one === shown}
            className={`min-h-6 ${one === shown ? "border-b-2 border-ink font-semibold" : "text-soft hover:text-ink"}`}
            onClick={() => setLanguage(one)}
          >
            {one}
            {one === value.mainLanguage && <span className="text-small font-normal text-soft"> main</span>}
          </button>
        ))}
        <form
          className="flex items-center gap-1"
          onSubmit={(event) => {
            event.preventDefault();
            addLanguage();
          }}
        >
          <input
            aria-label="New language"
            placeholder="de"
            className="min-h-6 w-14 rounded-[3px] border border-field bg-sheet px-1.5 text-second"
            value={fresh}
            onChange={(event) => setFresh(event.target.value)}
          />
          <Button type="submit" look="quiet" disabled={fresh.trim() === ""}>
            add a language
          </Button>
        </form>
      </div>
      {shown && text && (
        <>
          <label className="flex flex-col gap-0.5">
            <span className="text-second text-soft">Text in {shown}</span>
            <textarea
              className={`${box} min-h-36 leading-relaxed`}
              value={text.rich}
              onChange={(event) => setText({ rich: event.target.value }, "rich")}
            />
          </label>
          <p className="text-small text-soft">
            **bold**, *italic*, [words](https://address), and fields in braces like {"{organisation}"}. A line whose
            fields are all empty disappears.
          </p>
          <label className="flex flex-col gap-0.5">
            <span className="text-second text-soft">In plain text</span>
            <textarea
              className={`${box} min-h-16`}
              placeholder="the same"
              value={text.plain}
              onChange={(event) => setText({ plain: event.target.value }, "plain")}
            />
          </label>
          <div className="flex gap-2">
            {shown !== value.mainLanguage && (
              <Button onClick={() => change("main language", { ...value, mainLanguage: shown })}>
                For everybody else too
              </Button>
            )}
            <Button
              look="quiet"
              onClick={() => {
                const texts = Object.fromEntries(Object.entries(value.texts).filter(([one]) => one !== shown));
                const mainLanguage = value.mainLanguage === shown ? (Object.keys(texts)[0] ?? "") : value.mainLanguage;
                change("take out a language", { ...value, texts, mainLanguage });
              }}
            >
              Take {shown} out
            </Button>
          </div>
        </>
      )}
      <div>
        It is written in{" "}
        <Choice
          label="Language"
          look="condition"
          value={value.language}
          options={choices}
          onChange={(chosen) => change("language of a disclaimer", { ...value, language: chosen })}
        />
        .
      </div>
      <Tick
        label="valid only for a time"
        isOn={value.valid != null}
        onChange={(isOn) => change("validity of a disclaimer", { ...value, valid: isOn ? { zone: ownZone } : null })}
      />
      {value.valid && (
        <TimeEditor
          time={value.valid}
          onChange={(valid) => change("validity of a disclaimer", { ...value, valid }, "valid")}
        />
      )}
      <div className="flex items-center gap-2">
        <TakeOut
          address="/designs/disclaimers"
          queryKey="disclaimers"
          remove={() =>
            take(api.DELETE("/api/disclaimers/{id}", { params: { path: { id } }, ...ifMatch(draft.revision) }))
          }
        />
      </div>
    </div>
  );
}

/** What the lens’s person sends just now, notices and all. */
export function ThroughLens() {
  const { lens } = useLens();
  const answer = useLensAnswer(lens);
  return (
    <section aria-label="Through the lens" className="rounded-[6px] border border-line bg-sheet">
      <p className="border-b border-line px-4 py-1.5 text-second">
        <b className="font-semibold">Through the lens</b>{" "}
        <span className="text-soft">
          {[...(answer.data?.disclaimers ?? []), ...(answer.data?.banners ?? [])].join(", ") || "nothing is added"}
        </span>
      </p>
      <div className="bg-mail-light px-4 py-2.5">
        {answer.data?.signature ? (
          <SignatureFrame html={answer.data.signature.html} title="Signature through the lens" dark={null} grows />
        ) : (
          <p className="text-soft">No signature here.</p>
        )}
      </div>
    </section>
  );
}

/** What each legal entity states, and what it lacks. */
function Particulars() {
  const particulars = useQuery({
    queryKey: ["particulars"],
    queryFn: () => take(api.GET("/api/particulars")),
    meta: { followsDrafts: true },
  });
  return (
    <section aria-label="Particulars">
      <h2 className="font-semibold">Particulars</h2>
      <p className="text-second text-soft">
        Written from each legal entity’s record by its country’s scheme. The lists are from memory of the law.{" "}
        <Link to="/people/company" className="underline">
          Company facts
        </Link>
      </p>
      <ul>
        {particulars.data?.map((entity) => (
          <li key={entity.entity} className="border-b border-line py-2">
            <p className="font-semibold">
              {entity.name} <span className="font-normal text-soft">{entity.scheme}</span>
            </p>
            <p className="text-second">{entity.line}</p>
            {entity.missing.length > 0 && (
              <ul className="mt-1 text-second text-madder">
                {entity.missing.map((item) => (
                  <li key={item.code}>
                    {item.label} is missing. <span className="text-soft">{item.source}</span>
                  </li>
                ))}
              </ul>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
