import { useQuery } from "@tanstack/react-query";
import { useCallback } from "react";
import { api, ifMatch, take } from "../../api/client";
import { useDrafts, type DraftData, type DraftDoor } from "../../frame/drafts";
import { reduce, type Design, type DesignAction } from "./designState";

/** The fields designs may use. */
export function useFields() {
  return useQuery({ queryKey: ["fields"], queryFn: () => take(api.GET("/api/fields")), staleTime: Infinity });
}

/** A design's draft, and how to act on it. */
export function useDesign(id: string) {
  const drafts = useDrafts();
  const queryKey = ["design", id];
  const design = useQuery<DraftData<Design>>({
    queryKey,
    queryFn: async () => {
      const answer = await take(api.GET("/api/designs/{id}", { params: { path: { id } } }));
      return { revision: answer.revision, value: answer.document };
    },
    refetchOnMount: "always",
  });
  const value = design.data?.value;
  const act = useCallback(
    (label: string, action: DesignAction, mergeKey = "") => {
      if (!value) return;
      const after = reduce(value, action);
      if (after === value) return;
      const door: DraftDoor = {
        queryKey: ["design", id],
        save: (next, revision) =>
          take(
            api.PUT("/api/designs/{id}", { params: { path: { id } }, body: next as Design, ...ifMatch(revision) }),
          ).then(() => undefined),
      };
      drafts.change(`design/${id}`, door, label, after, mergeKey);
    },
    [drafts, id, value],
  );
  return {
    design: value,
    error: design.error,
    failure: drafts.failures.get(`design/${id}`) ?? null,
    reload: () => drafts.reload(`design/${id}`),
    act,
  };
}
