import { eq, sql } from "drizzle-orm";
import type { Place, Probe } from "#core/matching/probe-paper.ts";
import type { MatchPaper, Suggested } from "#core/matching/match-types.ts";
import { lookAtPaper, type PaperLook, readFields } from "#core/matching/paper-look.ts";
import { senderOf, suggestRecords } from "#core/matching/suggest-records.ts";
import { nameOf } from "#core/records/record-references.ts";
import { foldText } from "#core/shared/fold-text.ts";
import { ownDomain } from "#core/reading/identifiers.ts";
import { type JudgedType, judgeHeadings, tellingWords } from "#core/reading/judge-type.ts";
import { type Box, keptBox } from "#core/reading/page-lines.ts";
import type { PaperReadings, Reading } from "#core/reading/reading.ts";
import { checkLines } from "#core/reading/check-lines.ts";
import type { PaperRows } from "#core/reading/read-rows.ts";
import { resolveCodes } from "../codes/resolve-codes.ts";
import { queryPrepared } from "../db/query-prepared.ts";
import { db, type Tx } from "../db/connect.ts";
import { now } from "../ports/clock.ts";
import { loadDocumentTypes } from "../records/load-types.ts";
import { loadLabelFormats } from "../settings/load-settings.ts";
import { loadCandidates } from "./load-candidates.ts";
import { idArray, textArray } from "../db/sql-arrays.ts";
import { cacheAnalysis, type CachedAnalysis, loadWaiting } from "./cache-analysis.ts";
import { loadOurselves } from "./load-ourselves.ts";
import { loadPaper, type LoadedPaper, type PaperHead } from "./load-paper.ts";
import { loadWeights } from "./weights.ts";
import { remembered } from "./remembered.ts";
import { learntMarks, loadPlaces } from "./learnt-places.ts";
import { arrivalReading } from "./tables.ts";
import { loadTypeModel } from "./type-model.ts";

/** Records of one mail thread that are looked at. */
const THREAD_MAX = 10;
/** References kept with an arrival that waits, so that a record that comes later finds it. */
const PROBES_KEPT = 400;
const NAMES_KEPT = 100;

/**
 * Reads an arrival's fields, tells its type and finds the records it may belong to, and keeps what came of it in place of what was found before. What was
 * read already, and is still of the same content and the same layouts, is not read again. Safe to repeat; the same document, records and history give the
 * same. An arrival that does not wait any more is left as it was.
 */
export async function suggestFor(arrivalId: string): Promise<void> {
  await suggestForSome([arrivalId]);
}

/** The same for some arrivals at once: what is asked of the database is asked for all of them together. */
export async function suggestForSome(arrivalIds: readonly string[]): Promise<void> {
  const waiting = await loadWaiting(arrivalIds, await ourselvesOf());
  const known = waiting.flatMap((w) => (w.kept ? [{ ...w, kept: w.kept }] : []));
  const again = await find(
    known.map(({ kept }) => ({ paper: kept.paper, look: kept.look.look })),
    learntAsKept(known.map(({ kept }) => kept.look)),
  );
  const found = new Map(known.flatMap((w, i) => (again[i] ? [[w, again[i]] as const] : [])).map(([w, f]) => [w.arrival.id, f]));
  for (const w of waiting) {
    const anew = found.has(w.arrival.id) ? null : await readAndKeep(w.arrival.id, w.stamp);
    if (anew) found.set(w.arrival.id, anew);
  }
  await keepFound(
    waiting.flatMap(({ arrival, confirmed }) => {
      const one = found.get(arrival.id);
      return one ? [{ id: arrival.id, found: one, confirmed }] : [];
    }),
  );
}

const names = "readings doubts types suggestions rows none sender_id sender_key probes weights_version made_at".split(" ");
const columns = sql.raw(names.join(", "));
const excluded = sql.raw(names.map((n) => `excluded.${n}`).join(", "));

