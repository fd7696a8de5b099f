import { useMutation, useQuery } from "@tanstack/react-query";
import { api, take } from "../../api/client";
import { Choice } from "../../kit/Choice";
import { Trouble } from "../../kit/Trouble";
import type { Act } from "./DesignBench";
import { Row } from "./Row";

/** Gives the design a starter's build and keeps what it says; one step to undo. */
export function BuildLike({ id, act }: { id: string; act: Act }) {
  const starters = useQuery({
    queryKey: ["starters"],
    queryFn: () => take(api.GET("/api/starters")),
    staleTime: Infinity,
  });
  const rearrange = useMutation({
    mutationFn: (starter: string) =>
      take(api.GET("/api/designs/{id}/in-the-build-of/{starter}", { params: { path: { id, starter } } })),
    onSuccess: (design) => act("build like another starter", { kind: "replace", design }),
  });
  return (
    <>
      <Row label="Build">
        <Choice
          label="Build like"
          value=""
          options={[
            { value: "", label: "as it is" },
            ...(starters.data ?? []).map((starter) => ({ value: starter.key, label: `like “${starter.name}”` })),
          ]}
          onChange={(starter) => starter !== "" && rearrange.mutate(starter)}
        />
      </Row>
      <Trouble error={rearrange.error} />
    </>
  );
}
