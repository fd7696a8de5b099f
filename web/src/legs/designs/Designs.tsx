import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, take, type Api } from "../../api/client";
import { count } from "../../frame/legs";
import { Button } from "../../kit/Button";
import { Empty, Page } from "../../kit/Page";
import { SignatureFrame } from "../../kit/SignatureFrame";
import { Trouble } from "../../kit/Trouble";
import { useLens, useLensAnswer } from "../../lens/lensState";
import { DesignFileArrival } from "./DesignFileArrival";
import { bySet, type DesignRow } from "./designState";

/** The designs there are, on the lens's person, and the starters to begin from. */
export function Designs() {
  const designs = useQuery({
    queryKey: ["designs"],
    queryFn: () => take(api.GET("/api/designs")),
    meta: { followsDrafts: true },
  });
  const navigate = useNavigate();
  const [open, setOpen] = useState<"starters" | "file" | null>(null);
  const toggle = (part: "starters" | "file") => setOpen(open === part ? null : part);
  const edited = designs.data?.filter((design) => design.isEdited).length ?? 0;
  return (
    <Page
      title="What signatures look like"
      lede={
        designs.data && designs.data.length > 0
          ? `${count(designs.data.length, "design", "designs")}, ${edited === 0 ? "all as published" : `${edited} not yet published as ${edited === 1 ? "it stands" : "they stand"}`}.`
          : "No design yet."
      }
      action={
        <>
          <Button onClick={() => void navigate("/designs/disclaimers")}>Disclaimers</Button>
          <Button onClick={() => void navigate("/designs/banners")}>Banners</Button>
          <Button onClick={() => void navigate("/designs/answers")}>Ready answers</Button>
          <Button onClick={() => toggle("file")}>From a file</Button>
          <Button look="main" onClick={() => toggle("starters")}>
            New from a starter
          </Button>
        </>
      }
    >
      <div className="flex flex-col gap-5">
        <Trouble error={designs.error} />
        {open === "starters" && <Starters onDone={() => setOpen(null)} />}
        {open === "file" && <DesignFileArrival onDone={() => setOpen(null)} />}
        {designs.data?.length === 0 && open === null && (
          <Empty step={<Button onClick={() => setOpen("starters")}>Choose a starter</Button>}>
            Each design is one signature: what it says, and a theme. Begin from a starter; everything in it can be
            changed.
          </Empty>
        )}
        {designs.data &&
          bySet(designs.data).map(([set, members]) => <DesignSet key={set} set={set} designs={members} />)}
      </div>
    </Page>
  );
}

function DesignSet({ set, designs }: { set: string; designs: readonly DesignRow[] }) {
  const queries = useQueryClient();
  const copy = useMutation({
    mutationFn: () => take(api.POST("/api/design-sets/copies", { body: { set } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["designs"] }),
  });
  return (
    <section aria-label={set || "Designs that stand alone"} className="flex flex-col gap-2">
      {set && (
        <div className="flex items-baseline gap-3">
          <h2 className="font-semibold">{set}</h2>
          <span className="text-second text-soft">one theme for {count(designs.length, "design", "designs")}</span>
          <a className="text-second underline" href={`/api/design-files?set=${encodeURIComponent(set)}`} download>
            Take the set along (.json)
          </a>
          <Button look="quiet" label={`Copy the set ${set}`} disabled={copy.isPending} onClick={() => copy.mutate()}>
            Copy the set
          </Button>
        </div>
      )}
      <Trouble error={copy.error} />
      <ul className="grid grid-cols-2 gap-5">
        {designs.map((design) => (
          <DesignCard key={design.id} design={design} />
        ))}
      </ul>
    </section>
  );
}

function DesignCard({ design }: { design: DesignRow }) {
  const { lens } = useLens();
  const answer = useLensAnswer(lens, design.id);
  const queries = useQueryClient();
  const copy = useMutation({
    mutationFn: () => take(api.POST("/api/designs/{id}/copies", { params: { path: { id: design.id } } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["designs"] }),
  });
  const rules =
    design.ruleNumbers.length === 0
      ? "no rule uses it"
      : `${design.ruleNumbers.length === 1 ? "rule" : "rules"} ${design.ruleNumbers.join(", ")}`;
  return (
    <li className="flex flex-col rounded-[6px] border border-line bg-sheet">
      <div className="flex items-baseline justify-between border-b border-line px-4 py-2.5">
        <Link to={`/designs/${design.id}`} className="font-semibold hover:underline">
          {design.name}
        </Link>
        <span className="flex items-baseline gap-2 text-second text-soft">
          {design.isEdited ? "not yet published, " : ""}
          {rules}
          <Button look="quiet" label={`Copy ${design.name}`} disabled={copy.isPending} onClick={() => copy.mutate()}>
            Copy
          </Button>
        </span>
      </div>
      <Trouble error={copy.error} />
      <div className="h-52 bg-mail-light p-4">
        {answer.data?.signature && (
          <SignatureFrame html={answer.data.signature.html} title={`${design.name} as a signature`} />
        )}
      </div>
    </li>
  );
}

function Starters({ onDone }: { onDone: () => void }) {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const starters = useQuery({
    queryKey: ["starters"],
    queryFn: () => take(api.GET("/api/starters")),
    staleTime: Infinity,
  });
  const open = useMutation({
    mutationFn: (starter: Api["StarterAnswer"]) =>
      take(api.POST("/api/designs", { body: { starter: starter.key, name: starter.name } })),
    onSuccess: async (design) => {
      await queries.invalidateQueries({ queryKey: ["designs"] });
      onDone();
      void navigate(`/designs/${design.id}`);
    },
  });
  return (
    <section aria-label="Starters" className="flex flex-col gap-2 border-l-[3px] border-baton pl-5">
      <h2 className="font-semibold">Begin from</h2>
      <Trouble error={open.error} />
      {starters.data?.map((starter) => (
        <div key={starter.key} className="grid grid-cols-[180px_1fr] items-center gap-4">
          <div>
            <Button onClick={() => open.mutate(starter)} disabled={open.isPending}>
              {starter.name}
            </Button>
          </div>
          <span className="text-soft">{starter.purpose}</span>
        </div>
      ))}
    </section>
  );
}
