import type { Api } from "../../api/client";

/** The port a server usually listens on. Source: RFC 4513 and the service names registry; 389 and 636. */
export function usualPort(security: Api["LdapSecurity"]) {
  return security === "ldaps" ? 636 : 389;
}

const usual = [0, 15, 60, 240, 1440];

/** How often a source is asked, as words; one that is set otherwise stays among them. */
export function scheduleWords(current: string): readonly { value: string; label: string }[] {
  const minutes = usual.includes(Number(current)) ? usual : [...usual, Number(current)];
  return minutes.map((every) => ({ value: String(every), label: scheduleWord(every) }));
}

/** "every 15 minutes", "every day", "only by hand". */
export function scheduleWord(minutes: number) {
  if (minutes === 0) return "only by hand";
  if (minutes === 1440) return "every day";
  if (minutes % 60 === 0) return minutes === 60 ? "every hour" : `every ${minutes / 60} hours`;
  return `every ${minutes} minutes`;
}
