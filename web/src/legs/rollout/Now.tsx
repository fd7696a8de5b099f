import { useMutation, useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { useNavigate } from "react-router";
import { api, take, type Api } from "../../api/client";
import { Button } from "../../kit/Button";
import { momentText, timeText } from "../../kit/dates";
import { Empty } from "../../kit/Page";
import { Trouble } from "../../kit/Trouble";
import { Clients } from "./Clients";
import { ClientStory } from "./ClientStory";
import { Progress } from "./Progress";
import { gateWords, peopleWords, startWords } from "./rolloutState";
import { CountsBar, StateCounts } from "./StateCounts";

/** Where everything stands now: the waves, what is wrong first, and one client's story. */
export function Now({ data, client }: { data: Api["RolloutAnswer"]; client: string | undefined }) {
  const navigate = useNavigate();
  return (
    <div className="grid h-full min-h-0 grid-cols-[minmax(0,1fr)_400px] gap-7">
      <div className="flex min-h-0 flex-col gap-4 overflow-y-auto pr-1">
        {data.heldChanges > 0 && <Held held={data.heldChanges} />}
        {data.rollout?.state === "paused" && <Paused rollout={data.rollout} />}
        {data.rollout && <WaveList rollout={data.rollout} />}
        {data.kinds.length === 0 ? (
          <Empty step={<Button onClick={() => void navigate("/rollout/ways")}>Open the ways in</Button>}>
            Every mail client that Relevo keeps stands here, and whether it holds what it should. Connect the mailbox
            server, or add a computer, a phone or a compose helper.
          </Empty>
        ) : (
          <Clients rollout={data.rollout} selected={client} kinds={data.kinds} />
        )}
      </div>
      <aside className="min-h-0 overflow-y-auto border-l border-line pl-5">
        {client ? (
          <ClientStory key={client} id={client} />
        ) : data.rollout ? (
          <Progress rollout={data.rollout.id} isLive={data.rollout.endedAt === null} />
        ) : (
          <p className="text-soft">Choose a client to see its story.</p>
        )}
      </aside>
    </div>
  );
}

function Held({ held }: { held: number }) {
  const queries = useQueryClient();
  const letGo = useMutation({
    mutationFn: () => take(api.POST("/api/flow/let-go")),
    onSettled: () => queries.invalidateQueries({ queryKey: ["rollout"] }),
  });
  return (
    <section aria-label="Held changes" className="flex flex-col items-start gap-2 border-l-[3px] border-ochre pl-4">
      <p>
        <b className="font-semibold">Changed facts would change {held} clients at once.</b> That is more than the brake
        lets pass, so none of them is told yet. Look at what changed on the People leg first.
      </p>
      <Button disabled={letGo.isPending} onClick={() => letGo.mutate()}>
        Let them go
      </Button>
      <Trouble error={letGo.error} />
    </section>
  );
}

function useRolloutStep(id: number) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (step: "pause" | "go-on" | "skip" | "stop") => {
      const params = { params: { path: { id } } };
      if (step === "pause") return take(api.POST("/api/rollouts/{id}/pause", params));
      if (step === "go-on") return take(api.POST("/api/rollouts/{id}/go-on", params));
      if (step === "skip") return take(api.POST("/api/rollouts/{id}/skip", params));
      return take(api.POST("/api/rollouts/{id}/stop", params));
    },
    onSettled: () => queries.invalidateQueries({ queryKey: ["rollout"] }),
  });
}

type StepsProps = {
  rollout: Api["RolloutStatus"];
  step: ReturnType<typeof useRolloutStep>;
  children: ReactNode;
};

/** What may be done about a rollout that has not ended; first what is particular to its state. */
function Steps({ rollout, step, children }: StepsProps) {
  return (
    <div className="mt-2 flex gap-2">
      {children}
      {rollout.waves.some((wave) => wave.state === "open") && (
        <Button disabled={step.isPending} onClick={() => step.mutate("skip")}>
          Skip this wave
        </Button>
      )}
      <Button disabled={step.isPending} onClick={() => step.mutate("stop")}>
        Stop the rollout
      </Button>
    </div>
  );
}

function Paused({ rollout }: { rollout: Api["RolloutStatus"] }) {
  const step = useRolloutStep(rollout.id);
  return (
    <section
      aria-label="Paused"
      role="status"
      className="flex flex-col items-start gap-2 border-l-[3px] border-madder pl-4"
    >
      <p>
        <b className="font-semibold">{rollout.note ? "It paused itself." : "It is paused."}</b>{" "}
        {rollout.note || "Nobody is told anything new until it goes on."}
      </p>
      <Steps rollout={rollout} step={step}>
        <Button look="main" disabled={step.isPending} onClick={() => step.mutate("go-on")}>
          Go on
        </Button>
      </Steps>
      <Trouble error={step.error} />
    </section>
  );
}

function WaveList({ rollout }: { rollout: Api["RolloutStatus"] }) {
  const step = useRolloutStep(rollout.id);
  const isRunning = rollout.state === "running";
  return (
    <section aria-label="Waves">
      <ol className="border-t border-line">
        {rollout.waves.map((wave, index) => (
          <li
            key={index}
            className="grid grid-cols-[minmax(0,1fr)_minmax(0,1.1fr)] gap-x-6 border-b border-line py-2.5"
          >
            <div>
              <p>
                <b className="font-semibold">
                  {index + 1}. {wave.plan.name}
                </b>{" "}
                <span className="text-soft">{waveWords(wave, index, rollout)}</span>
              </p>
              <p className="text-second text-soft">
                {peopleWords(wave.plan.people)}; {gateWords(wave.plan.gate)}
              </p>
            </div>
            <div className="flex flex-col gap-1.5">
              <CountsBar counts={wave.counts} />
              <StateCounts label={`Wave ${index + 1}`} counts={wave.counts} />
              {wave.kinds.length > 1 && wave.state !== "waits" && (
                <ul className="text-second text-soft">
                  {wave.kinds.map((kind) => (
                    <li key={kind.kind} className="flex gap-3">
                      <span className="w-32 shrink-0">{kind.name}</span>
                      <StateCounts label={`Wave ${index + 1}, ${kind.name}`} counts={kind.counts} />
                    </li>
                  ))}
                </ul>
              )}
            </div>
          </li>
        ))}
      </ol>
      {isRunning && (
        <Steps rollout={rollout} step={step}>
          <Button disabled={step.isPending} onClick={() => step.mutate("pause")}>
            Pause
          </Button>
        </Steps>
      )}
      <Trouble error={step.error} />
    </section>
  );
}

function waveWords(wave: Api["WaveAnswer"], index: number, rollout: Api["RolloutStatus"]) {
  if (wave.state === "passed") return wave.endedAt ? `passed ${timeText(wave.endedAt)}` : "passed";
  if (wave.state === "skipped") return "skipped";
  if (wave.state === "open") return wave.openedAt ? `began ${timeText(wave.openedAt)}` : "has begun";
  if (rollout.endedAt) return "did not begin: these clients keep what they have";
  return wave.beginsAt ? `begins ${momentText(wave.beginsAt)}` : `begins ${startWords(wave.plan.start, index === 0)}`;
}
