import type { Api } from "../api/client";

/** Where a client stands, as it is shown: one that was not heard of for long is silent. */
export type ShownState = Api["DeliveryState"] | "silent";

const states: Record<ShownState, { word: string; colour: string }> = {
  inPlace: { word: "in place", colour: "text-pine" },
  onItsWay: { word: "on its way", colour: "text-ochre" },
  waits: { word: "waits", colour: "text-ochre" },
  drifted: { word: "drifted", colour: "text-madder" },
  failed: { word: "failed", colour: "text-madder" },
  silent: { word: "silent", colour: "text-soft" },
};

/** Every state, in the order in which they are told. */
export const shownStates: readonly ShownState[] = ["inPlace", "onItsWay", "waits", "drifted", "failed", "silent"];

/** The word for a state. */
export function stateWord(state: ShownState) {
  return states[state].word;
}

/** The text colour of a state, always with its word or its mark. */
export function stateColour(state: ShownState) {
  return states[state].colour;
}

/** Relevo's state mark: a small bar whose form tells the state, with its word as accessible name. */
export function StateBar({ state }: { state: ShownState }) {
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

function Shape({ state }: { state: ShownState }) {
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
    case "silent":
      return <path d="M1.5 4.5 H14.5" stroke="currentColor" strokeWidth="1.5" strokeDasharray="2 2" />;
  }
}
