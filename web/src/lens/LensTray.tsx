import { useState } from "react";
import type { Api } from "../api/client";
import { Choice, type Option } from "../kit/Choice";
import { sizeText } from "../kit/dates";
import { SignatureFrame } from "../kit/SignatureFrame";
import { Trouble } from "../kit/Trouble";
import { momentText } from "../kit/dates";
import { clientKinds } from "./clientKinds";
import { useLens, useLensAnswer, type Occasion } from "./lensState";
import { PersonPick } from "./PersonPick";

const occasions: readonly Option<Occasion>[] = [
  { value: "new", label: "a new message" },
  { value: "reply", label: "a reply" },
  { value: "forward", label: "a forward" },
];

type Form = "rich" | "dark" | "text";

const forms: readonly Option<Form>[] = [
  { value: "rich", label: "rich, light" },
  { value: "dark", label: "rich, dark" },
  { value: "text", label: "plain text" },
];

/** The tray at the bottom of every screen: whose signature, from where, for what; and what comes out. */
export function LensTray() {
  const { lens, look, isOpen, setOpen } = useLens();
  const answer = useLensAnswer(lens);
  const data = answer.data;
  return (
    <section
      aria-label="Lens"
      className={`flex shrink-0 flex-col border-t-2 border-lens bg-sheet ${isOpen ? "h-[36vh] min-h-64" : "h-11"}`}
    >
      <div className="flex h-[42px] shrink-0 items-center gap-2.5 px-6 text-second text-soft">
        {data?.person ? (
          <>
            <span>Seen as</span>
            <PersonPick
              label="Person to look as"
              look="lens"
              name={data.person.name}
              onPick={(person) => look({ person: person.id })}
            />
            <span>from</span>
            {data.person.addresses.length > 0 ? (
              <Choice
                label="Account"
                look="lens"
                upward
                value={data.address}
                options={data.person.addresses.map((address) => ({ value: address, label: address }))}
                onChange={(address) => look({ address })}
              />
            ) : (
              <span>no address</span>
            )}
            <span>in</span>
            <Choice
              label="Occasion"
              look="lens"
              upward
              value={lens.occasion}
              options={occasions}
              onChange={(occasion) => look({ occasion })}
            />
            <span>to</span>
            <Choice
              label="Audience"
              look="lens"
              upward
              value={lens.audience}
              options={data.audiences.map((audience) => ({ value: audience.key, label: audience.name }))}
              onChange={(audience) => look({ audience })}
            />
            <span>on the</span>
            <Choice
              label="Client kind"
              look="lens"
              upward
              value={lens.client}
              options={clientKinds}
              onChange={(client) => look({ client })}
            />
            {lens.moment ? (
              <button
                type="button"
                className="min-h-6 font-semibold text-lens hover:underline"
                title="Back to now"
                onClick={() => look({ moment: "" })}
              >
                at {momentText(lens.moment)}
              </button>
            ) : (
              <span>now</span>
            )}
          </>
        ) : (
          <span>{answer.isError ? "The lens shows nothing." : "Nobody to look as yet: add people first."}</span>
        )}
        <button
          type="button"
          aria-expanded={isOpen}
          aria-keyshortcuts="L"
          onClick={() => setOpen(!isOpen)}
          className="ml-auto flex min-h-6 items-center gap-2 text-ink hover:underline"
        >
          <Outcome data={data} />
          <kbd>{isOpen ? "L closes" : "L opens"}</kbd>
        </button>
      </div>
      {isOpen && (data ? <Opened data={data} /> : <Trouble error={answer.error} />)}
    </section>
  );
}

function Outcome({ data }: { data: Api["LensAnswer"] | undefined }) {
  if (!data) return <span>…</span>;
  if (!data.signature) return <span className="font-semibold">no signature</span>;
  return (
    <span>
      <b className="font-semibold">{data.signature.name}</b> · {sizeText(data.signature.bytes)}
    </span>
  );
}

function Opened({ data }: { data: Api["LensAnswer"] }) {
  const [form, setForm] = useState<Form>("rich");
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[1fr_400px] gap-7 border-t border-line px-6 py-3">
      <div className="flex min-h-0 gap-5">
        <div role="radiogroup" aria-label="Form" className="flex w-24 shrink-0 flex-col gap-1 text-second">
          {forms.map((option) => (
            <button
              key={option.value}
              type="button"
              role="radio"
              aria-checked={form === option.value}
              onClick={() => setForm(option.value)}
              className={`min-h-6 text-left ${form === option.value ? "font-semibold text-lens" : "text-soft hover:text-ink"}`}
            >
              {option.label}
            </button>
          ))}
        </div>
        <div
          className={`min-w-0 flex-1 border-l-[3px] border-line pl-4 ${form === "dark" ? "bg-mail-dark" : form === "rich" ? "bg-mail-light" : ""}`}
        >
          <Shown signature={data.signature} form={form} />
        </div>
      </div>
      <Trace trace={data.trace} />
    </div>
  );
}

function Shown({ signature, form }: { signature: Api["LensAnswer"]["signature"]; form: Form }) {
  if (!signature) return <p className="py-2 text-soft">Nothing is carried here.</p>;
  if (form === "text")
    return (
      <pre
        className="h-full overflow-auto font-mono text-second whitespace-pre"
        tabIndex={0}
        aria-label="Signature as plain text"
      >
        {signature.text}
      </pre>
    );
  return (
    <SignatureFrame
      html={signature.html}
      title="Signature as the recipient sees it"
      dark={form === "dark" ? signature.dark : null}
    />
  );
}

const outcomeWords: Record<Api["TraceOutcome"], string> = {
  matched: "Decides",
  failed: "Passed over",
  switchedOff: "Switched off",
  notReached: "Not reached",
};

const trackWords: Record<Api["Track"], { title: string; matched: string }> = {
  signature: { title: "Why this one", matched: "Decides" },
  disclaimer: { title: "Disclaimers", matched: "Adds" },
  banner: { title: "Banners", matched: "Shows" },
};

function Trace({ trace }: { trace: Api["LensAnswer"]["trace"] }) {
  return (
    <div className="min-h-0 overflow-y-auto text-second" tabIndex={0} role="region" aria-label="Why">
      {trace.length === 0 && <p className="text-soft">There are no rules, so nothing is carried.</p>}
      {(["signature", "disclaimer", "banner"] as const).map((track) => {
        const steps = trace.filter((step) => step.track === track);
        if (steps.length === 0) return null;
        return (
          <section key={track} aria-label={trackWords[track].title} className="mb-2">
            <h2 className="font-semibold">{trackWords[track].title}</h2>
            <ol>
              {steps.map((step) => (
                <Step key={step.rule} step={step} matched={trackWords[track].matched} />
              ))}
            </ol>
          </section>
        );
      })}
    </div>
  );
}

function Step({ step, matched }: { step: Api["LensTraceStep"]; matched: string }) {
  const isMatch = step.outcome === "matched";
  return (
    <li className={`grid grid-cols-[24px_1fr] py-1 ${isMatch ? "text-ink" : "text-soft"}`}>
      <span className={isMatch ? "font-semibold" : ""}>{step.number}</span>
      <span>
        <span className={isMatch ? "font-semibold" : ""}>{step.sentence}</span>
        <br />
        {isMatch ? matched : outcomeWords[step.outcome]}
        {step.outcome !== "switchedOff" && `: ${step.reason}`}
      </span>
    </li>
  );
}
