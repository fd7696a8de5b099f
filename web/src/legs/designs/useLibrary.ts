import { useQuery } from "@tanstack/react-query";
import { api, take } from "../../api/client";

/** The pictures designs may choose from. */
export function useLibrary() {
  return useQuery({ queryKey: ["pictures"], queryFn: () => take(api.GET("/api/pictures")) });
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
