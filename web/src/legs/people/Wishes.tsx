import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, take, type Api } from "../../api/client";
import { Button } from "../../kit/Button";
import { dateText } from "../../kit/dates";
import { pictureAddress } from "../../kit/PictureInput";
import { Trouble } from "../../kit/Trouble";

/** What employees ask for and what waits for a yes; nothing when nothing waits. */
export function Wishes() {
  const queries = useQueryClient();
  const wishes = useQuery({ queryKey: ["wishes"], queryFn: () => take(api.GET("/api/wishes")) });
  const answer = useMutation({
    mutationFn: ({ wish, isGranted }: { wish: Api["WaitingWish"]; isGranted: boolean }) =>
      take(
        api.POST("/api/wishes/{person}/{field}", {
          params: { path: { person: wish.personId, field: wish.field } },
          body: { isGranted },
        }),
      ),
    onSettled: () => queries.invalidateQueries(),
  });
  if (!wishes.data || wishes.data.length === 0) return <Trouble error={wishes.error ?? answer.error} />;
  return (
    <section aria-label="Wishes" className="rounded-[4px] border border-ochre bg-sheet px-3.5 py-2">
      <h2 className="font-semibold text-ochre">Employees ask for</h2>
      <Trouble error={answer.error} />
      <ul className="max-h-36 overflow-y-auto">
        {wishes.data.map((wish) => (
          <li key={`${wish.personId}${wish.field}`} className="flex items-center justify-between gap-3 py-0.5">
            <span>
              <span className="font-semibold">{wish.person}</span>, {wish.label}:{" "}
              <span className="text-soft">
                <Wished kind={wish.kind} value={wish.shown} />
              </span>{" "}
              becomes {wish.value === null ? "what the company says" : <Wished kind={wish.kind} value={wish.value} />}{" "}
              <span className="text-second text-soft">asked {dateText(wish.requestedAt)}</span>
            </span>
            <span className="flex gap-1">
              <Button disabled={answer.isPending} onClick={() => answer.mutate({ wish, isGranted: true })}>
                Grant
              </Button>
              <Button
                look="quiet"
                disabled={answer.isPending}
                onClick={() => answer.mutate({ wish, isGranted: false })}
              >
                Refuse
              </Button>
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

function Wished({ kind, value }: { kind: Api["FieldKind"]; value: string }) {
  if (kind === "picture" && value !== "")
    return <img src={pictureAddress(value)} alt="The picture" className="inline size-8 object-contain" />;
  return value === "" ? "nothing" : value;
}
