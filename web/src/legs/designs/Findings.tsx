import { useState } from "react";
import type { Api } from "../../api/client";
import { sizeText } from "../../kit/dates";
import { useLens } from "../../lens/lensState";

type FindingsProps = { review: Api["ReviewAnswer"]; onSelect: (block: string) => void };

/** Where the findings stand, for whoever leads there. */
export const findingsId = "what-to-mind";

/** What to mind about the design: the reason, the people concerned, and the way to the block. */
export function Findings({ review, onSelect }: FindingsProps) {
  const { weight } = review;
  return (
    <section
      id={findingsId}
      aria-label="What to mind"
      className="mt-3 flex flex-col gap-1.5 border-t border-line pt-3 text-second"
    >
      <p>
        <b className="font-semibold">{sizeText(weight.each)}</b> in each message, {sizeText(weight.hundred)} in a
        hundred
      </p>
      {review.heaviest && <Heaviest heaviest={review.heaviest} />}
      {review.findings.length === 0 && <p className="text-pine">Nothing to mind.</p>}
      <ul className="flex flex-col gap-1.5">
        {review.findings.map((finding) => (
          <FindingRow
            key={`${finding.code} ${finding.block} ${finding.message}`}
            finding={finding}
            onSelect={onSelect}
          />
        ))}
      </ul>
    </section>
  );
}

/** Whose own pictures weigh most. */
function Heaviest({ heaviest }: { heaviest: Api["HeaviestAnswer"] }) {
  const { look } = useLens();
  const { person, name, address } = heaviest.account;
  return (
    <p className="text-soft">
      Heaviest picture: {sizeText(heaviest.bytes)},{" "}
      <button type="button" className="min-h-6 text-lens" onClick={() => look({ person, address })}>
        {name}
      </button>
      {heaviest.measured < heaviest.of && `, of ${heaviest.measured} weighed so far of ${heaviest.of}`}
    </p>
  );
}

function FindingRow({ finding, onSelect }: { finding: Api["FindingAnswer"]; onSelect: (block: string) => void }) {
  const [isOpen, setOpen] = useState(false);
  const { look } = useLens();
  return (
    <li>
      {finding.people > 0 && finding.first.length > 0 && (
        <button
          type="button"
          aria-expanded={isOpen}
          onClick={() => setOpen(!isOpen)}
          className="min-h-6 border-b-[1.5px] border-dotted border-ochre font-semibold text-ochre"
        >
          {finding.people === 1 ? "1 account" : `${finding.people} accounts`}
        </button>
      )}{" "}
      {finding.message}{" "}
      {finding.block !== "" && (
        <button
          type="button"
          onClick={() => onSelect(finding.block)}
          className="min-h-6 border-b-[1.5px] border-dotted border-soft"
        >
          Go to the block
        </button>
      )}
      {isOpen && (
        <ul className="mt-1 border-l-[3px] border-line pl-2">
          {finding.first.map((account) => (
            <li key={account.address}>
              <button
                type="button"
                className="min-h-6 text-left text-lens"
                onClick={() => look({ person: account.person, address: account.address })}
              >
                {account.name}
              </button>
            </li>
          ))}
          {finding.people > finding.first.length && (
            <li className="text-soft">and {finding.people - finding.first.length} more</li>
          )}
        </ul>
      )}
    </li>
  );
}
