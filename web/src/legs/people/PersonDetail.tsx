import { useQuery } from "@tanstack/react-query";
import { api, take, type Api } from "../../api/client";
import { Button } from "../../kit/Button";
import { Trouble } from "../../kit/Trouble";
import { useLens } from "../../lens/lensState";

const origins: Record<Api["Layer"], string> = { source: "directory", account: "account" };

/** One person's facts, each with its origin. */
export function PersonDetail({ id }: { id: string }) {
  const { look, setOpen } = useLens();
  const person = useQuery({
    queryKey: ["person", id],
    queryFn: () => take(api.GET("/api/people/{id}", { params: { path: { id } } })),
  });
  if (person.isError) return <Trouble error={person.error} />;
  if (!person.data) return null;
  return (
    <section aria-label="Person" className="min-h-0 overflow-x-hidden overflow-y-auto border-l border-line pl-5">
      <h2 className="font-semibold">{person.data.name}</h2>
      <p className="mb-3 text-small break-all text-soft">{person.data.distinguishedName}</p>
      <Button
        onClick={() => {
          look({ person: id });
          setOpen(true);
        }}
      >
        Look as {person.data.name}
      </Button>
      <dl className="mt-4">
        {person.data.fields.map((field) => (
          <div
            key={field.name}
            className="grid grid-cols-[88px_minmax(0,1fr)_auto] gap-x-3 border-b border-line py-1.5"
          >
            <dt className="text-second text-soft">{field.label}</dt>
            <dd className="text-second [overflow-wrap:anywhere]">{field.text}</dd>
            <dd className="text-small text-soft" title={`This value comes from the ${origins[field.origin]}.`}>
              {origins[field.origin]}
            </dd>
          </div>
        ))}
      </dl>
      {person.data.addresses.length > 1 && (
        <p className="mt-3 text-second text-soft">Also sends from {person.data.addresses.slice(1).join(", ")}.</p>
      )}
    </section>
  );
}
