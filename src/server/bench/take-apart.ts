import { createHash } from "node:crypto";
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
import { isDeadlock } from "../db/describe-error.ts";
import { fileAsVersion } from "../documents/add-version.ts";
import { fileAway, filingSchema } from "../documents/file-away.ts";
import { addJob, addJobs } from "../jobs/add-job.ts";
import type { Actor } from "../people/load-actor.ts";
import { now } from "../ports/clock.ts";
import { findRecord } from "../records/find-record.ts";
import { writeLines } from "../timeline/write-lines.ts";
import { type LoadedSource, loadSources, sourceSchema, SOURCES_MAX } from "./load-sources.ts";
import { type MadeFiles, makeFiles, untouchedSource } from "./make-files.ts";

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

/**
 * Carries out what was done on the bench. The files of all parts are made and kept first; then, in one transaction, the sources end as split or
 * joined, the parts are arrivals that know their parent pages, and the originals stay in the register. Filing follows, part by part: one that
 * cannot be filed waits in Arrivals and says why. The same again has the same result (promise 11). Refuses not-found, not-allowed, stale,
 * not-readable, bad-input (pages that do not add up). `dropped` may be said as the rest: all that is in no part. `despiteClaims` is for what its codes decide
 * the moment it is read: that somebody has it on screen already is no reason to wait.
 */
