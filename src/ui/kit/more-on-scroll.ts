import type { UIEvent } from "react";

/** Points above the end of a list at which more of it is fetched: before somebody gets there. */
const BEFORE_END = 900;

interface Pages {
  readonly hasNextPage: boolean;
  readonly isFetchingNextPage: boolean;
  fetchNextPage(): Promise<unknown>;
}

/** Fetches more of a list while it is scrolled towards its end. */
export function moreOnScroll(pages: Pages): (event: UIEvent<HTMLElement>) => void {
  return (event) => {
    const el = event.currentTarget;
    if (el.scrollHeight - el.scrollTop - el.clientHeight < BEFORE_END && pages.hasNextPage && !pages.isFetchingNextPage)
      void pages.fetchNextPage();
  };
}
