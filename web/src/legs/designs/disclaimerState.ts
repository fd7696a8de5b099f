import type { Api } from "../../api/client";

/** The name with a number after it where it is taken. */
export function freeName(name: string, taken: readonly string[]) {
  for (let number = 1; ; number += 1) {
    const tried = number === 1 ? name : `${name} ${number}`;
    if (!taken.includes(tried)) return tried;
  }
}

/** A disclaimer to begin with, under a name that no other has. */
export function newDisclaimer(taken: readonly string[]): Api["Disclaimer"] {
  return {
    name: freeName("New disclaimer", taken),
    language: "person",
    mainLanguage: "en",
    texts: { en: { rich: "This message is for the person it is addressed to.", plain: "" } },
  };
}

/** A banner to begin with, under a name that no other has. */
export function newBanner(taken: readonly string[]): Api["Banner"] {
  return {
    name: freeName("New banner", taken),
    layout: "stacked",
    headline: "A headline",
    text: "",
    linkLabel: "Read more",
    link: "https://your-page.example",
  };
}

/** The days of a month as a calendar shows them: whole weeks from Monday, with null outside the month. */
export function weeksOf(year: number, month: number): (string | null)[][] {
  const days = new Date(Date.UTC(year, month, 0)).getUTCDate();
  const before = (new Date(Date.UTC(year, month - 1, 1)).getUTCDay() + 6) % 7;
  const cells = [
    ...Array.from({ length: before }, () => null),
    ...Array.from(
      { length: days },
      (_, day) => `${year}-${String(month).padStart(2, "0")}-${String(day + 1).padStart(2, "0")}`,
    ),
  ];
  while (cells.length % 7 > 0) cells.push(null);
  return Array.from({ length: cells.length / 7 }, (_, week) => cells.slice(week * 7, week * 7 + 7));
}
