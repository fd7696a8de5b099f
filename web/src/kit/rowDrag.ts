/** Where a row was dropped: before or after another. */
export type Drop = { key: string; other: string; side: "before" | "after" };

const beginning = 5; // pixels the pointer moves before a press becomes a drag

/**
 * Lets rows that name their blocks be dragged, in this page or in a frame of its own. A press that does not move stays a press.
 * Every way has its keys too, which are the caller's. Returns what takes the listening away.
 */
export function listenForDrag(root: HTMLElement, onDrop: (drop: Drop) => void): () => void {
  let press: { row: HTMLElement; x: number; y: number; isDrag: boolean } | null = null;
  let over: { row: HTMLElement; side: Drop["side"] } | null = null;
  const keyOf = (row: HTMLElement) => row.getAttribute("data-block") ?? "";
  const show = (next: typeof over) => {
    if (over) over.row.style.boxShadow = "";
    over = next;
    if (over)
      over.row.style.boxShadow = `${over.side === "before" ? "0 -2px" : "0 2px"} 0 ${getComputedStyle(document.documentElement).getPropertyValue("--color-baton")}`;
  };
  const cancel = () => {
    show(null);
    press = null;
  };
  const down = (event: PointerEvent) => {
    const row = (event.target as Element).closest<HTMLElement>("[data-block]");
    if (row && event.button === 0 && !(event.target as HTMLElement).isContentEditable)
      press = { row, x: event.clientX, y: event.clientY, isDrag: false };
  };
  const move = (event: PointerEvent) => {
    if (!press) return;
    // Let go where nobody listened.
    if (event.buttons === 0) {
      cancel();
      return;
    }
    if (!press.isDrag && Math.hypot(event.clientX - press.x, event.clientY - press.y) < beginning) return;
    if (!press.isDrag) press.row.setPointerCapture(event.pointerId);
    press.isDrag = true;
    event.preventDefault();
    const under = root.ownerDocument
      .elementFromPoint(event.clientX, event.clientY)
      ?.closest<HTMLElement>("[data-block]");
    if (!under || under === press.row || !root.contains(under)) {
      show(null);
      return;
    }
    const { top, height } = under.getBoundingClientRect();
    show({ row: under, side: event.clientY < top + height / 2 ? "before" : "after" });
  };
  const up = () => {
    const dropped = press?.isDrag && over ? { key: keyOf(press.row), other: keyOf(over.row), side: over.side } : null;
    const wasDrag = press?.isDrag ?? false;
    show(null);
    press = null;
    // The click that ends a drag chooses nothing.
    if (wasDrag) root.addEventListener("click", swallow, { capture: true, once: true });
    if (wasDrag) setTimeout(() => root.removeEventListener("click", swallow, { capture: true }), 0);
    if (dropped) onDrop(dropped);
  };
  const swallow = (event: Event) => {
    event.preventDefault();
    event.stopPropagation();
  };
  // The browser's own dragging, of links, pictures and selected words, would take the pointer away.
  const own = (event: Event) => {
    if (press || event.type === "dragstart") event.preventDefault();
  };
  root.addEventListener("dragstart", own);
  root.addEventListener("selectstart", own);
  root.addEventListener("pointerdown", down);
  root.addEventListener("pointermove", move);
  root.addEventListener("pointerup", up);
  root.addEventListener("pointercancel", cancel);
  return () => {
    root.removeEventListener("dragstart", own);
    root.removeEventListener("selectstart", own);
    root.removeEventListener("pointerdown", down);
    root.removeEventListener("pointermove", move);
    root.removeEventListener("pointerup", up);
    root.removeEventListener("pointercancel", cancel);
  };
}
