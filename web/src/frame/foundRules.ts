import type { Api } from "../api/client";

type Found = { track: "signature" | "disclaimer" | "banner"; id: string; sentence: string; hint: string };

/** The rules whose sentence, name, tags or note hold the text, which is in small letters. */
export function foundRules(rules: Pick<Api["RulesAnswer"], Found["track"]> | undefined, text: string): Found[] {
  if (!rules) return [];
  return (["signature", "disclaimer", "banner"] as const).flatMap((track) =>
    rules[track].flatMap(({ rule, sentence }, index): Found[] => {
      const said = sentence.map((piece) => piece.text).join("");
      const words = [said, rule.name ?? "", rule.note ?? "", ...(rule.tags ?? [])].join(" ").toLowerCase();
      return words.includes(text) ? [{ track, id: rule.id, sentence: said, hint: `${track} rule ${index + 1}` }] : [];
    }),
  );
}
