import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { api, take, type Api } from "../../api/client";
import { count } from "../../frame/legs";
import { Button } from "../../kit/Button";
import { momentText } from "../../kit/dates";
import { Empty, Page } from "../../kit/Page";
import { Trouble } from "../../kit/Trouble";

/** What will change, and have I seen it? */
export function Proof() {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const proof = useQuery({
    queryKey: ["proof"],
    queryFn: () => take(api.GET("/api/proof")),
    refetchOnMount: "always",
    meta: { followsDrafts: true },
  });
  const publish = useMutation({
    mutationFn: (latest: number) => take(api.POST("/api/editions", { body: { latest } })),
    onSettled: () => queries.invalidateQueries(),
  });
  if (!proof.data)
    return (
      <div className="p-6">
        <Trouble error={proof.error} />
      </div>
    );
  const { latest, changes, mayPublish, editions, stops } = proof.data;
  return (
    <Page
      title="What will change"
      lede={lede(latest, changes.length)}
      action={
        changes.length > 0 && (
          <Button look="main" disabled={!mayPublish || publish.isPending} onClick={() => publish.mutate(latest)}>
            Publish edition {latest + 1}
          </Button>
        )
      }
    >
      <div className="flex flex-col gap-4">
        <Trouble error={publish.error} />
        {stops.length > 0 && (
          <section aria-label="What stops it" className="rounded-[4px] border border-madder bg-sheet px-3.5 py-2.5">
            <h2 className="font-semibold text-madder">Nothing is published before this is mended</h2>
            <ul className="list-disc pl-5">
              {stops.map((stop) => (
                <li key={stop}>{stop}</li>
              ))}
            </ul>
            <Button look="quiet" onClick={() => void navigate("/rules")}>
              Go to the rules
            </Button>
          </section>
        )}
        {publish.isSuccess && changes.length === 0 && (
          <p role="status" className="flex items-center gap-4">
            <span className="font-semibold text-pine">Edition {publish.data.number} is published.</span>
            <Button onClick={() => void navigate("/rollout")}>Go on to the rollout</Button>
          </p>
        )}
        <div className="grid grid-cols-[1fr_340px] gap-10">
          {changes.length > 0 ? (
            <Changes changes={changes} />
          ) : (
            <Empty>
              {latest === 0
                ? "There is nothing to publish yet. Make a design and a rule first; what they change is listed here."
                : "Designs and rules are as published. Whatever is changed next is listed here before anybody gets it."}
            </Empty>
          )}
          <Editions editions={editions} />
        </div>
      </div>
    </Page>
  );
}

function lede(latest: number, changes: number) {
  if (changes === 0) return latest === 0 ? "There is no edition yet." : `Nothing, since edition ${latest}.`;
  const since = latest === 0 ? "for the first edition" : `since edition ${latest}`;
  return `${count(changes, "change waits", "changes wait")} ${since}. Nobody gets them before an edition is published and rolled out.`;
}

function Changes({ changes }: { changes: readonly Api["EditionChange"][] }) {
  const names = [...new Set(changes.map((change) => change.name))];
  return (
    <div className="flex flex-col gap-5">
      {names.map((name) => (
        <section key={name} aria-label={name}>
          <h2 className="border-b border-ink pb-1 font-semibold">{name}</h2>
          <ul>
            {changes
              .filter((change) => change.name === name)
              .map((change) => (
                <li key={change.text} className="border-b border-line py-2">
                  {change.text}
                </li>
              ))}
          </ul>
        </section>
      ))}
    </div>
  );
}

function Editions({ editions }: { editions: readonly Api["EditionHead"][] }) {
  return (
    <section aria-label="Editions">
      <h2 className="border-b border-line pb-1 font-semibold">Editions</h2>
      {editions.length === 0 && (
        <p className="py-2 text-soft">
          None yet. An edition is a numbered state of designs and rules that never changes again.
        </p>
      )}
      <ol>
        {editions.map((edition) => (
          <li key={edition.number} className="grid grid-cols-[36px_1fr] border-b border-line py-1.5">
            <span className="font-semibold">{edition.number}</span>
            <span>
              {momentText(edition.publishedAt)}
              <br />
              <span className="text-second text-soft">by {edition.publishedBy}</span>
            </span>
          </li>
        ))}
      </ol>
    </section>
  );
}
