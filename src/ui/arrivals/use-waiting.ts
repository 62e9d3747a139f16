"use client";
import { useInfiniteQuery, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useMemo } from "react";
import { openStates } from "#core/arrivals/journey.ts";
import type { ArrivalAnswer } from "#server/arrivals/list-arrivals.ts";
import { apiGet, queryOf } from "../kit/api.ts";
import type { groupings, shows, sorts } from "./waiting-filter.tsx";

/** Rows asked for at a time. */
const PAGE = 100;
/** The list looks for new arrivals this often, ms. */
const LOOK_MS = 5000;
/** Pages up to which all that was loaded is looked at that often; more is looked at more seldom, or it would be asked for all the time. */
const LOOKED_PAGES = 4;
/** Milliseconds between two looks at what was loaded, by its pages. */
export const lookEvery = (pages: number): number => LOOK_MS * Math.max(1, pages / LOOKED_PAGES);
/** States asked for by what is to be shown. */
const STATES = { all: openStates.join(","), ready: "ready", sure: "ready", problem: "failed" } as const satisfies Record<
  (typeof shows)[number],
  string
>;

interface ArrivalPage {
  readonly items: readonly ArrivalAnswer[];
  readonly next: string | null;
  readonly total: number;
}
interface WaitingFilter {
  readonly queue: string;
  readonly source: string;
  readonly show: (typeof shows)[number];
  readonly sort: (typeof sorts)[number];
  readonly group: (typeof groupings)[number];
  readonly mine: boolean;
  readonly q: string;
  /** Id of the arrival that the address names. */
  readonly at: string | null;
}

/**
 * What waits, as far as it was loaded, and ways to get more of it and to take rows out before the server has answered. What is `away` is being
 * filed: it is left out, whatever the server still lists, until that has come to an end.
 */
export function useWaiting(filter: WaitingFilter, company: string | undefined, away: ReadonlySet<string>) {
  const client = useQueryClient();
  const { queue, source, mine, q } = filter;
  // Under headings they stand in the order of these.
  const sort = { none: filter.sort, sender: "sender", source: "source", day: filter.sort === "oldest" ? "oldest" : "newest" }[filter.group];
  const wish = {
    queue,
    source,
    company,
    sort,
    mine,
    q,
    state: STATES[filter.show],
    ...(filter.show === "sure" ? { sure: 1 } : {}),
    limit: PAGE,
  };
  const listKey = ["arrivals", wish] as const;
  const list = useInfiniteQuery({
    queryKey: listKey,
    initialPageParam: "",
    getNextPageParam: (last: ArrivalPage) => last.next ?? undefined,
    refetchInterval: (query) => lookEvery(query.state.data?.pages.length ?? 0),
    queryFn: ({ pageParam, signal }) => apiGet<ArrivalPage>(`/arrivals${queryOf({ ...wish, cursor: pageParam })}`, signal),
  });
  const loaded = useMemo(() => (list.data?.pages.flatMap((p) => p.items) ?? []).filter((a) => !away.has(a.id)), [list.data, away]);
  // An address can name a document that the list has not come to, or that the filter leaves out. It is fetched and stands first; until it is
  // there nothing else is open in its place, or the wrong document would be filed.
  const isMissing = filter.at !== null && list.isSuccess && !away.has(filter.at) && !loaded.some((a) => a.id === filter.at);
  const named = useQuery({
    queryKey: ["arrivals", "one", filter.at],
    enabled: isMissing,
    retry: false,
    queryFn: ({ signal }) => apiGet<ArrivalAnswer>(`/arrivals/${filter.at ?? ""}`, signal),
  });
  const isSought = isMissing && named.isPending;
  const isOpen = named.data !== undefined && openStates.some((s) => s === named.data.state);
  const items = useMemo(
    () => (isMissing && isOpen && named.data ? [named.data, ...loaded] : loaded),
    [isMissing, isOpen, named.data, loaded],
  );
  const { hasNextPage, isFetchingNextPage, fetchNextPage } = list;
  const more = useCallback((): void => {
    if (hasNextPage && !isFetchingNextPage) void fetchNextPage();
  }, [hasNextPage, isFetchingNextPage, fetchNextPage]);
  /** Takes rows out of the list at once; the server's answer follows. */
  const takeOut = (ids: readonly string[]): void => {
    const out = new Set(ids);
    // A look that has begun would bring them back.
    void client.cancelQueries({ queryKey: listKey });
    client.setQueryData<{ pages: ArrivalPage[]; pageParams: unknown[] }>(
      listKey,
      (old) =>
        old && {
          ...old,
          pages: old.pages.map((p) => ({ ...p, items: p.items.filter((a) => !out.has(a.id)), total: p.total - out.size })),
        },
    );
  };
  const listed = list.data?.pages.flatMap((p) => p.items).filter((a) => away.has(a.id)).length ?? 0;
  return {
    list,
    items,
    /** More is loaded than is asked for again after each document. */
    isLong: (list.data?.pages.length ?? 0) > LOOKED_PAGES,
    total: (list.data?.pages[0]?.total ?? 0) - listed,
    isSought,
    isGone: isMissing && !isSought && !isOpen,
    more,
    takeOut,
  };
}
