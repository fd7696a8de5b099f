/** The client kinds, by name. */
export const clientKinds = [
  { value: "desk-app", label: "desk app" },
  { value: "browser-mailbox", label: "browser mailbox" },
  { value: "pocket-app", label: "pocket app" },
  { value: "compose-helper", label: "compose helper" },
  { value: "relay", label: "relay" },
] as const;
