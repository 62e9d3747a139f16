import { z } from "zod";
import { ok, type Result } from "#core/shared/result.ts";
import type { Actor } from "../people/load-actor.ts";
import { db } from "../db/connect.ts";
import { now } from "../ports/clock.ts";
import { textOfWords } from "#core/pages/page-text.ts";
import { loadPages, type PageRow } from "../reading/page-rows.ts";
import { PAGE_BREAK } from "../reading/read-outcome.ts";
import { BACK, FRONT, type LoadedPaper, readPageOf } from "../matching/load-paper.ts";
import { answersFor, type FoundRow, type ReadAnswer } from "../matching/load-suggestions.ts";
import { readAndMatch } from "../matching/suggest-for.ts";
import { type LoadedSource, loadSources, SOURCES_MAX, sourceSchema } from "./load-sources.ts";

/** Piles read in one call: each takes some 20 ms. */
export const PILES_MAX = 20;
/** Pages of a pile whose text is matched; of longer ones the first and the last say what it is. */
const TEXT_PAGES_MAX = 40;

const pageSchema = z.object({ source: z.number().int().min(0), page: z.number().int().min(1) });

/** Piles on the bench: the pages of each in order, by source (its place in the list) and page number. */
export const pilesSchema = z.object({
  sources: z.array(sourceSchema).min(1).max(SOURCES_MAX),
  piles: z
    .array(z.object({ pages: z.array(pageSchema).min(1).max(20_000) }))
    .min(1)
    .max(PILES_MAX),
});

/** What was read off a pile and the records proposed for it; null while one of its pages still has to be read. */
export interface PilesAnswer {
  readonly piles: readonly (ReadAnswer | null)[];
}

/**
 * Reads piles on the bench and finds their records before anything is cut: what an arrival of these pages would get. Writes nothing; the same pages, records and
 * history give the same answer. Records that the person may not see are left out. Refuses what `loadSources` refuses.
 */
export async function suggestPiles(actor: Actor, asked: z.infer<typeof pilesSchema>): Promise<Result<PilesAnswer>> {
  const loaded = await loadSources(db(), actor, asked.sources, { lock: false, anyState: false });
  if (!loaded.ok) return loaded;
  const found: FoundRow<number>[] = [];
  for (const [id, pile] of asked.piles.entries()) {
    const paper = await paperOfPile(loaded.value, pile.pages);
    if (!paper) continue;
    const { read, types, suggested } = await readAndMatch(paper);
    found.push({ id, readings: read.readings, doubts: read.doubts, types, suggestions: suggested.suggestions, none: suggested.none });
  }
  const answers = await answersFor(actor, found);
  return ok({ piles: asked.piles.map((_, id) => answers.get(id) ?? null) });
}

/** A pile as reading takes it; null when a page is not read yet, or none of its pages is there. */
async function paperOfPile(
  sources: readonly LoadedSource[],
  pages: readonly { readonly source: number; readonly page: number }[],
): Promise<LoadedPaper | null> {
  const asked = pages.length <= TEXT_PAGES_MAX ? pages : [...pages.slice(0, TEXT_PAGES_MAX - BACK), ...pages.slice(-BACK)];
  const first = sources[asked[0]?.source ?? 0];
  if (!first) return null;
  const rows = new Map<string, PageRow>();
  for (const [s, source] of sources.entries()) {
    const numbers = asked.filter((p) => p.source === s).map((p) => p.page);
    for (const row of await loadPages(db(), source.sha256, numbers)) rows.set(`${s}:${row.number}`, row);
  }
  // Numbered as they will be in the document that is made of them.
  const read = asked.flatMap((p, i) => {
    const row = rows.get(`${p.source}:${p.page}`);
    return row && row.wordsFrom !== null ? [{ ...row, number: i + 1 }] : [];
  });
  if (read.length < asked.length) return null;
  const { arrival } = first;
  return {
    arrival: {
      id: arrival?.id ?? "",
      state: "ready",
      company: arrival?.company ?? first.document?.company ?? null,
      queue: arrival?.queue ?? "",
      fileName: first.fileName,
      sender: arrival?.sender ?? null,
      receivedAt: arrival?.receivedAt ?? now(),
      recordId: arrival?.recordId ?? null,
      documentType: arrival?.documentType ?? null,
    },
    kind: "pdf",
    pages: read.filter((p) => p.number <= FRONT || p.number > read.length - BACK).map(readPageOf),
    text: read.map((p) => textOfWords(p.words)).join(PAGE_BREAK),
    subject: null,
    isMail: false,
    answers: [],
    isSeveral: false,
    invoice: null,
    codes: read.flatMap((p) => p.codes.map((c) => ({ ...c, page: p.number }))),
  };
}