async function keepFound(
  all: readonly { readonly id: string; readonly found: Found; readonly confirmed: readonly Reading[] }[],
): Promise<void> {
  if (all.length === 0) return;
  const rows = all.map(({ id, found, confirmed }) => ({
    id,
    // What people put right stands, whatever is read again.
    readings: [...found.read.readings.filter((r) => !confirmed.some((c) => c.field === r.field)), ...confirmed],
    doubts: found.read.doubts,
    types: found.types,
    suggestions: found.suggested.suggestions,
    rows: found.rows,
    none: found.suggested.none,
    sender_id: found.suggested.senderId,
    sender_key: found.senderKey,
    probes: keptProbes(found.probes),
    weights_version: found.weightsVersion,
  }));
  await queryPrepared(sql`insert into arrival_reading (arrival_id, ${columns})
    select id, readings, doubts, types, suggestions, rows, none, (select r.id from record r where r.id = x.sender_id), sender_key, probes, weights_version, ${now()}
    from jsonb_to_recordset(${JSON.stringify(rows)}::jsonb) as x (id uuid, readings jsonb, doubts jsonb, types jsonb, suggestions jsonb, rows jsonb, none real,
      sender_id bigint, sender_key text, probes text[], weights_version int)
    order by x.id
    on conflict (arrival_id) do update set (${columns}) = row (${excluded})`);
}

const ourselvesOf = remembered(() => loadOurselves());
const typesOf = remembered(() => loadDocumentTypes());
const formatsOf = remembered(() => loadLabelFormats());

/** Everything that was found in a document. */
export interface Found {
  readonly read: PaperReadings;
  readonly types: readonly JudgedType[];
  readonly suggested: Suggested;
  readonly senderKey: string | null;
  readonly probes: readonly Probe[];
  readonly rows: PaperRows;
  /** With which version of the weights. */
  readonly weightsVersion: number;
}

/** A document that was looked at. */
interface Looked {
  readonly paper: PaperHead;
  readonly look: PaperLook;
}
/** The fields of documents once their senders are known, with what was learnt of those; null where one has to be read again. */
type ReadOf = (senderKeys: readonly (string | null)[]) => Promise<readonly (PaperReadings | null)[]>;

/** Finds for a document that was loaded whole, without keeping anything. */
export async function readAndMatch(paper: LoadedPaper): Promise<Found> {
  return (await readAnew(paper)).found;
}

async function readAndKeep(arrivalId: string, stamp: string): Promise<Found | null> {
  const paper = await loadPaper(db(), arrivalId);
  if (!paper) return null;
  const { found, kept } = await readAnew(paper);
  const { subject, isMail, answers, codes } = paper;
  await cacheAnalysis(arrivalId, stamp, { ...kept, subject, isMail, answers, codes });
  return found;
}

async function readAnew(
  paper: LoadedPaper,
): Promise<{ readonly found: Found; readonly kept: Pick<CachedAnalysis, "look" | "read" | "learnt"> }> {
  const ourselves = await ourselvesOf();
  const { fileName, sender } = paper.arrival;
  const asked = { ...paper, fileName, sender, receivedOn: receivedOn(paper) };
  const look = lookAtPaper(asked, ourselves);
  let kept = { look, read: look.plain, learnt: "" };
  const [found] = await find([{ paper, look }], async ([senderKey = null]) => {
    // The sender is known by identifiers before its layout is; what that layout is tells where the fields are.
    const learnt = (await learntMarks([senderKey])).get(senderKey) ?? "";
    const places = senderKey === null ? [] : await loadPlaces(db(), senderKey);
    const read = checkLines(places.length === 0 ? look.plain : readFields(asked, ourselves, places), look.rows, paper.pages);
    kept = { look, read, learnt };
    return [read];
  });
  if (!found) throw new Error("a document that is read was not read");
  return { found, kept };
}

/** What was kept, as long as nothing was learnt of its sender since. */
function learntAsKept(kept: readonly CachedAnalysis[]): ReadOf {
  return async (senderKeys) => {
    const marks = await learntMarks(senderKeys);
    return senderKeys.map((key, i) => (kept[i] && marks.get(key) === kept[i].learnt ? kept[i].read : null));
  };
}

const receivedOn = (paper: PaperHead): string => paper.arrival.receivedAt.toISOString().slice(0, 10);

