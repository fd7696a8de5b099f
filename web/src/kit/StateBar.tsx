import type { Api } from "../api/client";

export type DeliveryState = Api["DeliveryState"];

const states: Record<DeliveryState, { word: string; colour: string }> = {
  inPlace: { word: "in place", colour: "text-pine" },
  onItsWay: { word: "on its way", colour: "text-ochre" },
  waits: { word: "waits", colour: "text-ochre" },
  drifted: { word: "drifted", colour: "text-madder" },
  failed: { word: "failed", colour: "text-madder" },
};

/** The word for a state. */
export function stateWord(state: DeliveryState) {
  return states[state].word;
}

/** Relevo's state mark: a small bar whose form tells the state, with its word as accessible name. */
export function StateBar({ state }: { state: DeliveryState }) {
  return (
    <svg
      width="16"
      height="9"
      viewBox="0 0 16 9"
      role="img"
      aria-label={states[state].word}
      className={`inline-block shrink-0 ${states[state].colour}`}
    >
      <title>{states[state].word}</title>
      <Shape state={state} />
    </svg>
  );
}

function Shape({ state }: { state: DeliveryState }) {
  const outline = <rect x="1.5" y="2.5" width="13" height="4" rx="0.5" fill="none" stroke="currentColor" />;
  switch (state) {
    case "inPlace":
      return <rect x="1" y="2" width="14" height="5" rx="1" fill="currentColor" />;
    case "onItsWay":
      return (
        <>
          {outline}
          <rect x="1" y="2" width="7" height="5" rx="1" fill="currentColor" />
        </>
      );
    case "waits":
      return outline;
    case "drifted":
      return (
        <>
          <rect x="1" y="0.5" width="6.5" height="5" rx="1" fill="currentColor" />
          <rect x="8.5" y="3.5" width="6.5" height="5" rx="1" fill="currentColor" />
        </>
      );
    case "failed":
      return (
        <>
          {outline}
          <path d="M2 8 L14 1" stroke="currentColor" strokeWidth="1.5" />
        </>
      );
  }
}
