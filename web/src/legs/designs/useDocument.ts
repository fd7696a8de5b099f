import { useQuery } from "@tanstack/react-query";
import { useCallback } from "react";
import { useDrafts, type DraftData, type DraftDoor } from "../../frame/drafts";

/** How documents of one kind are read and saved. */
export type DocumentDoor<T> = {
  /** One word, such as "answer"; the list's query is called by its plural. */
  kind: string;
  read: (id: string) => Promise<{ revision: number; document: T }>;
  save: (id: string, document: T, revision: number) => Promise<unknown>;
};

/** A document's draft, and how to change it. */
export function useDocument<T>(door: DocumentDoor<T>, id: string) {
  const drafts = useDrafts();
  const draft = useQuery<DraftData<T>>({
    queryKey: [door.kind, id],
    queryFn: async () => {
      const found = await door.read(id);
      return { revision: found.revision, value: found.document };
    },
    refetchOnMount: "always",
  });
  const change = useCallback(
    (label: string, next: T, mergeKey = "") => {
      const own: DraftDoor = {
        queryKey: [door.kind, id],
        save: (value, revision) => door.save(id, value as T, revision).then(() => undefined),
      };
      drafts.change(`${door.kind}/${id}`, own, label, next, mergeKey);
    },
    [drafts, door, id],
  );
  return {
    draft: draft.data,
    error: draft.error,
    failure: drafts.failures.get(`${door.kind}/${id}`) ?? null,
    reload: () => drafts.reload(`${door.kind}/${id}`),
    change,
  };
}
