import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { NavLink, useNavigate, useParams } from "react-router";
import { api, take, type Api } from "../../api/client";
import { count } from "../../frame/legs";
import { Button } from "../../kit/Button";
import { momentText } from "../../kit/dates";
import { Page } from "../../kit/Page";
import { Trouble } from "../../kit/Trouble";
import { Before } from "./Before";
import { Holds } from "./Holds";
import { Now } from "./Now";
import { Plan } from "./Plan";
import { shareInPlace, toGoWords, total } from "./rolloutState";
import { StateCounts } from "./StateCounts";
import { Ways } from "./Ways";

const refreshEvery = 1000; // milliseconds; the leg is live

const tabs = [
  { tab: "now", label: "Where it stands" },
  { tab: "plan", label: "Plan a rollout" },
  { tab: "holds", label: "What clients hold" },
  { tab: "ways", label: "Ways in" },
  { tab: "before", label: "Before" },
] as const;

/** Is it really there? */
export function Rollout() {
  const { tab = "now", client } = useParams();
  const navigate = useNavigate();
  const queries = useQueryClient();
  const rollout = useQuery({
    queryKey: ["rollout", "now"],
    queryFn: () => take(api.GET("/api/rollout")),
    refetchInterval: refreshEvery,
  });
  const start = useMutation({
    mutationFn: (edition: number) => take(api.POST("/api/rollout", { body: { edition, waves: [], inPlaceOf: null } })),
    onSettled: () => queries.invalidateQueries({ queryKey: ["rollout"] }),
  });
  if (!rollout.data)
    return (
      <div className="p-6">
        <Trouble error={rollout.error} />
      </div>
    );
  const data = rollout.data;
  const isGoing = data.rollout !== null && data.rollout.endedAt === null;
  const waits = data.latestEdition > (data.rollout?.edition ?? 0);
  return (
    <Page
      title={data.rollout ? `Edition ${data.rollout.edition}` : "Nothing is rolled out"}
      lede={lede(data)}
      action={
        waits &&
        !isGoing &&
        tab === "now" && (
          <>
            <Button onClick={() => void navigate("/rollout/plan")}>Plan it in waves</Button>
            <Button
              look="main"
              disabled={start.isPending || total(data.totals) === 0}
              onClick={() => start.mutate(data.latestEdition)}
            >
              Roll out edition {data.latestEdition}
            </Button>
          </>
        )
      }
    >
      <div className="flex h-full min-h-0 flex-col gap-3">
        <div className="flex items-end justify-between gap-6 border-b border-line">
          <nav aria-label="Rollout" className="flex gap-5">
            {tabs.map((one) => (
              <NavLink
                key={one.tab}
                to={`/rollout/${one.tab}`}
                aria-current={one.tab === tab ? "page" : undefined}
                className={`-mb-px pb-2 ${one.tab === tab ? "border-b-2 border-ink font-semibold" : "text-soft hover:text-ink"}`}
              >
                {one.label}
              </NavLink>
            ))}
          </nav>
          <div className="pb-2">
            <StateCounts label="Totals" counts={data.totals} />
          </div>
        </div>
        <Trouble error={start.error ?? rollout.error} />
        {data.notices.length > 0 && <Notices notices={data.notices} />}
        <div className="min-h-0 flex-1">
          {tab === "plan" ? (
            <Plan data={data} />
          ) : tab === "holds" ? (
            <Holds data={data} />
          ) : tab === "ways" ? (
            <Ways />
          ) : tab === "before" ? (
            <Before data={data} />
          ) : (
            <Now data={data} client={client} />
          )}
        </div>
      </div>
    </Page>
  );
}

function Notices({ notices }: { notices: readonly Api["Notice"][] }) {
  const queries = useQueryClient();
  const see = useMutation({
    mutationFn: (upTo: number) => take(api.POST("/api/notices/seen", { body: { upTo } })),
    onSettled: () => queries.invalidateQueries({ queryKey: ["rollout", "now"] }),
  });
  const newest = notices[0];
  if (!newest) return null;
  return (
    <section aria-label="Notices" className="flex items-center gap-4 border-l-[3px] border-lens pl-4">
      <p className="flex-1">
        {newest.text} <span className="text-soft">{momentText(newest.at)}</span>
        {notices.length > 1 && (
          <span className="text-soft">, and {count(notices.length - 1, "notice", "notices")} before it</span>
        )}
      </p>
      <Button look="quiet" disabled={see.isPending} onClick={() => see.mutate(newest.id)}>
        Seen
      </Button>
    </section>
  );
}

function lede(data: Api["RolloutAnswer"]) {
  if (!data.rollout)
    return data.latestEdition === 0
      ? "Publish an edition on the Proof leg first."
      : `Edition ${data.latestEdition} is published and waits. ${count(total(data.totals), "client", "clients")} would get it.`;
  const { state, startedAt, startedBy, endedAt } = data.rollout;
  const waiting =
    data.latestEdition > data.rollout.edition ? ` Edition ${data.latestEdition} is published and waits.` : "";
  const toGo = data.secondsToGo !== null ? `, ${toGoWords(data.secondsToGo)}` : "";
  if (state === "done" && endedAt)
    return `Done ${momentText(endedAt)}; ${shareInPlace(data.totals)} % of all clients hold what they should.${waiting}`;
  if (state === "stopped" && endedAt) return `Stopped ${momentText(endedAt)}; started by ${startedBy}.${waiting}`;
  if (state === "paused") return `Paused; started ${momentText(startedAt)} by ${startedBy}.${waiting}`;
  return `Goes on since ${momentText(startedAt)}, started by ${startedBy}${toGo}.${waiting}`;
}
