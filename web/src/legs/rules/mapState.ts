import type { Api } from "../../api/client";
import type { RuleSet, Track } from "./ruleState";
import type { RuleNames } from "./useRules";

/** What accounts of a square get: by which rule, called what, and how many. rule: from 0, or -1 for none. */
export type Share = { rule: number; name: string; kind: "design" | "nothing" | "hole"; accounts: number };

/** What a rule of a track leads to, in a few words. */
export function outcomeName(rule: RuleSet[Track][number], names: RuleNames): string {
  const find = (all: readonly { value: string; label: string }[], id: string) =>
    all.find((one) => one.value === id)?.label ?? "what is gone";
  switch (rule.then.kind) {
    case "designs":
      return rule.then.designs.map((id) => find(names.designs, id)).join(", ");
    case "disclaimers":
      return rule.then.disclaimers.map((id) => find(names.disclaimers, id)).join(", ");
    case "banner":
      return find(names.banners, rule.then.banner);
    case "stop":
      return "No further disclaimer";
    case "nothing":
      return "Nothing";
  }
}

/** A square's shares, the largest first; those without a signature stand among them. Rules that lead to the same thing stay apart, because each can be asked why. */
export function squareShares(
  square: Pick<Api["SquareAnswer"], Track | "holes">,
  rules: RuleSet,
  track: Track,
  names: RuleNames,
): readonly Share[] {
  const shares = square[track].flatMap((accounts, index): Share[] => {
    const rule = rules[track][index];
    if (!rule || accounts === 0) return [];
    const isNothing = rule.then.kind === "nothing" || rule.then.kind === "stop";
    return [{ rule: index, name: outcomeName(rule, names), kind: isNothing ? "nothing" : "design", accounts }];
  });
  if (track === "signature" && square.holes > 0)
    shares.push({ rule: -1, name: "No signature", kind: "hole", accounts: square.holes });
  return shares.sort((left, right) => right.accounts - left.accounts || left.rule - right.rule);
}

/** A finding about a rule as it stands under the rule itself: "Rule 5 never wins" is "Never wins" there. */
export function withoutNumber(message: string) {
  const said = message.replace(/^Rule \d+ /, "");
  return said.charAt(0).toUpperCase() + said.slice(1);
}

/** What a rule set comes to, as the sentence under the page's title. */
export function summary(accounts: number, rules: number, findings: readonly Pick<Api["ReachFinding"], "code">[]) {
  const holes = findings.filter((finding) => finding.code === "hole").length;
  const dead = findings.filter((finding) => finding.code === "dead").length;
  const said = [
    `${rules} ${rules === 1 ? "rule decides" : "rules decide"} for ${accounts} ${accounts === 1 ? "account" : "accounts"}.`,
    holes === 0
      ? "No kind of message leaves without a decision."
      : `${holes === 1 ? "One kind of message leaves" : `${holes} kinds of message leave`} without a signature.`,
    dead === 0 ? "" : dead === 1 ? "One rule never wins." : `${dead} rules never win.`,
  ];
  return said.filter(Boolean).join(" ");
}
