import { and, eq, sql } from "drizzle-orm";
import { z } from "zod";
import { type ContentKind, hasPictures } from "#core/arrivals/limits.ts";
import { textOfWords } from "#core/pages/page-text.ts";
import { openStates } from "#core/arrivals/journey.ts";
import { parseArrivalId, parseDocumentCode, parseSha256, type Sha256 } from "#core/shared/brand.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { arrivalFilter, documentFilter } from "../access/filters.ts";
import { arrival } from "../arrivals/tables.ts";
import type { Tx } from "../db/connect.ts";
import { localFile } from "../documents/local-file.ts";
import { content, document, documentVersion } from "../documents/tables.ts";
import type { Actor } from "../people/load-actor.ts";
import { loadPageBriefs, loadPages, type PageBrief, type PageRow } from "../reading/page-rows.ts";
import { BODY_MAX, PAGE_BREAK, PAGES_BODY_MAX } from "../reading/read-outcome.ts";
import { runTool } from "../reading/run-tool.ts";

/** What can lie on the bench: an arrival that waits, or a document that is filed. */
export const sourceSchema = z.union([z.object({ arrival: z.uuid() }), z.object({ document: z.string().max(20) })]);
export type Source = z.infer<typeof sourceSchema>;

/** Documents that lie on the bench at once. */
export const SOURCES_MAX = 50;

/** A source as it lies on the bench. */
export interface LoadedSource {
  readonly arrival: typeof arrival.$inferSelect | null;
  readonly document: { readonly id: number; readonly code: string; readonly version: number; readonly company: string } | null;
  readonly fileName: string;
  readonly sha256: Sha256;
  readonly kind: ContentKind;
  readonly pageCount: number;
  readonly problem: string | null;
}

/**
 * Loads the sources for the bench, arrivals locked when `lock` says so; with `anyState` also those that wait no more. Refuses not-found for an arrival the person may not see or a document they may not file, stale for an arrival that
 * no longer waits, not-for-bench for what is no PDF or picture, not-readable for what cannot be opened (locked, broken).
 */
export async function loadSources(
  tx: Tx,
  actor: Actor,
  sources: readonly Source[],
  wish: { readonly lock: boolean; readonly anyState: boolean },
): Promise<Result<readonly LoadedSource[]>> {
  const loaded: LoadedSource[] = [];
  for (const source of sources) {
    const one =
      "arrival" in source ? await loadArrivalSource(tx, actor, source.arrival, wish) : await loadDocumentSource(tx, actor, source.document);
    if (!one.ok) return one;
    loaded.push(one.value);
  }
  return ok(loaded);
}

async function loadArrivalSource(
  tx: Tx,
  actor: Actor,
  idText: string,
  wish: { readonly lock: boolean; readonly anyState: boolean },
): Promise<Result<LoadedSource>> {
  const id = parseArrivalId(idText);
  if (!id) return refuse("not-found");
  const asked = tx
    .select()
    .from(arrival)
    .where(sql`${eq(arrival.id, id)} and ${await arrivalFilter(actor)}`);
  const row = (await (wish.lock ? asked.for("update") : asked))[0];
  if (!row) return refuse("not-found");
  if (!wish.anyState && !(openStates as readonly string[]).includes(row.state)) return refuse("stale", row.fileName);
  return withPages(tx, { arrival: row, document: null, fileName: row.fileName, sha256: parseSha256(row.sha256) });
}

async function loadDocumentSource(tx: Tx, actor: Actor, codeText: string): Promise<Result<LoadedSource>> {
  const code = parseDocumentCode(codeText);
  if (!code) return refuse("not-found");
  const row = (
    await tx
      .select({
        id: document.id,
        code: document.code,
        company: document.company,
        version: document.currentVersion,
        sha256: documentVersion.sha256,
        fileName: documentVersion.fileName,
      })
      .from(document)
      .innerJoin(documentVersion, and(eq(documentVersion.documentId, document.id), eq(documentVersion.number, document.currentVersion)))
      .where(sql`${eq(document.code, code)} and ${document.unfiledAt} is null and ${await documentFilter(actor, "file")}`)
  )[0];
  if (!row) return refuse("not-found");
  const about = { id: row.id, code: row.code, version: row.version, company: row.company };
  return withPages(tx, { arrival: null, document: about, fileName: row.fileName, sha256: parseSha256(row.sha256) });
}

