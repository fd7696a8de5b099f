import { useQuery } from "@tanstack/react-query";
import { api, take } from "../../api/client";

/** The sets that designs belong to. */
export function useSets() {
  return useQuery({
    queryKey: ["design-sets"],
    queryFn: () => take(api.GET("/api/design-sets")),
    meta: { followsDrafts: true },
  });
}
