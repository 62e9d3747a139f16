import { eq, sql } from "drizzle-orm";
import { openStates } from "#core/arrivals/journey.ts";
import { type Place, type Probe, probePaper } from "#core/matching/probe-paper.ts";
import type { MatchPaper, Suggested } from "#core/matching/match-types.ts";
import { suggestRecords } from "#core/matching/suggest-records.ts";
import { nameOf } from "#core/records/record-references.ts";
import { foldText } from "#core/shared/fold-text.ts";
import { ownDomain } from "#core/reading/identifiers.ts";
import { type JudgedType, judgeType, tellingWords } from "#core/reading/judge-type.ts";
import { readingsOfEInvoice, rowsOfEInvoice, withStructured } from "#core/reading/e-invoice.ts";
import { type Box, keptBox, type ReadPage } from "#core/reading/page-lines.ts";
import { type PaperReadings, type Reading, readingFields } from "#core/reading/reading.ts";
import { checkLines } from "#core/reading/check-lines.ts";
import { readPaper } from "#core/reading/read-paper.ts";
import { type PaperRows, readRows } from "#core/reading/read-rows.ts";
import { resolveCodes } from "../codes/resolve-codes.ts";
import { db, type Tx } from "../db/connect.ts";
import { now } from "../ports/clock.ts";
import { loadDocumentTypes } from "../records/load-types.ts";
import { loadLabelFormats } from "../settings/load-settings.ts";
import { loadCandidates } from "./load-candidates.ts";
import { textArray } from "../db/sql-arrays.ts";
import { loadOurselves, type Ourself } from "./load-ourselves.ts";
import { loadPaper, type LoadedPaper } from "./load-paper.ts";
import { loadWeights } from "./weights.ts";
import { remembered } from "./remembered.ts";
import { loadPlaces } from "./learnt-places.ts";
import { arrivalReading } from "./tables.ts";
import { loadTypeModel } from "./type-model.ts";

/** Records of one mail thread that are looked at. */
const THREAD_MAX = 10;
/** References kept with an arrival that waits, so that a record that comes later finds it. */
const PROBES_KEPT = 400;
const NAMES_KEPT = 100;

/**
 * Reads an arrival's fields, tells its type and finds the records it may belong to, and keeps what came of it in place of what was found before.
 * Safe to repeat; the same paper, records and history give the same. An arrival that does not wait any more is left as it was.
 */
export async function suggestFor(arrivalId: string): Promise<void> {
  const paper = await loadPaper(db(), arrivalId);
  if (!paper || !(openStates as readonly string[]).includes(paper.arrival.state)) return;
  const found = await readAndMatch(db(), paper);
  // What people put right stands, whatever is read anew.
  const confirmed = confirmedReadings(await loadArrivalReading(db(), arrivalId));
  const values = {
    readings: [...found.read.readings.filter((r) => !confirmed.some((c) => c.field === r.field)), ...confirmed],
    doubts: found.read.doubts,
    types: found.types,
    suggestions: found.suggested.suggestions,
    rows: found.rows,
    none: found.suggested.none,
    senderId: found.suggested.senderId,
    senderKey: found.senderKey,
    probes: keptProbes(found.probes),
    weightsVersion: found.weightsVersion,
    madeAt: now(),
  };
  await db()
    .insert(arrivalReading)
    .values({ arrivalId, ...values })
    .onConflictDoUpdate({ target: arrivalReading.arrivalId, set: values });
}

const ourselvesOf = remembered(() => loadOurselves());
const typesOf = remembered(() => loadDocumentTypes());
const formatsOf = remembered(() => loadLabelFormats());

/** Everything that was found in a paper. */
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