async function withPages(tx: Tx, source: Omit<LoadedSource, "kind" | "pageCount" | "problem">): Promise<Result<LoadedSource>> {
  const about = (
    await tx
      .select({ kind: content.kind, state: content.state, pages: content.pages, problem: content.problem })
      .from(content)
      .where(eq(content.sha256, source.sha256))
  )[0];
  const kind = about?.kind ?? null;
  const problem = (about?.problem as { code?: string } | null)?.code ?? null;
  if (about?.state === "read" && kind !== null && !hasPictures(kind)) return refuse("not-for-bench", source.fileName);
  if (!about || kind === null || !hasPictures(kind) || !about.pages) return refuse("not-readable", source.fileName);
  // Longer than the limit for one document: it can be looked at and taken apart, that is what the bench is for.
  if (about.state === "failed" && problem !== "too-many-pages") return refuse("not-readable", source.fileName);
  return ok({ ...source, kind, pageCount: about.pages, problem });
}

/** Size of a page as displayed, points. */
export interface PageSize {
  readonly width: number;
  readonly height: number;
}

/** A page of a source as the file that it goes into needs to know it. */
export interface SourcePage {
  readonly number: number;
  readonly isLooked: boolean;
  /** What it says; null where the content's text holds it, which parts are given within the database. */
  readonly text: string | null;
  /** All that is known of it; only where that was asked for. */
  readonly row: PageRow | null;
}

/**
 * What is known of a source's pages, of some (by their numbers) all of it; of one too long to be read nothing. What they say is left where it is if the
 * content's text holds it: the words of five hundred pages with their places are six megabytes.
 */
export async function loadSourcePages(tx: Tx, source: LoadedSource, whole: ReadonlySet<number>): Promise<readonly SourcePage[]> {
  const [briefs, about] = await Promise.all([
    loadPageBriefs(tx, source.sha256),
    tx
      .select({
        looked: content.looked,
        length: sql<number>`coalesce(length(${content.body}), 0)`,
        texts: sql<number>`coalesce(cardinality(string_to_array(${content.body}, ${PAGE_BREAK})), 0)`,
      })
      .from(content)
      .where(eq(content.sha256, source.sha256)),
  ]);
  if (briefs.length !== source.pageCount) return [];
  const { looked, length, texts } = about[0] ?? { looked: "no", length: 0, texts: 0 };
  // Read before texts of pages were kept longer than others, or longer than any is kept.
  const isCut = length === BODY_MAX || length === PAGES_BODY_MAX;
  // Until all its pictures were looked at the text holds what the layers say, and nothing else.
  const isOfPages = looked === "yes" && (isCut ? texts <= briefs.length : texts === briefs.length);
  // The last page that a cut text holds is not whole.
  const held = isOfPages ? texts - (isCut ? 1 : 0) : 0;
  // A page that was not looked at is read again with the file that it goes into.
  const asked = briefs.filter((b) => b.isLooked && (whole.has(b.number) || b.number > held)).map((b) => b.number);
  const rows = new Map((await loadPages(tx, source.sha256, asked)).map((r) => [r.number, r]));
  return briefs.map((b) => {
    const row = rows.get(b.number) ?? null;
    return { number: b.number, isLooked: b.isLooked, text: b.number <= held ? null : row ? textOfWords(row.words) : "", row };
  });
}

/** The same without words, for showing; and the sizes of the pages also of one too long to be read. */
export async function loadBriefs(
  tx: Tx,
  source: LoadedSource,
): Promise<{ readonly rows: readonly PageBrief[]; readonly sizes: readonly PageSize[] }> {
  const rows = await loadPageBriefs(tx, source.sha256);
  if (rows.length === source.pageCount) return { rows, sizes: rows.map((r) => ({ width: r.widthPoints, height: r.heightPoints })) };
  return { rows: [], sizes: source.kind === "pdf" ? await pdfSizes(await localFile(source.sha256), source.pageCount) : [] };
}

/** Sizes of a PDF's pages without reading them: some 20,000 in a second. */
async function pdfSizes(file: string, count: number): Promise<readonly PageSize[]> {
  const told = await runTool("pdfinfo", ["-f", "1", "-l", String(count), file], { timeoutMs: 30_000, stdoutMax: 16 * 1024 * 1024 });
  const sizes: PageSize[] = [];
  let size: PageSize | null = null;
  for (const line of told.stdout.toString("utf8").split("\n")) {
    const found = /^Page\s+\d+ size:\s+([\d.]+) x ([\d.]+) pts/.exec(line);
    if (found) size = { width: Number(found[1]), height: Number(found[2]) };
    const turned = /^Page\s+\d+ rot:\s+(\d+)/.exec(line);
    if (turned && size) {
      sizes.push(Number(turned[1]) % 180 === 0 ? size : { width: size.height, height: size.width });
      size = null;
    }
  }
  return sizes;
}
