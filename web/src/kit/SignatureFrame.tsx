import { useEffect, useRef } from "react";

type SignatureFrameProps = {
  html: string;
  title: string;
  /** Text colours and what becomes of them where mail is shown dark; given when it is to be shown so. */
  dark?: Readonly<Record<string, string>> | null;
  /** For an editor: the block that is selected, and what to do when another is pointed at. The HTML's rows name their blocks. */
  selected?: string | null;
  onSelect?: (block: string) => void;
};

/**
 * Shows a signature as a recipient would see it: in a sandboxed frame without scripts and without this page's styles. Pictures lie under
 * /pictures, as beside the file on a computer. Where blocks can be pointed at, this page may look into the frame; nothing in it can run.
 */
export function SignatureFrame({ html, title, dark = null, selected = null, onSelect }: SignatureFrameProps) {
  const frame = useRef<HTMLIFrameElement>(null);
  const page = signaturePage(html, title, dark);
  useEffect(() => mark(frame.current, selected), [selected, page]);
  const listen = () => {
    const inside = frame.current?.contentDocument;
    if (!inside || !onSelect) return;
    const block = (event: Event) => (event.target as Element).closest("[data-block]");
    mark(frame.current, selected);
    inside.addEventListener("mouseover", (event) => mark(frame.current, selected, block(event)));
    inside.addEventListener("click", (event) => {
      event.preventDefault();
      const key = block(event)?.getAttribute("data-block");
      if (key) onSelect(key);
    });
  };
  return (
    <iframe
      ref={frame}
      title={title}
      sandbox={onSelect ? "allow-same-origin" : ""}
      srcDoc={page}
      onLoad={listen}
      className={`block h-full w-full border-0 ${dark ? "bg-mail-dark" : "bg-mail-light"}`}
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