/** The same without keeping it. */
export async function readAndMatch(tx: Tx, paper: LoadedPaper): Promise<Found> {
  const { arrival: row, pages } = paper;
  const [ourselves, types, model, formats, weights] = await Promise.all([
    ourselvesOf(),
    typesOf(),
    loadTypeModel(),
    formatsOf(),
    loadWeights(),
  ]);
  const receivedOn = row.receivedAt.toISOString().slice(0, 10);
  const probes = probePaper(pages, { fileName: row.fileName, subject: paper.subject, sender: row.sender }).filter(
    (p) => !isOurs(p, ourselves),
  );
  const said = await resolveCodes(
    tx,
    paper.codes.map((c) => c.text),
    formats,
    row.company,
  );
  const codes = paper.codes.flatMap((c) => {
    const record = said.get(c.text)?.record;
    const place: Place = { text: c.text, page: c.page, box: c.box, where: "code", label: null, depth: 0 };
    return record ? [{ recordId: record.id, place }] : [];
  });
  const thread = await recordsOfMails(tx, paper.answers);
  const saidIds = [...thread, ...(row.recordId === null ? [] : [row.recordId]), ...codes.map((c) => c.recordId)];
  // The sender is known by identifiers before its layout is; what that layout is tells where the fields are.
  const context = { receivedOn, ourselves, fileName: row.fileName };
  const plain = exactly(readPaper(pages, { ...context, seen: [] }), paper);
  const candidates = await loadCandidates(tx, probes, {
    amounts: plain.readings.filter((r) => r.field === "total" || r.field === "net").map((r) => r.value),
    references: plain.readings.filter((r) => r.field === "orderReference").map((r) => r.value),
    said: saidIds,
  });
  const rows = paper.invoice ? rowsOfEInvoice(paper.invoice) : readRows(pages);
  const addressed = addressedTo(pages, ourselves);
  const match = (read: PaperReadings, judged: readonly JudgedType[], doubles: readonly string[]): Suggested => {
    const asked: MatchPaper = {
      probes,
      readings: read.readings,
      types: judged.map((t) => ({ type: t.type, certainty: t.certainty, usualFor: types.find((x) => x.key === t.type)?.usualFor ?? [] })),
      company: row.company,
      addressed,
      receivedOn,
      isSeveral: paper.isSeveral,
      listsInvoices: rows.invoices.length >= 2,
      doubles,
      folded: foldText(paper.text),
      saidId: row.recordId,
      codes,
      thread,
    };
    return suggestRecords(asked, candidates.records, candidates.hits, weights);
  };
  const judged = (isOurs: boolean | null): readonly JudgedType[] =>
    row.documentType !== null
      ? [{ type: row.documentType, certainty: 1, words: [] }]
      : judgeType(
          pages,
          {
            words: tellingWords(paper.text, row.sender, row.queue),
            subject: paper.subject ?? "",
            fileName: row.fileName,
            isMail: paper.isMail,
            isOurs,
          },
          types,
          model,
        );
  const first = match(plain, judged(sentByUs(pages, ourselves)), []);
  const senderKey = senderKeyOf(first.senderId, row.sender, plain);
  const places = senderKey === null ? [] : await loadPlaces(tx, senderKey);
  const again = places.length === 0 ? plain : exactly(readPaper(pages, { ...context, seen: places }), paper);
  const read = checkLines(again, rows, pages);
  const kinds = judged(first.senderId === null ? sentByUs(pages, ourselves) : false);
  const suggested = match(read, kinds, await findDoubles(tx, read, kinds, first.senderId));
  return { ...onKeptPages({ read, types: kinds, suggested, rows }, pages), senderKey, probes, weightsVersion: weights.version };
}

/** Records that mails were filed to, by the mails' own ids: they themselves, or what came with them. The main one of each. */
async function recordsOfMails(tx: Tx, ids: readonly string[]): Promise<readonly number[]> {
  if (ids.length === 0) return [];
  const rows = await tx.execute<{ id: number }>(sql`select distinct k.record_id as id from content c join arrival m on m.sha256 = c.sha256
      join arrival a on a.id = m.id or a.parent_id = m.id join clip k on k.document_id = a.document_id and k.position = 0
    where c.outline ->> 'messageId' = any(${textArray(ids)}::text[]) and a.document_id is not null order by 1 limit ${THREAD_MAX}`);
  return rows.rows.map((r) => r.id);
}

/** Types of papers that are booked once for each number. */
const numbered = new Set(["supplierInvoice", "supplierCreditNote"]);

/** Filed papers with the number of this one from the same account: a paper that comes a second time, however it looks by then. */
async function findDoubles(tx: Tx, read: PaperReadings, types: readonly JudgedType[], senderId: number | null): Promise<readonly string[]> {
  const number = read.readings.find((r) => r.field === "documentNumber" && r.certainty >= 0.5);
  if (!number || senderId === null || !numbered.has(types[0]?.type ?? "")) return [];
  const rows = await tx.execute<{ code: string }>(sql`select d.code from document d
    where lower(regexp_replace(d.properties ->> 'documentNumber', '[^[:alnum:]]', '', 'g')) = lower(regexp_replace(${number.value}, '[^[:alnum:]]', '', 'g'))
      and d.properties ->> 'documentNumber' is not null and d.unfiled_at is null and d.document_type = ${types[0]?.type ?? ""}
      and exists (select from clip c join record r on r.id = c.record_id where c.document_id = d.id and (r.id = ${senderId} or r.above_id = ${senderId}))
    order by d.id limit 3`);
  return rows.rows.map((r) => r.code);
}

