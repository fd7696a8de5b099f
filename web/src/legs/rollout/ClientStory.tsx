import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { api, take, type Api } from "../../api/client";
import { Button } from "../../kit/Button";
import { momentText } from "../../kit/dates";
import { StateBar, stateWord } from "../../kit/StateBar";
import { Trouble } from "../../kit/Trouble";

/** One client's whole story, newest first, what differs in it, and what can be done about it. */
export function ClientStory({ id }: { id: string }) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const params = { params: { path: { id } } };
  const story = useQuery({
    queryKey: ["rollout", "story", id],
    queryFn: () => take(api.GET("/api/clients/{id}/story", params)),
    refetchInterval: 1500,
  });
  const newest = story.data?.[0]?.at ?? "";
  const difference = useQuery({
    queryKey: ["rollout", "difference", id, newest],
    queryFn: () => take(api.GET("/api/clients/{id}/difference", params)),
  });
  const again = useMutation({
    mutationFn: () => take(api.POST("/api/clients/{id}/again", params)),
    onSettled: () => queries.invalidateQueries({ queryKey: ["rollout"] }),
  });
  const retire = useMutation({
    mutationFn: () => take(api.DELETE("/api/clients/{id}", params)),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: ["rollout"] });
      void navigate("/rollout/now");
    },
  });
  return (
    <section aria-label="Story" className="flex flex-col gap-3">
      <div className="flex gap-2">
        <Button disabled={again.isPending} onClick={() => again.mutate()}>
          Deliver again
        </Button>
        <Button look="quiet" disabled={retire.isPending} onClick={() => retire.mutate()}>
          Take this client out
        </Button>
      </div>
      <Trouble error={story.error ?? again.error ?? retire.error} />
      {difference.data && difference.data.length > 0 && <Differences places={difference.data} />}
      {story.data?.length === 0 && <p className="text-soft">Nothing has happened yet.</p>}
      <ol>
        {story.data?.map((event, index) => (
          <li key={`${event.at}${index}`} className="border-b border-line py-1.5">
            <span className="flex items-center gap-2">
              <StateBar state={event.state} />
              <b className="font-semibold">{stateWord(event.state)}</b>
              {event.edition && <span className="text-second text-soft">edition {event.edition}</span>}
            </span>
            <span className="block text-second break-words text-soft">
              {momentText(event.at)}
              {event.detail && `: ${event.detail}`}
            </span>
          </li>
        ))}
      </ol>
    </section>
  );
}

function Differences({ places }: { places: readonly Api["PlaceDifference"][] }) {
  return (
    <section aria-label="What differs" className="flex flex-col gap-3">
      {places.map((place) => (
        <div key={place.path}>
          <h3 className="text-second font-semibold break-all">{place.path}</h3>
          <div className="grid grid-cols-2 gap-2">
            <Side title="should be" text={place.wanted} other={place.found ?? ""} />
            <Side
              title={place.foundAt ? `found ${momentText(place.foundAt)}` : "found"}
              text={place.found ?? ""}
              other={place.wanted}
            />
          </div>
        </div>
      ))}
    </section>
  );
}

/** One side, from a little before the first place in which the two differ. */
function Side({ title, text, other }: { title: string; text: string; other: string }) {
  const from = firstDifference(text, other);
  const begin = Math.max(0, from - 60);
  const end = text.length - lastDifference(text.slice(from), other.slice(from));
  return (
    <div className="min-w-0">
      <p className="text-small text-soft">{title}</p>
      <pre
        tabIndex={0}
        aria-label={title}
        className="max-h-40 overflow-auto border border-line bg-sheet p-1.5 text-small break-all whitespace-pre-wrap"
      >
        {begin > 0 && "…"}
        {text.slice(begin, from)}
        <mark className="bg-baton-wash text-ink">{text.slice(from, end)}</mark>
        {text.slice(end, end + 60)}
        {end + 60 < text.length && "…"}
      </pre>
    </div>
  );
}

/** How many characters two texts have in common at their beginning. */
function firstDifference(one: string, other: string) {
  let at = 0;
  while (at < one.length && one[at] === other[at]) at++;
  return at;
}

/** And at their end. */
function lastDifference(one: string, other: string) {
  let at = 0;
  while (at < one.length && at < other.length && one[one.length - 1 - at] === other[other.length - 1 - at]) at++;
  return at;
}
