const day = new Intl.DateTimeFormat("en-GB", { day: "numeric", month: "short", year: "numeric" });
const time = new Intl.DateTimeFormat("en-GB", { hour: "2-digit", minute: "2-digit", second: "2-digit" });

/** 24 Nov 2026 */
export function dateText(iso: string) {
  return day.format(new Date(iso));
}

/** 24 Nov 2026, 14:03:07 */
export function momentText(iso: string) {
  return `${dateText(iso)}, ${time.format(new Date(iso))}`;
}

/** 14:03:07 */
export function timeText(iso: string) {
  return time.format(new Date(iso));
}

/** 1.9 KB, 1.9 MB; sizes are shown in thousands of bytes, and in thousands of those. */
export function sizeText(bytes: number) {
  if (bytes < 1000) return `${bytes} bytes`;
  return bytes < 999_950 ? `${(bytes / 1000).toFixed(1)} KB` : `${(bytes / 1_000_000).toFixed(1)} MB`;
}
