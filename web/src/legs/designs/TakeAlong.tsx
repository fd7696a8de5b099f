import { useLens, useLensAnswer } from "../../lens/lensState";
import { SendTest } from "./SendTest";

const kinds = [
  { kind: "eml", label: "Test message" },
  { kind: "zip", label: "All forms with pictures" },
  { kind: "html", label: "One page" },
  { kind: "rtf", label: "Rich text" },
  { kind: "txt", label: "Text" },
] as const;

/** The design as the lens shows it, as files to open elsewhere. */
export function TakeAlong({ id }: { id: string }) {
  const { lens } = useLens();
  const person = useLensAnswer(lens, id, true).data?.person;
  if (!person) return null;
  const query = new URLSearchParams({
    person: person.id,
    occasion: lens.occasion,
    audience: lens.audience,
    ...(lens.address && { address: lens.address }),
  });
  return (
    <section aria-label="Take it along" className="mt-4 border-t border-line pt-3">
      <h3 className="text-soft">Take {person.name}’s along</h3>
      <ul className="mt-1 flex flex-wrap gap-x-4 gap-y-1">
        {kinds.map(({ kind, label }) => (
          <li key={kind}>
            <a
              className="inline-block min-h-6 underline"
              href={`/api/designs/${id}/files/${kind}?${query.toString()}`}
              download
            >
              {label} (.{kind})
            </a>
          </li>
        ))}
        <li>
          <a className="inline-block min-h-6 underline" href={`/api/design-files?design=${id}`} download>
            The design itself (.json)
          </a>
        </li>
      </ul>
      <div className="mt-3 flex flex-col items-start gap-2">
        <SendTest id={id} person={person.id} occasion={lens.occasion} audience={lens.audience} address={lens.address} />
      </div>
    </section>
  );
}