/** What an e-invoice says itself goes before what was read off its pages. */
function exactly(read: PaperReadings, paper: LoadedPaper): PaperReadings {
  if (!paper.invoice) return read;
  // Where there are no pages beside it, what would be read off is only our own rendering of it.
  const page = paper.pages.some((p) => p.isDrawn)
    ? read
    : { ...read, readings: read.readings.filter((r) => r.field === "language"), doubts: [] };
  const { readings, differing } = withStructured(page.readings, readingsOfEInvoice(paper.invoice));
  return {
    ...page,
    readings,
    doubts: [...page.doubts, ...differing.map((d) => ({ code: "structured-differs" as const, fields: [d.field], detail: d.detail }))],
  };
}

/** Whose layouts a paper is read with: the account it is from, else the domain it was sent from, else the name it bears. */
function senderKeyOf(senderId: number | null, sender: string | null, read: PaperReadings): string | null {
  if (senderId !== null) return `account:${senderId}`;
  const domain = sender === null ? null : ownDomain(sender);
  if (domain !== null) return `domain:${domain}`;
  const party = read.readings.find((r) => r.field === "party");
  return party && party.certainty >= 0.6 ? `name:${nameOf(party.value)}` : null;
}

/** What names ourselves says nothing of the sender. */
function isOurs(probe: Probe, ourselves: readonly Ourself[]): boolean {
  if (probe.kind === "iban") return ourselves.some((o) => o.ibans.some((i) => i.toLowerCase() === probe.reference));
  if (probe.kind === "vatNumber") return ourselves.some((o) => o.vatNumbers.some((v) => v.toLowerCase() === probe.reference));
  return probe.kind === "name" && ourselves.some((o) => nameOf(o.name) === probe.reference);
}

/** Which of our companies the first page names, if it is one only. */
function addressedTo(pages: readonly ReadPage[], ourselves: readonly Ourself[]): MatchPaper["addressed"] {
  const first = pages[0];
  if (!first) return null;
  const named = ourselves.flatMap((o) => {
    const name = foldText(o.name).replace(/\s(ltd|limited|gmbh|plc)\.?$/, "");
    const phrase = first.lines.flat().find((p) => foldText(p.text).includes(name));
    return phrase
      ? [
          {
            company: o.company,
            length: name.length,
            place: {
              text: phrase.text,
              page: first.isDrawn ? 1 : null,
              box: first.isDrawn ? phrase.box : null,
              where: "page" as const,
              label: null,
              depth: phrase.box[1] / first.height,
            },
          },
        ]
      : [];
  });
  const [one, other] = named;
  return one && !other ? { company: one.company, place: one.place } : null;
}

/** Whether our own name stands at the head of the paper as its sender's does: first, and larger than the rest. Null when it does not stand there. */
function sentByUs(pages: readonly ReadPage[], ourselves: readonly Ourself[]): boolean | null {
  const first = pages[0];
  if (!first?.isDrawn) return null;
  const head = first.lines.flat().filter((p) => p.box[1] < first.height * 0.22);
  const ours = head.find((p) => ourselves.some((o) => foldText(p.text) === foldText(o.name)));
  if (!ours) return null;
  return ours.box[3] > first.letter * 1.25 ? true : null;
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
  pages: readonly ReadPage[],
): Pick<Found, "read" | "types" | "suggested" | "rows"> {
  if (pages.every((p) => p.turned === null)) return found;
  const kept = <T extends { readonly page: number | null; readonly box: Box | null }>(at: T): T => {
    const page = pages.find((p) => p.number === at.page);
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

/** Readings that people confirmed on an arrival: they stand, whatever is read anew. */
function confirmedReadings(kept: typeof arrivalReading.$inferSelect | null): readonly Reading[] {
  const known = new Set<string>(readingFields);
  return ((Array.isArray(kept?.readings) ? kept.readings : []) as readonly Reading[]).filter(
    (r) => r.from === "person" && known.has(r.field),
  );
}