/** Finds for documents by what looking at them gave. Null for those of which `readOf` says that they have to be read again. */
async function find(papers: readonly Looked[], readOf: ReadOf): Promise<readonly (Found | null)[]> {
  if (papers.length === 0) return [];
  const [types, model, formats, weights] = await Promise.all([typesOf(), loadTypeModel(), formatsOf(), loadWeights()]);
  const said = await Promise.all(papers.map(({ paper }) => saidOf(paper, formats)));
  const candidates = await loadCandidates(
    papers.map(({ paper, look }, i) => ({
      probes: look.probes,
      amounts: look.plain.readings.filter((r) => r.field === "total" || r.field === "net").map((r) => r.value),
      references: look.plain.readings.filter((r) => r.field === "orderReference").map((r) => r.value),
      said: [
        ...(said[i]?.thread ?? []),
        ...(paper.arrival.recordId === null ? [] : [paper.arrival.recordId]),
        ...(said[i]?.codes ?? []).map((c) => c.recordId),
      ],
    })),
  );
  const first = papers.map(({ paper, look }, i) => {
    const row = paper.arrival;
    const folded = foldText(paper.text);
    const about = {
      words: tellingWords(paper.text, row.sender, row.queue),
      subject: paper.subject ?? "",
      fileName: row.fileName,
      isMail: paper.isMail,
    };
    const judged = (isOurs: boolean | null): readonly JudgedType[] =>
      row.documentType !== null
        ? [{ type: row.documentType, certainty: 1, words: [] }]
        : judgeHeadings(look.headings, { ...about, isOurs }, types, model);
    const match = (read: PaperReadings, kinds: readonly JudgedType[], doubles: readonly string[]): Suggested => {
      const asked: MatchPaper = {
        probes: look.probes,
        readings: read.readings,
        types: kinds.map((t) => ({ type: t.type, certainty: t.certainty, usualFor: types.find((x) => x.key === t.type)?.usualFor ?? [] })),
        company: row.company,
        addressed: look.addressed,
        receivedOn: receivedOn(paper),
        isSeveral: paper.isSeveral,
        listsInvoices: look.rows.invoices.length >= 2,
        doubles,
        folded,
        saidId: row.recordId,
        codes: said[i]?.codes ?? [],
        thread: said[i]?.thread ?? [],
      };
      return suggestRecords(asked, candidates[i]?.records ?? [], candidates[i]?.hits ?? [], weights);
    };
    const senderId = senderOf(look, candidates[i]?.records ?? [], candidates[i]?.hits ?? [], weights);
    const kinds = judged(senderId === null ? look.isByUs : false);
    return { look, match, kinds, senderId, senderKey: senderKeyOf(senderId, row.sender, look.plain) };
  });
  const reads = await readOf(first.map((f) => f.senderKey));
  const doubles = await findDoubles(first.map((f, i) => ({ ...f, read: reads[i] ?? null })));
  return first.map(({ look, match, kinds, senderKey }, i) => {
    const read = reads[i];
    if (!read) return null;
    const { rows, probes, turned } = look;
    const suggested = match(read, kinds, doubles[i] ?? []);
    return { ...onKeptPages({ read, types: kinds, suggested, rows }, turned), senderKey, probes, weightsVersion: weights.version };
  });
}

/** The records that a paper's barcodes name, and those that the mails are filed to which it answers. */
async function saidOf(
  paper: PaperHead,
  formats: Awaited<ReturnType<typeof formatsOf>>,
): Promise<{ readonly codes: MatchPaper["codes"]; readonly thread: readonly number[] }> {
  const said = await resolveCodes(
    db(),
    paper.codes.map((c) => c.text),
    formats,
    paper.arrival.company,
  );
  const codes = paper.codes.flatMap((c) => {
    const record = said.get(c.text)?.record;
    const place: Place = { text: c.text, page: c.page, box: c.box, where: "code", label: null, depth: 0 };
    return record ? [{ recordId: record.id, place }] : [];
  });
  return { codes, thread: await recordsOfMails(paper.answers) };
}

/** Records that mails were filed to, by the mails' own ids: they themselves, or what came with them. The main one of each. */
async function recordsOfMails(ids: readonly string[]): Promise<readonly number[]> {
  if (ids.length === 0) return [];
  const rows = await queryPrepared<{
    id: number;
  }>(sql`select distinct k.record_id as id from content c join arrival m on m.sha256 = c.sha256
      join arrival a on a.id = m.id or a.parent_id = m.id join clip k on k.document_id = a.document_id and k.position = 0
    where c.outline ->> 'messageId' = any(${textArray(ids)}::text[]) and a.document_id is not null order by 1 limit ${THREAD_MAX}`);
  return rows.map((r) => r.id);
}

/** Types of documents that are booked once for each number. */
const numbered = new Set(["supplierInvoice", "supplierCreditNote"]);

