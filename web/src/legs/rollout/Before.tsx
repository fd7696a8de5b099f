import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { api, take, type Api } from "../../api/client";
import { count } from "../../frame/legs";
import { Button } from "../../kit/Button";
import { momentText } from "../../kit/dates";
import { Empty } from "../../kit/Page";
import { Trouble } from "../../kit/Trouble";

const stateWords: Record<Api["RolloutState"], string> = {
  running: "goes on",
  paused: "is paused",
  done: "done",
  stopped: "stopped",
};

/** Every rollout there was, and the way back to the edition of any of them. */
export function Before({ data }: { data: Api["RolloutAnswer"] }) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const rollouts = useQuery({
    queryKey: ["rollout", "all"],
    queryFn: () => take(api.GET("/api/rollouts")),
    refetchInterval: 3000,
  });
  const going = data.rollout?.endedAt === null ? data.rollout.id : null;
  const back = useMutation({
    mutationFn: (edition: number) => take(api.POST("/api/rollout", { body: { edition, waves: [], inPlaceOf: going } })),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: ["rollout"] });
      void navigate("/rollout/now");
    },
  });
  if (rollouts.data?.length === 0) return <Empty>Every rollout stands here once there was one.</Empty>;
  return (
    <div className="h-full overflow-y-auto">
      <Trouble error={rollouts.error ?? back.error} />
      <ol aria-label="Rollouts" className="border-t border-line">
        {rollouts.data?.map((rollout) => (
          <li key={rollout.id} className="flex items-center gap-4 border-b border-line py-2">
            <span className="w-28 shrink-0 font-semibold">Edition {rollout.edition}</span>
            <span className="flex-1 text-soft">
              started {momentText(rollout.startedAt)} by {rollout.startedBy}, in{" "}
              {count(rollout.waves.length, "wave", "waves")}; {stateWords[rollout.state]}
              {rollout.endedAt && ` ${momentText(rollout.endedAt)}`}
              {rollout.note && `: ${rollout.note}`}
            </span>
            {rollout.edition !== data.rollout?.edition && (
              <Button disabled={back.isPending} onClick={() => back.mutate(rollout.edition)}>
                Roll back to edition {rollout.edition}
              </Button>
            )}
          </li>
        ))}
      </ol>
    </div>
  );
}
