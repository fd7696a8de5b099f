/** The client kinds, by name, and whether each says who will read. */
export const clientKinds = [
  { value: "desk-app", label: "desk app", knowsReaders: false },
  { value: "browser-mailbox", label: "browser mailbox", knowsReaders: false },
  { value: "pocket-app", label: "pocket app", knowsReaders: false },
  { value: "compose-helper", label: "compose helper", knowsReaders: true },
  { value: "relay", label: "relay", knowsReaders: true },
] as const;
