import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useRef } from "react";
import { useNavigate } from "react-router";
import type { Api } from "../../api/client";
import { nobody, toggle, type Selection } from "./peopleState";

const rowHeight = 34;

type PeopleListProps = {
  total: number;
  row: (index: number) => Api["PersonRow"] | undefined;
  columns: readonly Api["FieldAnswer"][];
  open: string | undefined;
  selection: Selection;
  onSelect: (selection: Selection) => void;
  onSight: (first: number, last: number) => void;
  personPath: (id: string) => string;
};

/** Everybody in one list; only the rows in sight are drawn. */
export function PeopleList({ total, row, columns, open, selection, onSelect, onSight, personPath }: PeopleListProps) {
  const navigate = useNavigate();
  const scroller = useRef<HTMLDivElement>(null);
  // eslint-disable-next-line react-hooks/incompatible-library -- its functions are called in this render only
  const virtual = useVirtualizer({
    count: total,
    getScrollElement: () => scroller.current,
    estimateSize: () => rowHeight,
    overscan: 15,
  });
  const items = virtual.getVirtualItems();
  const [first, last] = [items[0]?.index ?? 0, items.at(-1)?.index ?? 0];
  // The virtualizer is the outside system here: what it shows decides which pages are asked for.
  useEffect(() => onSight(first, last), [first, last]); // eslint-disable-line react-hooks/exhaustive-deps -- a new function each time
  const template = { gridTemplateColumns: `28px 1.25fr repeat(${columns.length}, 1fr) 1.5fr` };
  const known = () => Array.from({ length: last - first + 1 }, (_, index) => row(first + index)?.id ?? "");
  return (
    <div role="table" aria-label="People" aria-rowcount={total + 1} className="flex min-h-0 flex-1 flex-col">
      <div role="rowgroup" className="overflow-y-hidden [scrollbar-gutter:stable]">
        <div
          role="row"
          className="grid gap-3 border-b border-ink pb-1 text-small font-semibold text-soft"
          style={template}
        >
          <span role="columnheader" className="flex items-center justify-center">
            <input
              type="checkbox"
              aria-label="Select everybody found"
              checked={selection.all}
              className="size-4 accent-baton"
              onChange={(event) => onSelect(event.target.checked ? { ...nobody, all: true } : nobody)}
            />
          </span>
          <span role="columnheader">Name</span>
          {columns.map((column) => (
            <span key={column.name} role="columnheader" className="truncate">
              {column.label}
            </span>
          ))}
          <span role="columnheader">Address</span>
        </div>
      </div>
      <div
        ref={scroller}
        role="rowgroup"
        tabIndex={0}
        aria-label="Rows"
        className="min-h-0 flex-1 overflow-y-auto [scrollbar-gutter:stable]"
      >
        <div role="presentation" className="relative" style={{ height: virtual.getTotalSize() }}>
          {items.map((item) => {
            const person = row(item.index);
            const place = { height: rowHeight, top: item.start, ...template };
            if (!person)
              return (
                <div
                  key={item.key}
                  role="row"
                  aria-rowindex={item.index + 2}
                  className="absolute inset-x-0 border-b border-line"
                  style={place}
                />
              );
            const isSelected = selection.all || selection.ids.has(person.id);
            const go = () => void navigate(personPath(person.id));
            return (
              <div
                key={item.key}
                role="row"
                aria-rowindex={item.index + 2}
                aria-selected={person.id === open}
                className={`absolute inset-x-0 grid items-center gap-3 border-b border-line ${person.id === open ? "bg-sheet shadow-[inset_3px_0_0_var(--color-baton)]" : isSelected ? "bg-fold" : "hover:bg-sheet"}`}
                style={place}
                onClick={go}
              >
                <span role="cell" className="flex items-center justify-center">
                  <input
                    type="checkbox"
                    aria-label={`Select ${person.name}`}
                    checked={isSelected}
                    className="size-4 accent-baton"
                    onClick={(event) => {
                      event.stopPropagation();
                      onSelect(toggle(selection, person.id, event.shiftKey ? known() : null));
                    }}
                    onChange={() => undefined}
                  />
                </span>
                <span role="cell" className="truncate">
                  <button type="button" className="min-h-6 font-semibold hover:underline" onClick={go}>
                    {person.name}
                  </button>
                </span>
                {person.cells.map((cell, index) => (
                  <span key={columns[index]?.name ?? index} role="cell" className="truncate">
                    {cell}
                  </span>
                ))}
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