export async function takeApart(
  actor: Actor,
  asked: Apart | (Omit<Apart, "dropped"> & { readonly dropped: "rest" }),
  options: { readonly despiteClaims?: boolean } = {},
): Promise<Result<ApartAnswer>> {
  if (!allowsAnywhere(actor.grants, "file") && !allowsAnywhere(actor.grants, "add")) return refuse("not-allowed");
  const loaded = await loadSources(db(), actor, asked.sources, { lock: false, anyState: true });
  if (!loaded.ok) return loaded;
  const sources = loaded.value;
  const wish: Apart = { ...asked, dropped: asked.dropped === "rest" ? restOf(sources, asked.parts) : asked.dropped };
  const fingerprint = createHash("sha256")
    .update(JSON.stringify([wish.sources, wish.parts.map((p) => p.pages), wish.dropped]))
    .digest("hex");
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
  // Put back and taken apart in the same way again it is another time: the arrivals of the first are set aside for good.
  const isOpen = sources.some((s, i) => s.arrival && !own.includes(i) && (openStates as readonly string[]).includes(s.arrival.state));
  const idsOf = (round: number): readonly ArrivalId[] =>
    wish.parts.map((_, i) => arrivalOf(sources, own[i]) ?? idFrom("bench", `${fingerprint} ${i}${round === 0 ? "" : ` again ${round}`}`));
  const newOf = (all: readonly ArrivalId[]): readonly ArrivalId[] => all.filter((_, i) => own[i] === null);
  let round = 0;
  while (isOpen && newOf(idsOf(round)).length > 0 && (await wasDone(newOf(idsOf(round))))) round++;
  const ids = idsOf(round);
  const newIds = newOf(ids);
  if (!(await wasDone(newIds))) {
    const make = () =>
      makeFiles(sources, wish.parts, own, (tx, made) => enter(tx, actor, wish, own, ids, made, options.despiteClaims === true));
    // Two who take the same apart in another order may wait for each other.
    const entered = await make().catch((error: unknown) => {
      if (isDeadlock(error)) return make();
      throw error;
    });
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

/** A part as an arrival of its own. */
type NewPart = Pick<
  typeof arrival.$inferSelect,
  "id" | "parentId" | "part" | "company" | "queue" | "sender" | "fileName" | "sha256" | "sizeBytes" | "recordId" | "documentType"
> & { readonly ready: boolean };

/** The parent of a page. */
interface Origin {
  readonly arrival: ArrivalId;
  readonly number: number;
  readonly fromArrival: string | null;
  readonly fromDocument: number | null;
  readonly fromVersion: number | null;
  readonly fromPage: number;
  readonly turn: Quarter;
}

async function enter(
  tx: Tx,
  actor: Actor,
  wish: Apart,
  own: readonly (number | null)[],
  ids: readonly ArrivalId[],
  made: MadeFiles,
  despiteClaims: boolean,
): Promise<Result<null>> {
  const loaded = await loadSources(tx, actor, wish.sources, { lock: true, anyState: false });
  if (!loaded.ok) return loaded;
  const sources = loaded.value;
  for (const source of sources) {
    const other = source.arrival && !despiteClaims ? await claimedByOther(tx, actor, source.arrival) : null;
    if (other !== null) return refuse("claimed", other);
  }
  const lines: Parameters<typeof writeLines>[1][number][] = [];
  const entered: NewPart[] = [];
  const origins: Origin[] = [];
  const unread: ArrivalId[] = [];
  const nextPart = await lastParts(tx, sources);
  for (const [i, part] of wish.parts.entries()) {
    if (own[i] !== null) continue;
    const [id, file] = [ids[i], made.files[i]];
    const first = sources[part.pages[0]?.source ?? 0];
    if (!id || !file || !first) throw new Error("a part without its file");
    const of = first.arrival;
    const company = of ? of.company : (first.document?.company ?? null);
    const ready = made.ready.has(file.landed.sha256);
    if (!ready) unread.push(id);
    entered.push({
      id,
      parentId: of?.id ?? null,
      part: of ? nextPart(of.id) : null,
      company,
      queue: of?.queue ?? actor.queues[0] ?? "general",
      sender: of?.sender ?? null,
      fileName: keepEnding(part.fileName ?? partName(sources, part.pages), file.whole === null ? ".pdf" : null),
      sha256: file.landed.sha256,
      sizeBytes: file.landed.sizeBytes,
      // Tied by hand or by a code on the way in: that was said of the whole, and holds for what is left of it.
      recordId: part.record ? await sayableRecord(tx, actor, part.record) : (of?.recordId ?? null),
      documentType: part.documentType ?? of?.documentType ?? null,
      ready,
    });
    origins.push(
      ...part.pages.map((p, n) => ({
        arrival: id,
        number: n + 1,
        fromArrival: sources[p.source]?.arrival?.id ?? null,
        fromDocument: sources[p.source]?.document?.id ?? null,
        fromVersion: sources[p.source]?.document?.version ?? null,
        fromPage: p.page,
        turn: p.turn,
      })),
    );
    // A document among its sources is named on the line, so that the line is left out for whoever may not see that document.
    const from = part.pages.map((p) => sources[p.source]?.document?.id).find((d) => d !== undefined);
    lines.push({
      verb: "madeOnBench",
      who: actor.id,
      company,
      arrivalId: id,
      documentId: from ?? null,
      details: { pages: pagesInWords(sources, part.pages) },
    });
  }
  // One parameter for hundreds of parts and pages: many times faster than one for each value.
  await tx.execute(sql`insert into arrival (id, parent_id, part, company, queue, source, sender, file_name, sha256, size_bytes, record_id, document_type,
      received_at, received_by, state, ready_at)
    select e.id, e."parentId", e.part, e.company, e.queue, 'bench', e.sender, e."fileName", e.sha256, e."sizeBytes", e."recordId", e."documentType",
      ${now()}::timestamptz, ${actor.id}, case when e.ready then 'ready' else 'waiting' end, case when e.ready then ${now()}::timestamptz end
    from json_to_recordset(${JSON.stringify(entered)}::json) as e(id uuid, "parentId" uuid, part int, company text, queue text, sender text, "fileName" text,
      sha256 text, "sizeBytes" bigint, "recordId" bigint, "documentType" text, ready boolean)`);
  await tx.execute(sql`insert into arrival_page (arrival_id, number, from_arrival, from_document, from_version, from_page, turn)
    select o.arrival, o.number, o."fromArrival", o."fromDocument", o."fromVersion", o."fromPage", o.turn from json_to_recordset(${JSON.stringify(origins)}::json)
      as o(arrival uuid, number int, "fromArrival" uuid, "fromDocument" bigint, "fromVersion" int, "fromPage" int, turn smallint)`);
  await addJobs(
    tx,
    "read",
    unread.map((id) => ({ payload: { arrivalId: id }, key: `read:${id}` })),
  );
  // What was read of their pages is known: only their fields and records have to be found.
  await addJobs(
    tx,
    "suggest",
    entered.filter((e) => e.ready).map(({ id }) => ({ payload: { arrivalId: id }, key: `suggest:${id}` })),
  );
  if (made.fresh.length > 0) await addJob(tx, "fingerprint", { contents: made.fresh }, { key: `print:${made.fresh[0]}` });
  for (const [s, source] of sources.entries()) {
    if (own.includes(s)) continue;
    const parts = wish.parts.filter((p) => p.pages.some((q) => q.source === s));
    const droppedHere = wish.dropped.filter((p) => p.source === s).map((p) => p.page);
    const details = {
      parts: parts.length === 1 ? "1 document" : `${parts.length} documents`,
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

/** Counts the parts of each source on from the last it has. */
async function lastParts(tx: Tx, sources: readonly LoadedSource[]): Promise<(parentId: string) => number> {
  const ids = sources.flatMap((s) => (s.arrival ? [s.arrival.id] : []));
  const rows =
    ids.length === 0
      ? []
      : await tx
          .select({ parentId: arrival.parentId, last: sql<number>`max(${arrival.part})` })
          .from(arrival)
          .where(inArray(arrival.parentId, ids))
          .groupBy(arrival.parentId);
  const last = new Map(rows.map((r) => [r.parentId, Number(r.last)]));
  return (parentId) => {
    const next = (last.get(parentId) ?? 0) + 1;
    last.set(parentId, next);
    return next;
  };
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
  return takeApart(actor, {
    sources: [{ arrival: id }],
    parts: parts.map((p) => ({ pages: p.pages.map((page) => ({ source: 0, page, turn: p.turn?.[String(page)] ?? 0 })), file: p.file })),
    dropped: "rest",
  });
}

/** Pages of sources that are in no part. */
function restOf(sources: readonly LoadedSource[], parts: Apart["parts"]): Apart["dropped"] {
  const named = new Set(parts.flatMap((part) => part.pages.map((p) => `${p.source} ${p.page}`)));
  return sources.flatMap((s, source) =>
    Array.from({ length: s.pageCount }, (_, i) => ({ source, page: i + 1 })).filter((p) => !named.has(`${p.source} ${p.page}`)),
  );
}
