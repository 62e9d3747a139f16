import { useQueryClient } from "@tanstack/react-query";
import type { ArrivalAnswer } from "#server/arrivals/list-arrivals.ts";
import type { RecordAnswer } from "#server/records/load-record-page.ts";
import { apiGet } from "../kit/api.ts";
import { usePrefetchPaper } from "../pages/viewer.tsx";
import { recordPath } from "../records/record-href.ts";

/** Loads an arrival's paper ahead of time, and the record that its sheet will show, so that the next one is there at once. */
export function usePrefetchArrival(): (arrival: Pick<ArrivalAnswer, "id" | "tied" | "suggestions">) => void {
  const client = useQueryClient();
  const paper = usePrefetchPaper();
  return (arrival) => {
    paper(`/arrivals/${arrival.id}`);
    const record = arrival.tied ?? arrival.suggestions[0];
    if (record)
      void client.prefetchQuery({
        queryKey: ["record", record.company, record.type, record.key],
        staleTime: 30_000,
        queryFn: () => apiGet<RecordAnswer>(`${recordPath(record)}?company=${record.company}`),
      });
  };
}
