import { Listbox, ListboxButton, ListboxOption, ListboxOptions } from "@headlessui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useParams, useSearchParams } from "react-router";
import { api, take, type Api } from "../../api/client";
import { count } from "../../frame/legs";
import { Button } from "../../kit/Button";
import { Empty, Page } from "../../kit/Page";
import { Trouble } from "../../kit/Trouble";
import { Facets } from "./Facets";
import { FileDrop, FilePick, FileProgress } from "./FileDrop";
import { Lacking } from "./Lacking";
import { ManyAtOnce } from "./ManyAtOnce";
import { PeopleList } from "./PeopleList";
import { PeopleTabs } from "./PeopleTabs";
import { everybody, filterFrom, filterTo, isNarrowed, nobody, type PeopleFilter, type Selection } from "./peopleState";
import { PersonDetail } from "./PersonDetail";
import { usePeople } from "./usePeople";
import { useUpload } from "./useUpload";

/** Who have we, and are their facts right? */
export function People() {
  const { id } = useParams();
  const [parameters, setParameters] = useSearchParams();
  // The address follows the filter and not the other way: it lags behind somebody who types.
  const [filter, setFilter] = useState(() => filterFrom(parameters));
  const [columns, setColumns] = useState<readonly string[]>(["title", "department"]);
  const [selection, setSelection] = useState<Selection>(nobody);
  const fields = useQuery({ queryKey: ["fields"], queryFn: () => take(api.GET("/api/fields")) });
  const people = usePeople(filter, columns);
  const upload = useUpload();
  const narrow = (next: PeopleFilter) => {
    setSelection(nobody);
    setFilter(next);
    setParameters(filterTo(next), { replace: true });
  };
  const answer = people.head.data;
  const isEmpty = people.total === 0 && filter.search === "" && !isNarrowed(filter) && people.head.isSuccess;
  const query = filterTo(filter).toString();

  return (
    <FileDrop onFile={(file) => upload.start(file)}>
      <Page
        title="Who we have"
        lede={lede(filter, people.total, answer)}
        action={<FilePick onFile={(file) => upload.start(file)} />}
      >
        <div className="flex h-full min-h-0 flex-col gap-3">
          <PeopleTabs />
          <Trouble error={upload.error ?? people.head.error ?? fields.error} />
          <FileProgress share={upload.share} />
          {isEmpty ? (
            <Empty>
              Everybody in your company stands here, with their facts and where each came from. Begin with your
              directory’s content as an LDIF file, or a table saved as CSV: drop it on this page, or pick it. You will
              see what it would do before it does anything.
            </Empty>
          ) : (
            <div className="grid min-h-0 flex-1 grid-cols-[164px_minmax(0,1fr)_370px] gap-5">
              <Facets counts={answer?.facets ?? {}} filter={filter} onFilter={narrow} />
              <div className="flex min-h-0 flex-col gap-2">
                <div className="flex items-center gap-2">
                  <input
                    type="search"
                    aria-label="Search people"
                    placeholder="Name, address, number or team"
                    value={filter.search}
                    onChange={(event) => narrow({ ...filter, search: event.target.value })}
                    className="w-72 rounded-[4px] border border-field bg-sheet px-3 py-1.5"
                  />
                  <ColumnPick fields={fields.data ?? []} columns={columns} onColumns={setColumns} />
                  {(isNarrowed(filter) || filter.search !== "") && (
                    <Button look="quiet" onClick={() => narrow(everybody)}>
                      Show everybody
                    </Button>
                  )}
                </div>
                <ManyAtOnce
                  selection={selection}
                  filter={filter}
                  found={people.total}
                  fields={fields.data ?? []}
                  onSelect={setSelection}
                />
                {people.total === 0 && people.head.isSuccess ? (
                  <p className="px-1.5 py-2 text-soft">Nobody is found like this.</p>
                ) : (
                  <PeopleList
                    total={people.total}
                    row={people.row}
                    columns={columns.flatMap((name) => fields.data?.find((field) => field.name === name) ?? [])}
                    open={id}
                    selection={selection}
                    onSelect={setSelection}
                    onSight={people.onSight}
                    personPath={(person) => `/people/${person}${query && `?${query}`}`}
                  />
                )}
              </div>
              {id ? (
                <PersonDetail key={id} id={id} closePath={`/people${query && `?${query}`}`} />
              ) : (
                <Lacking
                  counts={answer?.facets?.missing ?? []}
                  whole={people.total}
                  filter={filter}
                  onFilter={narrow}
                />
              )}
            </div>
          )}
        </div>
      </Page>
    </FileDrop>
  );
}

function lede(filter: PeopleFilter, total: number, answer: Api["PeopleAnswer"] | undefined) {
  const people = count(total, "person", "people");
  if (filter.search && answer && answer.forgiven.length > 0)
    return `Nothing is written “${filter.search}”; ${people} with ${answer.forgiven.slice(0, 4).join(", ")}.`;
  if (filter.search) return `${people} with “${filter.search}”.`;
  if (isNarrowed(filter)) return `${people} like this.`;
  return total === 0
    ? "Nobody yet."
    : `${people}. Drop a directory file anywhere on this page to see what it would change.`;
}

type ColumnPickProps = {
  fields: readonly Api["FieldAnswer"][];
  columns: readonly string[];
  onColumns: (columns: readonly string[]) => void;
};

function ColumnPick({ fields, columns, onColumns }: ColumnPickProps) {
  return (
    <Listbox value={[...columns]} onChange={onColumns} multiple>
      <ListboxButton className="min-h-8 rounded-[4px] border border-field bg-sheet px-2.5 py-1 text-second">
        Columns
      </ListboxButton>
      <ListboxOptions
        anchor={{ to: "bottom start", gap: 4 }}
        className="z-30 max-h-72 min-w-44 overflow-y-auto rounded-[4px] border border-field bg-sheet py-1 shadow-lg focus:outline-none"
      >
        {fields
          .filter((field) => field.name !== "displayName" && field.name !== "mail")
          .map((field) => (
            <ListboxOption
              key={field.name}
              value={field.name}
              className="group flex gap-2 px-3 py-1 data-focus:bg-fold"
            >
              <span aria-hidden className="w-3 text-baton">
                <span className="hidden group-data-selected:inline">✓</span>
              </span>
              {field.label}
            </ListboxOption>
          ))}
      </ListboxOptions>
    </Listbox>
  );
}
