import { useQuery } from "@tanstack/react-query";
import { api, take, type Api } from "../../api/client";
import { momentText } from "../../kit/dates";
import { StateBar, stateWord } from "../../kit/StateBar";
import { Trouble } from "../../kit/Trouble";

type ComputerStoryProps = { id: string; standing: Api["ComputerStanding"] | undefined };

/** One computer's whole story, newest first. */
export function ComputerStory({ id, standing }: ComputerStoryProps) {
  const story = useQuery({
    queryKey: ["story", id],
    queryFn: () => take(api.GET("/api/computers/{id}/story", { params: { path: { id } } })),
    refetchInterval: 1000,
  });
  return (
    <section aria-label="Story" className="min-h-0 overflow-y-auto border-l border-line pl-5">
      <h2 className="font-semibold">{standing?.computer}</h2>
      <p className="mb-3 text-soft">
        {standing?.person}
        {standing?.lastSeenAt ? `, last heard of ${momentText(standing.lastSeenAt)}` : ", not heard of yet"}
      </p>
      <Trouble error={story.error} />
      {story.data?.length === 0 && <p className="text-soft">Nothing has happened yet.</p>}
      <ol>
        {story.data?.map((event) => (
          <li key={`${event.at}${event.state}`} className="border-b border-line py-1.5">
            <span className="flex items-center gap-2">
              <StateBar state={event.state} />
              <b className="font-semibold">{stateWord(event.state)}</b>
              <span className="text-second text-soft">edition {event.edition}</span>
            </span>
            <span className="block text-second text-soft">
              {momentText(event.at)}
              {event.detail && `: ${event.detail}`}
            </span>
          </li>
        ))}
      </ol>
    </section>
  );
}
