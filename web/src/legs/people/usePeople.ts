import { keepPreviousData, useQueries, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, take, type Api } from "../../api/client";
import { filterQuery, pagesOf, type PeopleFilter } from "./peopleState";

const pageSize = 200; // people asked for at once

/** Everybody a filter finds: the first page with facets at once, further pages as their rows come into sight. */
export function usePeople(filter: PeopleFilter, columns: readonly string[]) {
  const [sight, setSight] = useState({ first: 0, last: 0 });
  const query = { ...filterQuery(filter), columns: columns.join(",") };
  const head = useQuery({
    queryKey: ["people", "list", query, 0],
    queryFn: () => take(api.GET("/api/people", { params: { query: { ...query, limit: pageSize, facets: true } } })),
    placeholderData: keepPreviousData,
    meta: { followsDrafts: true },
  });
  const total = head.data?.total ?? 0;
  const wanted = pagesOf(sight.first - pageSize / 2, sight.last + pageSize / 2, pageSize, total).filter(
    (page) => page > 0,
  );
  const pages = useQueries({
    queries: wanted.map((page) => ({
      queryKey: ["people", "list", query, page],
      queryFn: () =>
        take(
          api.GET("/api/people", {
            params: { query: { ...query, offset: page * pageSize, limit: pageSize, facets: false } },
          }),
        ),
    })),
  });
  const row = (index: number): Api["PersonRow"] | undefined => {
    const page = Math.floor(index / pageSize);
    const data = page === 0 ? head.data : pages[wanted.indexOf(page)]?.data;
    return data?.people[index % pageSize];
  };
  return { head, total, row, onSight: (first: number, last: number) => setSight({ first, last }) };
}
