/** Something one can do from anywhere: the same object serves the palette, the keyboard and the list of keys. */
export type Command = { label: string; keys: string; isAllowed: boolean; run: () => void };

/** How a key press is written in a command's `keys`: "Alt 1", "Ctrl K", "L". */
export function keysOf(event: Pick<KeyboardEvent, "key" | "code" | "altKey" | "ctrlKey" | "metaKey" | "shiftKey">) {
  const digit = /^Digit(\d)$/.exec(event.code)?.[1];
  const key = digit && event.altKey ? digit : event.key.length === 1 ? event.key.toUpperCase() : event.key;
  const isLetter = /^[A-Z]$/.test(key);
  return [
    event.ctrlKey || event.metaKey ? "Ctrl" : "",
    event.altKey ? "Alt" : "",
    event.shiftKey && isLetter ? "Shift" : "",
    key,
  ]
    .filter(Boolean)
    .join(" ");
}

/** True while typing: single letters then belong to the text, or to the open menu or list that is searched by its first letters. */
export function isTyping(target: EventTarget | null) {
  return (
    target instanceof HTMLElement &&
    (target.isContentEditable ||
      ["INPUT", "TEXTAREA", "SELECT"].includes(target.tagName) ||
      target.closest("[role=menu], [role=listbox]") !== null)
  );
}
