import { Link } from "react-router";
import { Button } from "../../kit/Button";
import { Trouble } from "../../kit/Trouble";

type DocumentListProps = {
  label: string;
  address: string;
  shown: string | undefined;
  documents: readonly { id: string; isEdited: boolean; name: string; about?: string }[];
};

/** The documents of a kind, each a link. */
export function DocumentList({ label, address, shown, documents }: DocumentListProps) {
  return (
    <nav aria-label={label} className="min-h-0 overflow-y-auto">
      <ul>
        {documents.map((one) => (
          <li key={one.id}>
            <Link
              to={`${address}/${one.id}`}
              aria-current={one.id === shown ? "page" : undefined}
              className={`block min-h-7 rounded-[3px] px-3 py-1 ${one.id === shown ? "bg-sheet font-semibold shadow-[inset_3px_0_0_var(--color-baton)]" : "hover:bg-fold"}`}
            >
              <span className="block truncate">
                {one.name}
                {one.isEdited && <span className="ml-2 text-small font-normal text-soft">edited</span>}
              </span>
              {one.about && <span className="block truncate text-small font-normal text-soft">{one.about}</span>}
            </Link>
          </li>
        ))}
      </ul>
    </nav>
  );
}

/** What kept a draft from being saved, and the way out. */
export function LostDraft({ failure, reload }: { failure: Error | null; reload: () => void }) {
  if (!failure) return null;
  return (
    <div className="flex flex-col items-start gap-2">
      <Trouble error={failure} />
      <Button onClick={reload}>Load the newest state</Button>
    </div>
  );
}

/** Where a document is used, in words. */
export function usedWords(rules: readonly number[], track: string) {
  if (rules.length === 0) return "no rule uses it";
  return `${track} ${rules.length === 1 ? "rule" : "rules"} ${rules.join(", ")}`;
}
