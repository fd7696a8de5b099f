import { keepPreviousData, useQuery } from "@tanstack/react-query";
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
      const value: RuleSet = {
        signature: answer.signature.map((row) => row.rule),
        disclaimer: answer.disclaimer.map((row) => row.rule),
        banner: answer.banner.map((row) => row.rule),
        tests: answer.tests.map((row) => row.test),
      };
      return { revision: answer.revision, value };
    },
    refetchOnMount: "always",
  });
  const sentences = useQuery({
    queryKey: ["rules", "sentences"],
    queryFn: async () => {
      const answer = await take(api.GET("/api/rules"));
      const rows = [...answer.signature, ...answer.disclaimer, ...answer.banner];
      return new Map([
        ...rows.map((row) => [row.rule.id, row.sentence] as const),
        ...answer.tests.map((row) => [row.test.id, row.sentence] as const),
      ]);
    },
    meta: { followsDrafts: true },
  });
  const value = rules.data?.value;
  return {
    rules: value,
    revision: rules.data?.revision ?? 0,
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

/** The map of the kept rules, or of others that are only tried. moment: empty for now. */
export function useReach(trial: RuleSet | null, moment: string) {
  const query = moment ? { moment } : {};
  return useQuery({
    queryKey: ["reach", moment, trial],
    queryFn: () =>
      take(
        trial
          ? api.POST("/api/rules/reach", { params: { query }, body: trial })
          : api.GET("/api/rules/reach", { params: { query } }),
      ),
    placeholderData: keepPreviousData,
    meta: { followsDrafts: true },
  });
}

/** What people read for the things that rules name. */
export function useRuleNames() {
  const designs = useQuery({ queryKey: ["designs"], queryFn: () => take(api.GET("/api/designs")) });
  const disclaimers = useQuery({ queryKey: ["disclaimers"], queryFn: () => take(api.GET("/api/disclaimers")) });
  const banners = useQuery({ queryKey: ["banners"], queryFn: () => take(api.GET("/api/banners")) });
  const audiences = useQuery({
    queryKey: ["audiences", "book"],
    queryFn: () => take(api.GET("/api/audiences")),
    meta: { followsDrafts: true },
  });
  return {
    designs: (designs.data ?? []).map((one) => ({ value: one.id, label: one.name })),
    disclaimers: (disclaimers.data ?? []).map((one) => ({ value: one.id, label: one.document.name })),
    banners: (banners.data ?? []).map((one) => ({ value: one.id, label: one.document.name })),
    audiences: [
      { value: "inside", label: "inside" },
      ...(audiences.data?.book.named ?? []).map((one) => ({ value: one.key, label: one.name })),
      { value: "outside", label: "outside" },
    ],
  };
}

export type RuleNames = ReturnType<typeof useRuleNames>;