/** For each document, filed ones with its number from the same account: a document that comes a second time, however it looks by then. */
async function findDoubles(
  papers: readonly { readonly read: PaperReadings | null; readonly kinds: readonly JudgedType[]; readonly senderId: number | null }[],
): Promise<readonly (readonly string[])[]> {
  const asked = papers.flatMap(({ read, kinds, senderId }, paper) => {
    const number = read?.readings.find((r) => r.field === "documentNumber" && r.certainty >= 0.5)?.value;
    const type = kinds[0]?.type ?? "";
    return number === undefined || senderId === null || !numbered.has(type) ? [] : [{ paper, number, type, senderId }];
  });
  const doubles = papers.map((): string[] => []);
  if (asked.length === 0) return doubles;
  const rows = await queryPrepared<{ paper: number; code: string }>(sql`
    select a.paper, d.code from unnest(${idArray(asked.map((a) => a.paper))}::int[], ${textArray(asked.map((a) => a.number))}::text[],
      ${textArray(asked.map((a) => a.type))}::text[], ${idArray(asked.map((a) => a.senderId))}::bigint[]) as a (paper, number, type, sender_id)
    cross join lateral (
      select d.id, d.code from document d
      where lower(regexp_replace(d.properties ->> 'documentNumber', '[^[:alnum:]]', '', 'g')) = lower(regexp_replace(a.number, '[^[:alnum:]]', '', 'g'))
        and d.properties ->> 'documentNumber' is not null and d.unfiled_at is null and d.document_type = a.type
        and exists (select from clip c join record r on r.id = c.record_id where c.document_id = d.id and (r.id = a.sender_id or r.above_id = a.sender_id))
      order by d.id limit 3) d
    order by a.paper, d.id`);
  for (const { paper, code } of rows) doubles[paper]?.push(code);
  return doubles;
}

/** Whose layouts a document is read with: the account it is from, else the domain it was sent from, else the name it bears. */
function senderKeyOf(senderId: number | null, sender: string | null, read: PaperReadings): string | null {
  if (senderId !== null) return `account:${senderId}`;
  const domain = sender === null ? null : ownDomain(sender);
  if (domain !== null) return `domain:${domain}`;
  const party = read.readings.find((r) => r.field === "party");
  return party && party.certainty >= 0.6 ? `name:${nameOf(party.value)}` : null;
}

function keptProbes(probes: readonly Probe[]): string[] {
  const telling = probes.filter((p) => p.kind !== "name" && p.kind !== "shape");
  // Of names only those at its head: an account of that name may be entered tomorrow.
  const names = probes.filter(
    (p) => p.kind === "name" && p.places.some((at) => at.where === "sender" || (at.depth < 0.3 && at.text.includes(" "))),
  );
  return [...new Set([...telling.slice(0, PROBES_KEPT - NAMES_KEPT), ...names.slice(0, NAMES_KEPT)].map((p) => p.reference))];
}

/** Boxes as the pages' words are kept: a page that lies on its side was turned for reading. */
function onKeptPages(
  found: Pick<Found, "read" | "types" | "suggested" | "rows">,
  turned: PaperLook["turned"],
): Pick<Found, "read" | "types" | "suggested" | "rows"> {
  if (turned.length === 0) return found;
  const kept = <T extends { readonly page: number | null; readonly box: Box | null }>(at: T): T => {
    const page = turned.find((p) => p.number === at.page);
    return page && at.box ? { ...at, box: keptBox(page, at.box) } : at;
  };
  return {
    read: { ...found.read, readings: found.read.readings.map((r) => ({ ...kept(r), others: r.others.map(kept) })) },
    types: found.types.map((t) => ({ ...t, words: t.words.map(kept) })),
    rows: { ...found.rows, lines: found.rows.lines.map(kept), invoices: found.rows.invoices.map(kept) },
    suggested: {
      ...found.suggested,
      // Places of barcodes are kept as they are: they were never turned.
      suggestions: found.suggested.suggestions.map((s) => ({ ...s, reasons: s.reasons.map((r) => (r.where === "code" ? r : kept(r))) })),
    },
  };
}

/** What is kept of an arrival's findings; null when nothing was found yet. */
export async function loadArrivalReading(tx: Tx, arrivalId: string): Promise<typeof arrivalReading.$inferSelect | null> {
  return (await tx.select().from(arrivalReading).where(eq(arrivalReading.arrivalId, arrivalId)))[0] ?? null;
}
