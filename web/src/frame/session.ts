import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, keepAntiforgeryToken, take } from "../api/client";

/** Who is signed in. Also fetches the token that every change carries. */
export function useSession() {
  return useQuery({
    queryKey: ["session"],
    queryFn: async () => {
      const session = await take(api.GET("/api/session"));
      keepAntiforgeryToken(session.antiforgeryToken);
      return session;
    },
    staleTime: Infinity,
  });
}

/** Signs in, then asks anew who is here: the token belongs to the person. */
export function useSignIn() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: { name: string; password: string }) => take(api.POST("/api/session", { body })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["session"] }),
  });
}

/** Signs out; loading the page anew forgets everything that was loaded, and asks for nothing on the way. */
export function useSignOut() {
  return useMutation({
    mutationFn: () => take(api.DELETE("/api/session")),
    onSuccess: () => location.assign("/"),
  });
}
