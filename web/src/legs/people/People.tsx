import { useInfiniteQuery, useMutation, useQueryClient } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import { useRef, useState, type DragEvent } from "react";
import { useNavigate, useParams } from "react-router";
import { api, sendDirectoryFile, take, type Api } from "../../api/client";
import { count } from "../../frame/legs";
import { Button } from "../../kit/Button";
import { Empty, Page } from "../../kit/Page";
import { Trouble } from "../../kit/Trouble";
import { PersonDetail } from "./PersonDetail";

const pageSize = 200; // people asked for at once; the list asks for more as it is scrolled
const rowHeight = 34;

/** Who have we, and are their facts right? */
export function People() {
  const [search, setSearch] = useState("");
  const { id } = useParams();
  const people = useInfiniteQuery({
    queryKey: ["people", "list", search],
    queryFn: ({ pageParam }) =>
      take(api.GET("/api/people", { params: { query: { search, offset: pageParam, limit: pageSize } } })),
    initialPageParam: 0,
    getNextPageParam: (last, all) => {
      const have = all.reduce((sum, page) => sum + page.people.length, 0);
      return have < last.total ? have : undefined;
    },
  });
  const upload = useUpload();
  const [isOver, setOver] = useState(false);
  const total = people.data?.pages[0]?.total ?? 0;
  const rows = people.data?.pages.flatMap((page) => page.people) ?? [];

  const drop = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    const file = event.dataTransfer.files[0];
    if (file) upload.start(file);
  };

  return (
    <div
      className={`relative h-full ${isOver ? "outline-2 -outline-offset-8 outline-baton outline-dashed" : ""}`}
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={drop}
    >
      <Page
        title="Who we have"
        lede={
          total === 0 && !search
            ? "Nobody yet."
            : search
              ? `${count(total, "person", "people")} with “${search}”.`
              : `${count(total, "person", "people")} from the directory file. Drop a newer one anywhere on this page to see what it would change.`
        }
        action={(total > 0 || search !== "") && <FilePick onFile={upload.start} />}
      >
        <div className="flex h-full min-h-0 flex-col gap-3">
          <Trouble error={upload.error ?? people.error} />
          {upload.share !== null && <Progress share={upload.share} />}
          {total === 0 && !search && people.isSuccess ? (
            <Empty step={<FilePick onFile={upload.start} />}>
              Everybody in your company stands here, with their facts and where each came from. Begin with your
              directory’s content as an LDIF file: drop it on this page, or pick it. You will see what it would do
              before it does anything.
            </Empty>
          ) : (
            <div className="grid min-h-0 flex-1 grid-cols-[1fr_420px] gap-7">
              <div className="flex min-h-0 flex-col gap-2">
                <input
                  type="search"
                  aria-label="Search people"
                  placeholder="Name, address, title or department"
                  value={search}
                  onChange={(event) => setSearch(event.target.value)}
                  className="w-80 rounded-[4px] border border-field bg-sheet px-3 py-1.5"
                />
                <PeopleList
                  rows={rows}
                  total={total}
                  selected={id}
                  onNearEnd={() => {
                    if (people.hasNextPage && !people.isFetchingNextPage) void people.fetchNextPage();
                  }}
                />
              </div>
              {id ? <PersonDetail key={id} id={id} /> : <Hint />}
            </div>
          )}
        </div>
      </Page>
    </div>
  );
}

function Hint() {
  return (
    <p className="border-l-[3px] border-line pl-5 text-soft">
      Choose somebody to see every fact and where it comes from.
    </p>
  );
}

function useUpload() {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const [share, setShare] = useState<number | null>(null);
  const upload = useMutation({
    mutationFn: (file: File) => sendDirectoryFile(file, setShare),
    onSuccess: (plan) => {
      queries.setQueryData(["import", plan.id], plan);
      void navigate(`/people/imports/${plan.id}`);
    },
    onSettled: () => setShare(null),
  });
  return { start: (file: File) => upload.mutate(file), share, error: upload.error };
}

function Progress({ share }: { share: number }) {
  return (
    <label className="flex items-center gap-3 text-second text-soft">
      {share < 1 ? "Sending the file" : "Reading the file"}
      <progress value={share < 1 ? share : undefined} className="h-1.5 w-64 accent-baton" />
    </label>
  );
}

function FilePick({ onFile }: { onFile: (file: File) => void }) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <Button look="main" onClick={() => input.current?.click()}>
        Add from a file
      </Button>
      <input
        ref={input}
        type="file"
        accept=".ldif,.ldf,text/plain"
        aria-label="Directory file"
        tabIndex={-1}
        className="sr-only"
        onChange={(event) => {
          const file = event.target.files?.[0];
          if (file) onFile(file);
          event.target.value = "";
        }}
      />
    </>
  );
}

type PeopleListProps = {
  rows: readonly Api["PersonRow"][];
  total: number;
  selected: string | undefined;
  onNearEnd: () => void;
};

const columns = "grid grid-cols-[1.2fr_1.2fr_1.1fr_1.7fr] gap-4 px-3";

function PeopleList({ rows, total, selected, onNearEnd }: PeopleListProps) {
  const navigate = useNavigate();
  const scroller = useRef<HTMLDivElement>(null);
  // eslint-disable-next-line react-hooks/incompatible-library -- its functions are called in this render only
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => rowHeight,
    overscan: 12,
  });
  return (
    <div role="table" aria-label="People" aria-rowcount={total + 1} className="flex min-h-0 flex-1 flex-col">
      <div role="rowgroup" className="overflow-y-hidden [scrollbar-gutter:stable]">
        <div role="row" className={`${columns} border-b border-ink pb-1 text-small font-semibold text-soft`}>
          <span role="columnheader">Name</span>
          <span role="columnheader">Title</span>
          <span role="columnheader">Department</span>
          <span role="columnheader">Address</span>
        </div>
      </div>
      <div
        ref={scroller}
        role="rowgroup"
        tabIndex={0}
        aria-label="Rows"
        className="min-h-0 flex-1 overflow-y-auto [scrollbar-gutter:stable]"
        onScroll={(event) => {
          const box = event.currentTarget;
          if (box.scrollHeight - box.scrollTop - box.clientHeight < 40 * rowHeight) onNearEnd();
        }}
      >
        <div role="presentation" className="relative" style={{ height: virtual.getTotalSize() }}>
          {virtual.getVirtualItems().map((item) => {
            const person = rows[item.index];
            if (!person) return null;
            return (
              <div
                key={person.id}
                role="row"
                aria-rowindex={item.index + 2}
                aria-selected={person.id === selected}
                className={`${columns} absolute inset-x-0 items-center border-b border-line ${person.id === selected ? "bg-sheet shadow-[inset_3px_0_0_var(--color-baton)]" : "hover:bg-sheet"}`}
                style={{ height: rowHeight, top: item.start }}
                onClick={() => void navigate(`/people/${person.id}`)}
              >
                <span role="cell" className="truncate">
                  <button
                    type="button"
                    className="min-h-6 font-semibold hover:underline"
                    onClick={() => void navigate(`/people/${person.id}`)}
                  >
                    {person.name}
                  </button>
                </span>
                <span role="cell" className="truncate">
                  {person.title}
                </span>
                <span role="cell" className="truncate">
                  {person.department}
                </span>
                <span role="cell" className="truncate text-soft">
                  {person.addresses[0] ?? "no address"}
                  {person.addresses.length > 1 && ` and ${person.addresses.length - 1} more`}
                </span>
              </div>
            );
          })}
        </div>
      </div>
    </div>
  );
}
