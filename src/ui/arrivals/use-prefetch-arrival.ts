import { useQueryClient } from "@tanstack/react-query";
import type { ArrivalAnswer } from "#server/arrivals/list-arrivals.ts";
import { comparisonQuery } from "../comparing/comparison-line.tsx";
import { usePrefetchPaper } from "../pages/viewer.tsx";
import { useMe } from "../people/me-context.tsx";
import { reachQuery } from "../reach/reach-choice.tsx";
import { recordQuery } from "../records/record-query.ts";
import { previewQuery, startsWith, typeOfSheet, valuesOfSheet, wishOfSheet } from "./sheet-wish.ts";

/**
 * Loads an arrival's document ahead of time, and the record that its sheet will start with. With `whole` also what that sheet will ask for as it opens: its
 * place, who would see it, how it compares. So the next one is there at once, and whole.
 */
export function usePrefetchArrival(): (arrival: ArrivalAnswer, whole: boolean) => void {
  const client = useQueryClient();
  const paper = usePrefetchPaper();
  const { me, documentType } = useMe();
  return (arrival, whole) => {
    paper(`/arrivals/${arrival.id}`);
    const named = startsWith(arrival);
    if (!named) return;
    const fetched = client.fetchQuery(recordQuery(named));
    void fetched.then(
      (record) => {
        const typeKey = typeOfSheet(arrival, null, record, me.documentTypes);
        if (!whole || typeKey === "") return;
        const values = valuesOfSheet(arrival, documentType(typeKey), [record], {});
        const wish = wishOfSheet(typeKey, [record], values, { reaches: new Map(), title: null, shelf: null });
        void client.prefetchQuery(previewQuery(arrival.id, wish));
        void client.prefetchQuery(reachQuery(typeKey, wish.clips));
        const { company, type, key } = record;
        const comparison = comparisonQuery(arrival.id, { company, type, key, documentType: typeKey });
        if (comparison.enabled) void client.prefetchQuery(comparison);
      },
      // Whoever opens it is told.
      () => {},
    );
  };
}
