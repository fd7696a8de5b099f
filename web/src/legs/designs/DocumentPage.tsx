import { useMutation, useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { Button } from "../../kit/Button";
import { Empty, Page } from "../../kit/Page";
import { Trouble } from "../../kit/Trouble";

type Row = { id: string; isEdited: boolean; document: { name: string } };

type DocumentPageProps<T extends Row> = {
  title: string;
  /** What one is called, such as "banner". */
  noun: string;
  label: string;
  /** Where the page lies; a document's own address is below it. */
  address: string;
  /** The list's query. */
  list: { data: T[] | undefined; error: Error | null };
  queryKey: string;
  lede: (all: readonly T[]) => string;
  about?: (one: T) => string;
  add: (taken: string[]) => Promise<{ id: string }>;
  /** What belongs here, while there is nothing. */
  empty: ReactNode;
  columns: string;
  children: (shown: string) => ReactNode;
};

/** A page of documents of one kind: the list, one of them to edit, and what is seen of it. */
export function DocumentPage<T extends Row>(props: DocumentPageProps<T>) {
  const { title, noun, label, address, list, queryKey, lede, about, add, empty, columns, children } = props;
  const { id } = useParams();
  const queries = useQueryClient();
  const navigate = useNavigate();
  const all = list.data ?? [];
  const adding = useMutation({
    mutationFn: () => add(all.map((one) => one.document.name)),
    onSuccess: async (made) => {
      await queries.invalidateQueries({ queryKey: [queryKey] });
      void navigate(`${address}/${made.id}`);
    },
  });
  const shown = id ?? all[0]?.id;
  return (
    <Page
      title={title}
      lede={
        <>
          <Link to="/designs" className="underline">
            All designs
          </Link>
          . {all.length === 0 ? `No ${noun} yet.` : lede(all)}
        </>
      }
      action={
        <Button look="main" disabled={adding.isPending} onClick={() => adding.mutate()}>
          New {noun}
        </Button>
      }
    >
      <Trouble error={list.error ?? adding.error} />
      {list.data && all.length === 0 && (
        <Empty step={<Button onClick={() => adding.mutate()}>Write the first one</Button>}>{empty}</Empty>
      )}
      {shown && (
        <div className={`grid h-full min-h-0 gap-6 ${columns}`}>
          <DocumentList
            label={label}
            address={address}
            shown={shown}
            documents={all.map((one) => ({
              id: one.id,
              isEdited: one.isEdited,
              name: one.document.name,
              about: about?.(one) ?? "",
            }))}
          />
          {children(shown)}
        </div>
      )}
    </Page>
  );
}

type TakeOutProps = { address: string; queryKey: string; remove: () => Promise<unknown> };

/** Takes a document out and goes back to the others; says why where it cannot be. */
export function TakeOut({ address, queryKey, remove }: TakeOutProps) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const removing = useMutation({
    mutationFn: remove,
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: [queryKey] });
      void navigate(address);
    },
  });
  return (
    <>
      <Button disabled={removing.isPending} onClick={() => removing.mutate()}>
        Take it out
      </Button>
      <Trouble error={removing.error} />
    </>
  );
}

type DocumentListProps = {
  label: string;
  address: string;
  shown: string | undefined;
  documents: readonly { id: string; isEdited: boolean; name: string; about: string }[];
};

/** The documents of a kind, each a link. */
function DocumentList({ label, address, shown, documents }: DocumentListProps) {
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
