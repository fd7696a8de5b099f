import { useQuery } from "@tanstack/react-query";
import { api, ifMatch, take } from "../../api/client";
import { useDrafts, type DraftData, type DraftDoor } from "../../frame/drafts";
import { reduce, type RuleAction, type RuleSet } from "./ruleState";

const door: DraftDoor = {
  queryKey: ["rules"],
  save: (next, revision) =>
    take(api.PUT("/api/rules", { body: next as RuleSet, ...ifMatch(revision) })).then(() => undefined),
};

/** The rules' draft, their sentences, and how to act on them. */
export function useRules() {
  const drafts = useDrafts();
  const rules = useQuery<DraftData<RuleSet>>({
    queryKey: ["rules"],
    queryFn: async () => {
      const answer = await take(api.GET("/api/rules"));
      return { revision: answer.revision, value: { signature: answer.signature.map((row) => row.rule) } };
    },
    refetchOnMount: "always",
  });
  const sentences = useQuery({
    queryKey: ["rules", "sentences"],
    queryFn: async () =>
      new Map((await take(api.GET("/api/rules"))).signature.map((row) => [row.rule.id, row.sentence])),
    meta: { followsDrafts: true },
  });
  const value = rules.data?.value;
  return {
    rules: value,
    sentences: sentences.data,
    error: rules.error ?? sentences.error,
    failure: drafts.failures.get("rules") ?? null,
    reload: () => drafts.reload("rules"),
    act: (label: string, action: RuleAction) => {
      if (!value) return;
      const after = reduce(value, action);
      if (after !== value) drafts.change("rules", door, label, after);
    },
  };
}
