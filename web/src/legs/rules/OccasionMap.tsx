import type { Api } from "../../api/client";
import { useLens, useLensAnswer } from "../../lens/lensState";

const occasions: readonly { occasion: Api["Occasion"]; label: string }[] = [
  { occasion: "new", label: "New" },
  { occasion: "reply", label: "Reply" },
  { occasion: "forward", label: "Forward" },
];

/** What goes out on each occasion, by the one decision of the server. Rules look at the occasion alone for now, so it holds for every account. */
export function OccasionMap() {
  return (
    <section aria-label="What goes out" className="self-start rounded-[6px] border border-line bg-sheet px-4 py-3.5">
      <h2 className="font-semibold">What goes out</h2>
      <p className="text-second text-soft">
        From every account, on the desk app, now. Choose a square to look through the lens.
      </p>
      <div className="mt-3 grid grid-cols-3 gap-1.5">
        {occasions.map(({ occasion, label }) => (
          <Square key={occasion} occasion={occasion} label={label} />
        ))}
      </div>
    </section>
  );
}

function Square({ occasion, label }: { occasion: Api["Occasion"]; label: string }) {
  const { lens, look, setOpen } = useLens();
  const answer = useLensAnswer({ ...lens, occasion });
  const winner = answer.data?.trace.find((step) => step.outcome === "matched");
  const signature = answer.data?.signature;
  if (answer.data && !answer.data.person)
    return <p className="px-1 text-second text-soft">{label}: nobody to look as yet.</p>;
  const isSeen = lens.occasion === occasion;
  return (
    <div>
      <h3 className="mb-1 px-1 text-second font-semibold">{label}</h3>
      <button
        type="button"
        onClick={() => {
          look({ occasion });
          setOpen(true);
        }}
        className={`block h-16 w-full rounded-[4px] px-2 py-1.5 text-left text-second ${squareLook(signature != null, winner !== undefined)} ${isSeen ? "ring-[1.5px] ring-lens ring-inset" : ""}`}
      >
        <b className={`block font-semibold ${winner ? "" : "text-madder"}`}>
          {signature?.name ?? (winner ? "Nothing" : "No signature")}
        </b>
        <span className="text-small text-soft">{winner ? `rule ${winner.number}` : "no rule matches"}</span>
      </button>
    </div>
  );
}

function squareLook(carries: boolean, isDecided: boolean) {
  if (carries) return "bg-fold";
  return isDecided ? "bg-sheet border border-dashed border-line" : "bg-sheet border-[1.5px] border-madder";
}
