import { createHash } from "node:crypto";
import { createReadStream } from "node:fs";
import { mkdtemp, rm } from "node:fs/promises";
import os from "node:os";
import path from "node:path";
import { and, eq, inArray, sql } from "drizzle-orm";
import { z } from "zod";
import { allowsAnywhere, allowsRecord } from "#core/access/grants.ts";
import { openStates } from "#core/arrivals/journey.ts";
import { wrongWithParts } from "#core/bench/bench-table.ts";
import { keepEnding } from "#core/bench/part-name.ts";
import type { Quarter } from "#core/pages/turn-box.ts";
import { type ArrivalId, parseArrivalId } from "#core/shared/brand.ts";
import { presentations } from "#core/shared/refusals.ts";
import { ok, type Refusal, refuse, type Result } from "#core/shared/result.ts";
import { claimedByOther } from "../arrivals/claim.ts";
import { idFrom } from "../arrivals/receive.ts";
import { arrival } from "../arrivals/tables.ts";
import { db, type Tx } from "../db/connect.ts";
import { fileAsVersion } from "../documents/add-version.ts";
import { fileAway, filingSchema } from "../documents/file-away.ts";
import { localFile } from "../documents/local-file.ts";
import { addJob } from "../jobs/add-job.ts";
import { sideBySide } from "../jobs/side-by-side.ts";
import type { Actor } from "../people/load-actor.ts";
import { landingStore } from "../ports/adapters.ts";
import { now } from "../ports/clock.ts";
import type { Landed } from "../ports/landing-store.ts";
import { findRecord } from "../records/upsert-record.ts";
import { writeLines } from "../timeline/write-lines.ts";
import { composePdf } from "./compose-file.ts";
import { type LoadedSource, loadPageRows, loadSources, type Source, sourceSchema, SOURCES_MAX } from "./load-sources.ts";
import { keepPages } from "./keep-pages.ts";
import { arrivalPage } from "./tables.ts";

const pageSchema = z.object({ source: z.number().int().min(0), page: z.number().int().min(1) });
const turnSchema = z.union([z.literal(0), z.literal(90), z.literal(180), z.literal(270)]);

/** What leaves the bench: each part with its pages in order; every page of every source is in one part or named as dropped. */
export const apartSchema = z.object({
  sources: z.array(sourceSchema).min(1).max(SOURCES_MAX),
  parts: z
    .array(
      z.object({
        pages: z
          .array(pageSchema.extend({ turn: turnSchema.default(0) }))
          .min(1)
          .max(20_000),
        fileName: z.string().trim().min(1).max(240).optional(),
        /** File it at once. */
        file: filingSchema.optional(),
        /** What it belongs to, said without filing it: then it waits with that record chosen. */
        record: z.object({ company: z.string().max(20), type: z.string().max(40), key: z.string().max(120) }).optional(),
        documentType: z.string().max(40).optional(),
        /** Make it the next version of this document instead. */
        version: z.string().max(20).optional(),
      }),
    )
    .min(1)
    .max(2_000),
  dropped: z.array(pageSchema).max(20_000).default([]),
});
export type Apart = z.infer<typeof apartSchema>;

/** One part as it left the bench: the arrival it became, and the document when it was filed; else why not. */
export interface PartAnswer {
  readonly id: ArrivalId;
  readonly fileName: string;
  readonly code: string | null;
  readonly title: string | null;
  readonly path: string | null;
  readonly problem: string | null;
}
export interface ApartAnswer {
  readonly parts: readonly PartAnswer[];
}

/** Files put together side by side: each is a process of its own. */
const AT_ONCE = 2;

/**
 * Carries out what was done on the bench. The files of all parts are made and kept first; then, in one transaction, the sources end as split or
 * joined, the parts are arrivals that know their parent pages, and the originals stay in the register. Filing follows, part by part: one that
 * cannot be filed waits in Arrivals and says why. The same again has the same result (promise 11). Refuses not-found, not-allowed, stale,
 * not-readable, bad-input (pages that do not add up).
 */
