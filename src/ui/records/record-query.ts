import type { RecordAnswer } from "#server/records/load-record-page.ts";
import { apiGet } from "../kit/api.ts";
import { recordPath } from "./record-href.ts";

/** Asks for one record; what is there for less than half a minute is not asked for again. */
export const recordQuery = (named: { readonly company: string; readonly type: string; readonly key: string }) => ({
  queryKey: ["record", named.company, named.type, named.key],
  staleTime: 30_000,
  queryFn: ({ signal }: { signal: AbortSignal }) => apiGet<RecordAnswer>(`${recordPath(named)}?company=${named.company}`, signal),
});
