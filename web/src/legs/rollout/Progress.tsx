import { useQuery } from "@tanstack/react-query";
import { Area, AreaChart, CartesianGrid, ResponsiveContainer, Tooltip, XAxis, YAxis } from "recharts";
import { api, take } from "../../api/client";
import { timeText } from "../../kit/dates";
import { stateWord, type ShownState } from "../../kit/StateBar";

const drawn: readonly { state: ShownState; colour: string; pattern: string }[] = [
  { state: "inPlace", colour: "var(--color-pine)", pattern: "none" },
  { state: "onItsWay", colour: "var(--color-ochre)", pattern: "none" },
  { state: "waits", colour: "var(--color-line)", pattern: "none" },
  { state: "silent", colour: "var(--color-fold)", pattern: "none" },
  { state: "drifted", colour: "var(--color-madder)", pattern: "4 3" },
  { state: "failed", colour: "var(--color-madder)", pattern: "none" },
];

/** How a rollout went, over time. */
export function Progress({ rollout, isLive }: { rollout: number; isLive: boolean }) {
  const progress = useQuery({
    queryKey: ["rollout", "progress", rollout],
    queryFn: () => take(api.GET("/api/rollouts/{id}/progress", { params: { path: { id: rollout } } })),
    refetchInterval: isLive ? 2000 : false,
  });
  const points = (progress.data ?? []).map((point) => ({ ...point, time: Date.parse(point.at) }));
  const last = points[points.length - 1];
  if (!last || points.length < 2)
    return <p className="text-soft">A picture of its progress grows here once it moves.</p>;
  return (
    <figure>
      <figcaption className="mb-1 text-second text-soft">
        Clients over time: {last.inPlace} in place at {timeText(last.at)}
      </figcaption>
      <ResponsiveContainer width="100%" height={170}>
        <AreaChart data={points} margin={{ top: 4, right: 4, bottom: 0, left: -18 }}>
          <CartesianGrid stroke="var(--color-line)" vertical={false} />
          <XAxis
            dataKey="time"
            type="number"
            domain={["dataMin", "dataMax"]}
            tickFormatter={(time: number) => timeText(new Date(time).toISOString())}
            stroke="var(--color-soft)"
            fontSize={12}
            tickLine={false}
            minTickGap={40}
          />
          <YAxis allowDecimals={false} stroke="var(--color-soft)" fontSize={12} tickLine={false} />
          <Tooltip
            labelFormatter={(time) => timeText(new Date(Number(time)).toISOString())}
            contentStyle={{ background: "var(--color-sheet)", border: "1px solid var(--color-line)" }}
            itemStyle={{ color: "var(--color-ink)" }}
          />
          {drawn
            .filter(({ state }) => points.some((point) => point[state] > 0))
            .map(({ state, colour, pattern }) => (
              <Area
                key={state}
                dataKey={state}
                name={stateWord(state)}
                stackId="all"
                type="stepAfter"
                stroke={colour}
                strokeDasharray={pattern}
                fill={colour}
                fillOpacity={state === "onItsWay" ? 0.5 : 0.85}
                isAnimationActive={false}
              />
            ))}
        </AreaChart>
      </ResponsiveContainer>
    </figure>
  );
}