export async function takeApart(actor: Actor, wish: Apart): Promise<Result<ApartAnswer>> {
  if (!allowsAnywhere(actor.grants, "file") && !allowsAnywhere(actor.grants, "add")) return refuse("not-allowed");
  const fingerprint = createHash("sha256")
    .update(JSON.stringify([wish.sources, wish.parts.map((p) => p.pages), wish.dropped]))
    .digest("hex");
  const loaded = await loadSources(db(), actor, wish.sources, { lock: false, anyState: true });
  if (!loaded.ok) return loaded;
  const sources = loaded.value;
  const wrong = wrongWithParts(
    sources.map((s) => s.pageCount),
    wish.parts,
    wish.dropped,
  );
  if (wrong !== null) return refuse("bad-input", undefined, [{ path: "parts", message: wrong }]);
  // A part that is an arrival untouched stays that arrival.
  const own = wish.parts.map((p) => {
    const source = untouchedSource(sources, p.pages);
    return source !== null && sources[source]?.arrival ? source : null;
  });
  const ids = wish.parts.map((_, i) => arrivalOf(sources, own[i]) ?? idFrom("bench", `${fingerprint} ${i}`));
  const newIds = ids.filter((_, i) => own[i] === null);
  if (!(await wasDone(newIds))) {
    const made = await makeFiles(sources, wish, own);
    if (!made.ok) return made;
    const entered = await db().transaction((tx) => enter(tx, actor, wish, own, ids, made.value));
    if (!entered.ok && !(entered.refusal.code === "stale" && (await wasDone(newIds)))) return entered;
  }
  const names = await namesOf(ids);
  const parts: PartAnswer[] = [];
  for (const [i, id] of ids.entries()) parts.push({ ...(await filePart(actor, id, wish.parts[i])), fileName: names.get(id) ?? "" });
  return ok({ parts });
}

function arrivalOf(sources: readonly LoadedSource[], source: number | null | undefined): ArrivalId | null {
  return source == null ? null : parseArrivalId(sources[source]?.arrival?.id ?? "");
}

async function wasDone(ids: readonly ArrivalId[]): Promise<boolean> {
  if (ids.length === 0) return true;
  const rows = await db()
    .select({ id: arrival.id })
    .from(arrival)
    .where(inArray(arrival.id, [...ids]));
  return rows.length === ids.length;
}

async function namesOf(ids: readonly ArrivalId[]): Promise<ReadonlyMap<string, string>> {
  const rows = await db()
    .select({ id: arrival.id, fileName: arrival.fileName })
    .from(arrival)
    .where(inArray(arrival.id, [...ids]));
  return new Map(rows.map((r) => [r.id, r.fileName]));
}

async function filePart(actor: Actor, id: ArrivalId, part: Apart["parts"][number] | undefined): Promise<Omit<PartAnswer, "fileName">> {
  const nothing = { id, code: null, title: null, path: null, problem: null };
  if (!part?.file && part?.version === undefined) return nothing;
  const filed =
    part.version !== undefined
      ? await fileAsVersion(actor, id, part.version)
      : part.file
        ? await fileAway(actor, id, part.file, { mayBeRepeat: true })
        : null;
  if (!filed) return nothing;
  return filed.ok
    ? { id, code: filed.value.code, title: filed.value.title, path: filed.value.path, problem: null }
    : { ...nothing, problem: wordsOf(filed.refusal) };
}

function wordsOf(refusal: Refusal): string {
  const fields = (refusal.errors ?? []).map((e) => `${e.path.replace(/^properties\./, "")} ${e.message}`).join(", ");
  return [presentations[refusal.code].title, refusal.detail, fields].filter(Boolean).join(": ");
}

interface MadeFile {
  readonly landed: Landed;
  /** The source whose bytes it has, when it is one of them untouched. */
  readonly whole: number | null;
}

