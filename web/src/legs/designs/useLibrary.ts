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

/** A design over everybody it is for: who is at its edges and what to mind. Follows every edit. */
export function useReview(id: string) {
  return useQuery({
    queryKey: ["review", id],
    queryFn: () => take(api.GET("/api/designs/{id}/review", { params: { path: { id } } })),
    placeholderData: (before) => before,
    meta: { followsDrafts: true },
  });
}
