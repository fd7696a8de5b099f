import { useEffect, useRef, useState } from "react";
import { listenForDrag, type Drop } from "./rowDrag";

/** What an editor does on the rendered signature. */
export type OnSignature = {
  /** A block was pointed at. */
  onSelect: (block: string) => void;
  /** A block was dragged beside another. */
  onDrop: (drop: Drop) => void;
  /** A literal text was typed over. */
  onType: (block: string, place: string, text: string) => void;
};

type SignatureFrameProps = {
  html: string;
  title: string;
  /** Text colours and what becomes of them where mail is shown dark; given when it is to be shown so. */
  dark?: Readonly<Record<string, string>> | null;
  /** For an editor: the block that is selected, and what may be done. The HTML's rows name their blocks. */
  selected?: string | null;
  edit?: OnSignature;
  /** True for a frame as high as what stands in it. */
  grows?: boolean;
};

/**
 * Shows a signature as a recipient would see it: in a sandboxed frame without scripts and without this page's styles. Pictures lie under
 * /pictures, as beside the file on a computer. Where it is edited or measured, this page may look into the frame; nothing in it can run.
 */
export function SignatureFrame({
  html,
  title,
  dark = null,
  selected = null,
  edit,
  grows = false,
}: SignatureFrameProps) {
  const frame = useRef<HTMLIFrameElement>(null);
  const observer = useRef<ResizeObserver>(null);
  const [height, setHeight] = useState<number | null>(null);
  const page = signaturePage(html, title, dark);
  const latest = useRef({ edit, selected });
  useEffect(() => {
    latest.current = { edit, selected };
    mark(frame.current, selected);
  }, [edit, selected, page]);
  useEffect(() => () => observer.current?.disconnect(), []);
  const listen = () => {
    const body = frame.current?.contentDocument?.body;
    if (!body) return;
    if (grows) {
      observer.current?.disconnect();
      observer.current = new ResizeObserver(() => setHeight(body.offsetHeight));
      observer.current.observe(body);
    }
    if (!latest.current.edit) return;
    const block = (event: Event) => (event.target as Element).closest("[data-block]");
    mark(frame.current, latest.current.selected);
    body.addEventListener("mouseover", (event) => mark(frame.current, latest.current.selected, block(event)));
    body.addEventListener("click", (event) => {
      event.preventDefault();
      const key = block(event)?.getAttribute("data-block");
      if (key) latest.current.edit?.onSelect(key);
    });
    body.ownerDocument.addEventListener("keydown", passOn);
    listenForDrag(body, (drop) => latest.current.edit?.onDrop(drop));
    listenForTyping(body, (key, place, text) => latest.current.edit?.onType(key, place, text));
  };
  return (
    <iframe
      ref={frame}
      title={title}
      sandbox={edit || grows ? "allow-same-origin" : ""}
      srcDoc={page}
      onLoad={listen}
      style={grows && height !== null ? { height } : undefined}
      className={`block w-full border-0 ${grows ? "" : "h-full"} ${dark ? "bg-mail-dark" : "bg-mail-light"}`}
    />
  );
}

function token(name: string) {
  return getComputedStyle(document.documentElement).getPropertyValue(name);
}

/** The page round a signature. */
export function signaturePage(html: string, title: string, dark: Readonly<Record<string, string>> | null) {
  const shown = dark ? recoloured(html, dark) : html;
  const paper = token(dark ? "--color-mail-dark" : "--color-mail-light");
  return `<!doctype html><html lang="en"><head><meta charset="utf-8"><base href="${location.origin}/" target="_blank"><title>${title}</title></head><body style="margin:0;padding:2px;background:${paper}">${shown}</body></html>`;
}

/** A signature's text colours as dark mail has them; grounds and lines stay. */
export function recoloured(html: string, dark: Readonly<Record<string, string>>) {
  return html.replace(
    /(?<![-a-z])color:(#[0-9a-f]{6})/gi,
    (whole, colour: string) => `color:${dark[colour] ?? whole.slice(6)}`,
  );
}

/** A key pressed in the frame is one of this page's: undo, the legs, the lens. */
function passOn(event: KeyboardEvent) {
  const passed = new KeyboardEvent(event.type, event);
  document.body.dispatchEvent(passed);
  if (passed.defaultPrevented) event.preventDefault();
}

/** A double click on a text that is the same for everybody lets it be typed over; Enter or leaving it keeps it, Escape does not. */
function listenForTyping(body: HTMLElement, onType: OnSignature["onType"]) {
  body.addEventListener("dblclick", (event) => {
    const text = (event.target as Element).closest<HTMLElement>("[data-text]");
    const key = text?.closest("[data-block]")?.getAttribute("data-block");
    if (!text || !key || text.isContentEditable) return;
    const before = text.textContent;
    const keep = () => {
      const typed = text.textContent.replace(/[\r\n\t]+/g, " ");
      text.contentEditable = "false";
      if (typed !== before) onType(key, text.getAttribute("data-text") ?? "", typed);
    };
    text.contentEditable = "plaintext-only";
    text.focus();
    body.ownerDocument.getSelection()?.selectAllChildren(text);
    text.addEventListener("keydown", (pressed) => {
      pressed.stopPropagation();
      if (pressed.key !== "Enter" && pressed.key !== "Escape") return;
      pressed.preventDefault();
      if (pressed.key === "Escape") text.textContent = before;
      text.blur();
    });
    text.addEventListener("blur", keep, { once: true });
  });
}

/** Outlines the selected block and the one under the pointer; the frame's policy lets no style sheet in, so each row is told by itself. */
function mark(frame: HTMLIFrameElement | null, selected: string | null, under: Element | null = null) {
  for (const row of frame?.contentDocument?.querySelectorAll<HTMLElement>("[data-block]") ?? []) {
    const isSelected = row.getAttribute("data-block") === selected;
    row.style.cursor = "pointer";
    row.style.outline = isSelected
      ? `2px solid ${token("--color-baton")}`
      : row === under
        ? `1px dashed ${token("--color-baton")}`
        : "";
  }
}