async function makeFiles(
  sources: readonly LoadedSource[],
  wish: Apart,
  own: readonly (number | null)[],
): Promise<Result<readonly (MadeFile | null)[]>> {
  const folder = await mkdtemp(path.join(os.tmpdir(), "amber-bench-"));
  try {
    const files: string[] = [];
    for (const source of sources) files.push(await localFile(source.sha256));
    let refusal: Refusal | null = null;
    const made = await sideBySide(
      wish.parts.map((part, i) => ({ part, i })),
      AT_ONCE,
      async ({ part, i }): Promise<MadeFile | null> => {
        if (refusal || own[i] !== null) return null;
        const whole = untouchedSource(sources, part.pages);
        const untouched = whole === null ? undefined : sources[whole];
        if (untouched) {
          // Its very bytes: nothing is written, they are kept already (or read from where they are placed).
          const size = await landingStore().sizeOf(untouched.sha256);
          if (size !== null) return { landed: { sha256: untouched.sha256, sizeBytes: size }, whole };
        }
        const target = path.join(folder, `part-${i}.pdf`);
        const composed = await composePdf(
          part.pages.map((p) => ({
            file: files[p.source] ?? "",
            kind: sources[p.source]?.kind ?? "pdf",
            page: p.page,
            turn: p.turn as Quarter,
          })),
          target,
        );
        if (!composed.ok) {
          refusal ??= { ...composed.refusal, detail: sources[part.pages[0]?.source ?? 0]?.fileName ?? "" };
          return null;
        }
        const landed = await landingStore().keep(createReadStream(target), Number.MAX_SAFE_INTEGER);
        await rm(target, { force: true });
        if (!landed.ok) {
          refusal ??= landed.refusal;
          return null;
        }
        return { landed: landed.value, whole: null };
      },
    );
    if (refusal) return { ok: false, refusal };
    return ok(made);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

/** The source that a part is, page for page and unturned. */
function untouchedSource(sources: readonly LoadedSource[], pages: Apart["parts"][number]["pages"]): number | null {
  const source = pages[0]?.source ?? 0;
  if (pages.length !== sources[source]?.pageCount) return null;
  return pages.every((p, i) => p.source === source && p.page === i + 1 && p.turn === 0) ? source : null;
}

async function enter(
  tx: Tx,
  actor: Actor,
  wish: Apart,
  own: readonly (number | null)[],
  ids: readonly ArrivalId[],
  made: readonly (MadeFile | null)[],
): Promise<Result<null>> {
  const loaded = await loadSources(tx, actor, wish.sources, { lock: true, anyState: false });
  if (!loaded.ok) return loaded;
  const sources = loaded.value;
  for (const source of sources) {
    const other = source.arrival ? await claimedByOther(tx, actor, source.arrival) : null;
    if (other !== null) return refuse("claimed", other);
  }
  const rows = await Promise.all(sources.map((s) => loadPageRows(tx, s)));
  const lines: Parameters<typeof writeLines>[1][number][] = [];
  for (const [i, part] of wish.parts.entries()) {
    if (own[i] !== null) continue;
    const [id, file] = [ids[i], made[i]];
    const first = sources[part.pages[0]?.source ?? 0];
    if (!id || !file || !first) throw new Error("a part without its file");
    const pageRows = part.pages.map((p) => ({ row: rows[p.source]?.[p.page - 1], turn: p.turn as Quarter }));
    const isRead = await keepPages(tx, file.landed, pageRows);
    const of = first.arrival;
    await tx.insert(arrival).values({
      id,
      parentId: of?.id ?? null,
      part: of ? await nextPart(tx, of.id) : null,
      company: of ? of.company : (first.document?.company ?? null),
      queue: of?.queue ?? actor.queues[0] ?? "general",
      source: "bench",
      sender: of?.sender ?? null,
      fileName: keepEnding(part.fileName ?? partName(sources, part.pages), file.whole === null ? ".pdf" : null),
      sha256: file.landed.sha256,
      sizeBytes: file.landed.sizeBytes,
      // Tied by hand or by a code on the way in: that was said of the whole, and holds for what is left of it.
      recordId: part.record ? await sayableRecord(tx, actor, part.record) : (of?.recordId ?? null),
      documentType: part.documentType ?? of?.documentType ?? null,
      receivedAt: now(),
      receivedBy: actor.id,
      ...(isRead ? { state: "ready", readyAt: now() } : {}),
    });
    if (!isRead) await addJob(tx, "read", { arrivalId: id }, { key: `read:${id}` });
    await tx.insert(arrivalPage).values(
      part.pages.map((p, n) => ({
        arrivalId: id,
        number: n + 1,
        fromArrival: sources[p.source]?.arrival?.id ?? null,
        fromDocument: sources[p.source]?.document?.id ?? null,
        fromVersion: sources[p.source]?.document?.version ?? null,
        fromPage: p.page,
        turn: p.turn,
      })),
    );
    lines.push({
      verb: "madeOnBench",
      who: actor.id,
      company: of ? of.company : (first.document?.company ?? null),
      arrivalId: id,
      details: { pages: pagesInWords(sources, part.pages) },
    });
  }
  for (const [s, source] of sources.entries()) {
    if (own.includes(s)) continue;
    const parts = wish.parts.filter((p) => p.pages.some((q) => q.source === s));
    const droppedHere = wish.dropped.filter((p) => p.source === s).map((p) => p.page);
    const details = {
      parts: parts.length === 1 ? "1 paper" : `${parts.length} papers`,
      dropped: droppedHere.length === 0 ? "" : `, without page${droppedHere.length > 1 ? "s" : ""} ${listed(droppedHere)}`,
    };
    const joined = parts.length === 1 && parts[0]?.pages.some((q) => q.source !== s) === true;
    if (!source.arrival) {
      lines.push({
        verb: joined ? "joined" : "split",
        who: actor.id,
        company: source.document?.company ?? null,
        documentId: source.document?.id,
        details,
      });
      continue;
    }
    const done = await tx
      .update(arrival)
      .set({
        state: joined ? "joined" : "split",
        endedAt: now(),
        endedBy: actor.id,
        endReason: `${details.parts}${details.dropped}`,
      })
      .where(and(eq(arrival.id, source.arrival.id), inArray(arrival.state, [...openStates])))
      .returning({ id: arrival.id });
    if (!done[0]) throw new Error("arrival changed while locked");
    lines.push({
      verb: joined ? "joined" : "split",
      who: actor.id,
      company: source.arrival.company,
      arrivalId: source.arrival.id,
      details,
    });
  }
  await writeLines(tx, lines);
  return ok(null);
}

/** The record that a part is said to belong to; null when the person may not see it. */
async function sayableRecord(
  tx: Tx,
  actor: Actor,
  said: { readonly company: string; readonly type: string; readonly key: string },
): Promise<number | null> {
  if (!allowsRecord(actor.grants, "see", said.company, said.type)) return null;
  return findRecord(tx, said.company, said.type, said.key);
}

async function nextPart(tx: Tx, parentId: string): Promise<number> {
  const row = (
    await tx
      .select({ last: sql<number>`coalesce(max(${arrival.part}), 0)` })
      .from(arrival)
      .where(eq(arrival.parentId, parentId))
  )[0];
  return Number(row?.last ?? 0) + 1;
}

/** "bundle, pages 3–5.pdf", or of several sources the first one's name. */
function partName(sources: readonly LoadedSource[], pages: Apart["parts"][number]["pages"]): string {
  const first = sources[pages[0]?.source ?? 0];
  const stem = (first?.fileName ?? "paper").replace(/\.[A-Za-z0-9]{1,5}$/, "");
  if (pages.some((p) => p.source !== pages[0]?.source)) return `${stem} and others`;
  return pages.length === first?.pageCount ? stem : `${stem}, page${pages.length > 1 ? "s" : ""} ${listed(pages.map((p) => p.page))}`;
}

const LISTED_MAX = 6;
/** "3–5, 9" for people. */
function listed(numbers: readonly number[]): string {
  const runs: string[] = [];
  for (let i = 0; i < numbers.length;) {
    let end = i;
    while (numbers[end + 1] === (numbers[end] ?? 0) + 1) end++;
    runs.push(end > i ? `${numbers[i]}–${numbers[end]}` : String(numbers[i]));
    i = end + 1;
  }
  return runs.length > LISTED_MAX ? `${runs.slice(0, LISTED_MAX).join(", ")} …` : runs.join(", ");
}

function pagesInWords(sources: readonly LoadedSource[], pages: Apart["parts"][number]["pages"]): string {
  const bySource = new Map<number, number[]>();
  for (const p of pages) bySource.set(p.source, [...(bySource.get(p.source) ?? []), p.page]);
  return [...bySource]
    .map(
      ([s, numbers]) =>
        `page${numbers.length > 1 ? "s" : ""} ${listed(numbers)} of ${sources[s]?.document?.code ?? sources[s]?.fileName ?? ""}`,
    )
    .join(" and ");
}

/** For `/arrivals/{id}/split`: pages that are in no part count as dropped. Refuses bad-input when a page is named twice or is not there. */
export async function splitArrival(
  actor: Actor,
  id: ArrivalId,
  parts: readonly {
    readonly pages: readonly number[];
    readonly turn?: Readonly<Record<string, Quarter>> | undefined;
    readonly file?: z.infer<typeof filingSchema> | undefined;
  }[],
): Promise<Result<ApartAnswer>> {
  const source: Source = { arrival: id };
  const loaded = await loadSources(db(), actor, [source], { lock: false, anyState: true });
  if (!loaded.ok) return loaded;
  const count = loaded.value[0]?.pageCount ?? 0;
  const named = new Set(parts.flatMap((p) => p.pages));
  const dropped = Array.from({ length: count }, (_, i) => i + 1).filter((n) => !named.has(n));
  return takeApart(actor, {
    sources: [source],
    parts: parts.map((p) => ({ pages: p.pages.map((page) => ({ source: 0, page, turn: p.turn?.[String(page)] ?? 0 })), file: p.file })),
    dropped: dropped.map((page) => ({ source: 0, page })),
  });
}
