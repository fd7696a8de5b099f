import { useQuery } from "@tanstack/react-query";
import { api, take } from "../../api/client";

/** The pictures designs may choose from. */
export function useLibrary() {
  return useQuery({ queryKey: ["pictures"], queryFn: () => take(api.GET("/api/pictures")) });
}

/** Says every ten seconds that this design is open here, and hears who else has it open. */
export function useOtherEditors(id: string) {
  return useQuery({
    queryKey: ["editors", id],
    queryFn: () => take(api.POST("/api/designs/{id}/editors", { params: { path: { id } } })),
    refetchInterval: 10_000,
  });
}

/** Whom a design is looked at over: everybody, or those of a unit. */
export type Group = { field: string; value: string };

export const everybody: Group = { field: "", value: "" };

const groupFields = { entity: "organisation", office: "location", team: "department" } as const;

/** The units whose people a design can be looked at over, entities and offices before teams. */
export function useGroups(): { group: Group; label: string }[] {
  const units = useQuery({ queryKey: ["units"], queryFn: () => take(api.GET("/api/units")) }).data ?? [];
  return (["entity", "office", "team"] as const).flatMap((kind) =>
    units
      .filter((unit) => unit.kind === kind && unit.people > 0)
      .map((unit) => ({ group: { field: groupFields[kind], value: unit.name }, label: unit.name })),
  );
}

/** A design over everybody it is for, or a group of them: who is at its edges and what to mind. Follows every edit. */
export function useReview(id: string, group: Group) {
  return useQuery({
    queryKey: ["review", id, group],
    queryFn: () => take(api.GET("/api/designs/{id}/review", { params: { path: { id }, query: group } })),
    placeholderData: (before) => before,
    meta: { followsDrafts: true },
  });
}
