import { useQueries } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";
import { type BenchTable, cutBetween, type Pile } from "#core/bench/bench-table.ts";
import type { BenchAnswer } from "#server/bench/load-bench.ts";
import type { PilesAnswer } from "#server/bench/suggest-piles.ts";
import type { ReadAnswer } from "#server/matching/load-suggestions.ts";
import { apiSend } from "../kit/api.ts";

/** Piles asked about in one call; the server takes at most 20. */
const AT_ONCE = 10;
/** So long the table must lie still before new piles are asked about, ms. */
const STILL_MS = 300;
/** Piles whose pages are still being read are asked about again so often, ms. */
const AGAIN_MS = 3_000;

/** Names a pile by its pages; null for one that still holds a proposed cut: it is several documents, and would be read as one. */
function signatureOf(pile: Pile, cuts: BenchAnswer["cuts"]): string | null {
  if (pile.pages.some((p, i) => cutBetween(p, pile.pages[i + 1], cuts))) return null;
  return pile.pages.map((p) => `${p.source}:${p.page}`).join(" ");
}

/** What the program proposes for each pile, by the pile's id. Each set of pages is asked about once; undo finds its answer again. */
export function usePileSuggestions(
  answer: BenchAnswer,
  table: BenchTable,
): { readonly found: ReadonlyMap<number, ReadAnswer>; readonly isReading: boolean } {
  const [chunks, setChunks] = useState<readonly (readonly string[])[]>([]);
  const wanted = useMemo(
    () => table.piles.flatMap((p) => (signatureOf(p, answer.cuts) === null ? [] : [signatureOf(p, answer.cuts) ?? ""])),
    [table, answer.cuts],
  );
  useEffect(() => {
    const timer = setTimeout(() => {
      setChunks((now) => {
        const asked = new Set(now.flat());
        const fresh = [...new Set(wanted)].filter((w) => !asked.has(w));
        const more = Array.from({ length: Math.ceil(fresh.length / AT_ONCE) }, (_, i) => fresh.slice(i * AT_ONCE, (i + 1) * AT_ONCE));
        return more.length === 0 ? now : [...now, ...more];
      });
    }, STILL_MS);
    return () => clearTimeout(timer);
  }, [wanted]);
  const sources = answer.sources.map((s) => (s.arrival ? { arrival: s.arrival } : { document: s.document ?? "" }));
  const results = useQueries({
    queries: chunks.map((signatures) => ({
      queryKey: ["bench-piles", sources, signatures],
      staleTime: Infinity,
      queryFn: ({ signal }: { signal: AbortSignal }) =>
        apiSend<PilesAnswer>("POST", "/bench/suggestions", { sources, piles: signatures.map((s) => ({ pages: pagesOf(s) })) }, signal),
      refetchInterval: (q: { state: { data: PilesAnswer | undefined } }) =>
        q.state.data?.piles.some((p) => p === null) ? AGAIN_MS : (false as const),
    })),
  });
  const bySignature = new Map(
    chunks.flatMap((signatures, c) => signatures.map((s, i) => [s, results[c]?.data?.piles[i] ?? null] as const)),
  );
  const found = new Map(
    table.piles.flatMap((p) => {
      const known = bySignature.get(signatureOf(p, answer.cuts) ?? "");
      return known ? [[p.id, known] as const] : [];
    }),
  );
  return { found, isReading: wanted.some((w) => !bySignature.get(w)) && !results.some((r) => r.isError) };
}

const pagesOf = (signature: string): readonly { readonly source: number; readonly page: number }[] =>
  signature.split(" ").map((key) => {
    const [source = 0, page = 1] = key.split(":").map(Number);
    return { source, page };
  });
