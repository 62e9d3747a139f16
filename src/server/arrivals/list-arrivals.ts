import { type SQL, sql } from "drizzle-orm";
import { arrivalStates, type ArrivalState, openStates } from "#core/arrivals/journey.ts";
import { SURE_FROM } from "#core/matching/suggest-records.ts";
import type { ProposedCut } from "#core/bench/propose-cuts.ts";
import type { DecidingWord } from "#core/reading/judge-type.ts";
import type { PageCode } from "#core/codes/page-code.ts";
import type { ArrivalProblem } from "#core/arrivals/problems.ts";
import type { ArrivalId } from "#core/shared/brand.ts";
import { arrivalFilter, documentFilter, recordFilter } from "../access/filters.ts";
import { db } from "../db/connect.ts";
import type { Actor } from "../people/load-actor.ts";
import { type Duplicate, findSame, type Twin } from "./find-same.ts";
import { loadSuggestions, type ReadAnswer } from "../matching/load-suggestions.ts";
import { now } from "../ports/clock.ts";
import type { Claim } from "./claim.ts";
import type { MailFacts } from "./receive.ts";

/** An arrival as lists and the API show it. */
export interface ArrivalAnswer {
  readonly id: string;
  readonly number: number;
  readonly state: ArrivalState;
  readonly fileName: string;
  readonly mediaType: string | null;
  readonly kind: string | null;
  readonly bytes: number;
  readonly sha256: string;
  readonly pages: number | null;
  readonly problem: ArrivalProblem | null;
  readonly queue: string;
  readonly company: string | null;
  readonly source: string;
  readonly sender: string | null;
  /** What the relay found out about a message that came by mail. */
  readonly mail: MailFacts | null;
  readonly note: string | null;
  /** Who works on it just now. */
  readonly claim: Claim | null;
  /** To whom it was handed, by whom and with what word. */
  readonly handed: { readonly to: string | null; readonly toMe: boolean; readonly by: string | null; readonly word: string | null } | null;
  readonly receivedAt: string;
  readonly receivedBy: string | null;
  readonly endedAt: string | null;
  readonly endedBy: string | null;
  readonly endReason: string | null;
  readonly parent: string | null;
  readonly children: readonly string[];
  readonly document: string | null;
  readonly documentTitle: string | null;
  readonly documentPath: string | null;
  readonly proposedType: { readonly type: string; readonly certainty: number; readonly words?: readonly DecidingWord[] } | null;
  readonly tied: { readonly company: string; readonly type: string; readonly key: string; readonly title: string } | null;
  /** Barcodes on its pages. */
  readonly barcodes: readonly (PageCode & { readonly page: number })[];
  /** What was read off it, and what does not fit together. */
  readonly readings: ReadAnswer["readings"];
  readonly doubts: ReadAnswer["doubts"];
  /** Records it may belong to, the likeliest first; and the probability that it is none of ours. */
  readonly suggestions: ReadAnswer["suggestions"];
  readonly none: number | null;
  /** Documents with the same bytes, and the arrival with them that came in first and waits too; only of arrivals that wait. */
  readonly duplicates: readonly Duplicate[];
  readonly twin: Twin | null;
  /** Where it probably falls apart into several documents. */
  readonly proposedCuts: readonly ProposedCut[];
  /** It is one of the sample that is held back from automatic filing: a person decides on it without being told what the program would do. */
  /** The person who asks sent it in. */
  readonly isMine: boolean;
  readonly isHeldBack: boolean;
}

export const arrivalSorts = ["newest", "oldest", "name", "largest", "pages", "sender", "source"] as const;
export interface ArrivalWish {
  readonly states?: readonly ArrivalState[] | undefined;
  readonly queue?: string | undefined;
  readonly company?: string | undefined;
  readonly source?: string | undefined;
  readonly kind?: string | undefined;
  readonly problem?: boolean | undefined;
  /** Those that were handed to the person. */
  readonly mine?: boolean | undefined;
  /** Those whose record the program is sure of, of records that the person may see. */
  readonly sure?: boolean | undefined;
  readonly sender?: string | undefined;
  /** `type:key` of the record they are tied to. */
  readonly record?: string | undefined;
  readonly q?: string | undefined;
  readonly from?: string | undefined;
  readonly to?: string | undefined;
  readonly sort?: (typeof arrivalSorts)[number] | undefined;
  readonly limit: number;
  readonly offset: number;
}

type Row = Record<string, unknown> & {
  id: string;
  number: number;
  state: ArrivalState;
  file_name: string;
  media_type: string | null;
  kind: string | null;
  size_bytes: number;
  sha256: string;
  pages: number | null;
  problem: ArrivalProblem | null;
  queue: string;
  company: string | null;
  source: string;
  sender: string | null;
  mail: MailFacts | null;
  note: string | null;
  received_at: Date;
  received_by: string | null;
  ended_at: Date | null;
  ended_by: string | null;
  end_reason: string | null;
  parent_id: string | null;
  children: string[] | null;
  held_back: boolean;
  barcodes: ArrivalAnswer["barcodes"] | null;
  cuts: readonly ProposedCut[];
  code: string | null;
  title: string | null;
  path: string | null;
  document_type: string | null;
  told_apart: boolean;
  claimed_by: string | null;
  claimed_until: Date | null;
  claimer_name: string | null;
  handed_to: string | null;
  handed_at: Date | null;
  handed_word: string | null;
  handed_to_name: string | null;
  hander_name: string | null;
  tied: ArrivalAnswer["tied"];
};

/** Arrivals the person may see, open ones unless other states are asked for; and how many there are. */
export async function listArrivals(
  actor: Actor,
  wish: ArrivalWish,
): Promise<{ readonly items: readonly ArrivalAnswer[]; readonly total: number }> {
  const where = await arrivalWhere(actor, wish);
  const order: SQL = {
    newest: sql`arrival.received_at desc, arrival.number desc`,
    oldest: sql`arrival.received_at, arrival.number`,
    name: sql`lower(arrival.file_name), arrival.number`,
    largest: sql`arrival.size_bytes desc, arrival.number`,
    sender: sql`lower(coalesce(arrival.sender, '')), arrival.received_at desc, arrival.number`,
    source: sql`arrival.source, arrival.received_at desc, arrival.number`,
    pages: sql`content.pages desc nulls last, arrival.number`,
  }[wish.sort ?? "newest"];
  const [rows, counted] = await Promise.all([
    selectArrivals(actor, sql`${where} order by ${order} limit ${wish.limit} offset ${wish.offset}`),
    db().execute<{ total: number }>(
      sql`select count(*) as total from arrival join content on content.sha256 = arrival.sha256 where ${where}`,
    ),
  ]);
  return { items: rows, total: Number(counted.rows[0]?.total ?? 0) };
}

/** One arrival; null when it is not there for this person. */
export async function loadArrival(
  actor: Actor,
  id: ArrivalId,
  options: {
    /** The program itself asks: it knows what it decided of documents that are held back, and of those that are filed. */
    readonly isProgram?: boolean;
  } = {},
): Promise<ArrivalAnswer | null> {
  const rows = await selectArrivals(actor, sql`arrival.id = ${id} and ${await arrivalFilter(actor)}`, options.isProgram ?? false);
  return rows[0] ?? null;
}

/** The bytes behind an arrival: hash and file name; null when it is not there for this person. Asked for with every picture of a page: nothing more. */
export async function loadArrivalFile(actor: Actor, id: ArrivalId): Promise<{ readonly sha256: string; readonly fileName: string } | null> {
  const { rows } = await db().execute<{ sha256: string; file_name: string }>(
    sql`select arrival.sha256, arrival.file_name from arrival where arrival.id = ${id} and ${await arrivalFilter(actor)}`,
  );
  return rows[0] ? { sha256: rows[0].sha256, fileName: rows[0].file_name } : null;
}

/** Waiting arrivals by queue, for the rail and the queue chooser. */
export async function countArrivals(
  actor: Actor,
): Promise<readonly { readonly queue: string; readonly open: number; readonly ready: number; readonly failed: number }[]> {
  const rows = await db().execute<{
    queue: string;
    open: number;
    ready: number;
    failed: number;
  }>(sql`select arrival.queue, count(*) as open,
      count(*) filter (where arrival.state = 'ready') as ready, count(*) filter (where arrival.state = 'failed') as failed
    from arrival join queue on queue.key = arrival.queue where arrival.state in ('waiting','reading','ready','failed') and ${await arrivalFilter(actor)} group by arrival.queue, queue.order order by queue.order`);
  return rows.rows.map((r) => ({ queue: r.queue, open: Number(r.open), ready: Number(r.ready), failed: Number(r.failed) }));
}

/** The whole register in pages, newest first, for CSV. */
export async function* eachRegisterPage(actor: Actor, wish: ArrivalWish, pageSize = 1000): AsyncGenerator<readonly ArrivalAnswer[]> {
  for (let offset = 0; ; offset += pageSize) {
    const page = await listArrivals(actor, { ...wish, limit: pageSize, offset });
    if (page.items.length > 0) yield page.items;
    if (page.items.length < pageSize) return;
  }
}

async function arrivalWhere(actor: Actor, wish: ArrivalWish): Promise<SQL> {
  const parts: SQL[] = [await arrivalFilter(actor)];
  const states = wish.states ?? openStates;
  if (states.length < arrivalStates.length)
    parts.push(
      sql`arrival.state in (${sql.join(
        states.map((s) => sql`${s}`),
        sql`, `,
      )})`,
    );
  if (wish.queue) parts.push(sql`arrival.queue = ${wish.queue}`);
  if (wish.company) parts.push(sql`arrival.company = ${wish.company}`);
  if (wish.source) parts.push(sql`arrival.source = ${wish.source}`);
  if (wish.kind) parts.push(sql`content.kind = ${wish.kind}`);
  if (wish.mine) parts.push(sql`arrival.handed_to = ${actor.id}`);
  if (wish.sender) parts.push(sql`lower(coalesce(arrival.sender, '')) = ${wish.sender.toLowerCase()}`);
  if (wish.sure)
    parts.push(sql`exists (select from arrival_reading f join record r on r.id = (f.suggestions -> 0 ->> 'recordId')::bigint
      where f.arrival_id = arrival.id and (f.suggestions -> 0 ->> 'certainty')::float8 >= ${SURE_FROM} and f.suggestions -> 0 -> 'clashes' = '[]' and ${recordFilter(actor, "see", sql`r`)})
      and not exists (select from hands_free_paper h where h.arrival_id = arrival.id and h.how = 'sample' and h.state = 'waiting')`);
  if (wish.problem) parts.push(sql`arrival.problem is not null`);
  if (wish.record) {
    const cut = wish.record.indexOf(":");
    parts.push(
      sql`arrival.record_id in (select r.id from record r where r.type = ${wish.record.slice(0, cut)} and r.key = ${wish.record.slice(cut + 1)} and ${recordFilter(actor, "see", sql`r`)})`,
    );
  }
  if (wish.from) parts.push(sql`arrival.received_at >= ${wish.from}::date`);
  if (wish.to) parts.push(sql`arrival.received_at < ${wish.to}::date + 1`);
  if (wish.q) {
    const pattern = `%${wish.q.toLowerCase().replace(/[\\%_]/g, (c) => `\\${c}`)}%`;
    parts.push(
      sql`(lower(arrival.file_name) like ${pattern} or lower(coalesce(arrival.sender, '')) like ${pattern} or lower(coalesce(arrival.note, '')) like ${pattern})`,
    );
  }
  return sql.join(parts, sql` and `);
}

async function selectArrivals(actor: Actor, rest: SQL, isProgram = false): Promise<readonly ArrivalAnswer[]> {
  const rows = await db()
    .execute<Row>(sql`select arrival.*, content.media_type, content.kind, content.pages, content.cuts, d.code, d.title, p.path, receiver.name as receiver_name, ender.name as ender_name,
      claimer.name as claimer_name, handed_to_person.name as handed_to_name, hander.name as hander_name,
      (select json_agg(child.id order by child.part) from arrival child where child.parent_id = arrival.id) as children,
      (select json_agg(json_build_object('page', cp.number, 'format', c->>'format', 'text', c->>'text', 'box', c->'box') order by cp.number) from content_page cp, jsonb_array_elements(cp.codes) c where cp.sha256 = arrival.sha256 and cp.codes <> '[]') as barcodes,
      exists (select from hands_free_paper h where h.arrival_id = arrival.id and h.how = 'sample' and h.state = 'waiting') as held_back,
      case when tied.id is null or not ${recordFilter(actor, "see", sql`tied`)} then null else json_build_object('company', tied.company, 'type', tied.type, 'key', tied.key, 'title', tied.title) end as tied
    from arrival join content on content.sha256 = arrival.sha256
    left join document d on d.id = arrival.document_id and ${await documentFilter(actor, "see", sql`d.acl_id`)}
    left join place p on p.document_id = d.id
    left join record tied on tied.id = arrival.record_id
    left join "user" receiver on receiver.id = arrival.received_by left join "user" ender on ender.id = arrival.ended_by
    left join "user" claimer on claimer.id = arrival.claimed_by left join "user" handed_to_person on handed_to_person.id = arrival.handed_to
    left join "user" hander on hander.id = arrival.handed_by
    where ${rest}`);
  const open = rows.rows.filter((r) => (openStates as readonly string[]).includes(r.state));
  // Of what is held back for checking a person is told nothing that the program found, until they have decided.
  const told = isProgram ? rows.rows : open.filter((r) => !r.held_back);
  const [same, read] = await Promise.all([
    findSame(actor, open),
    loadSuggestions(
      actor,
      told.map((r) => r.id),
    ),
  ]);
  return rows.rows.map((r) => ({
    isHeldBack: r.held_back,
    isMine: r.received_by === actor.id,
    id: r.id,
    number: r.number,
    state: r.state,
    fileName: r.file_name,
    mediaType: r.media_type,
    kind: r.kind,
    bytes: r.size_bytes,
    sha256: r.sha256,
    pages: r.pages,
    problem: r.problem,
    queue: r.queue,
    company: r.company,
    source: r.source,
    sender: r.sender,
    mail: r.mail,
    note: r.note,
    claim:
      r.claimed_by !== null && r.claimed_until !== null && new Date(r.claimed_until) > now()
        ? { id: r.claimed_by, name: r.claimer_name ?? "", until: new Date(r.claimed_until).toISOString() }
        : null,
    handed: r.handed_at === null ? null : { to: r.handed_to_name, toMe: r.handed_to === actor.id, by: r.hander_name, word: r.handed_word },
    receivedAt: new Date(r.received_at).toISOString(),
    receivedBy: nameOf(r, "receiver_name"),
    endedAt: r.ended_at === null ? null : new Date(r.ended_at).toISOString(),
    endedBy: nameOf(r, "ender_name"),
    endReason: r.end_reason,
    parent: r.parent_id,
    children: r.children ?? [],
    document: r.code,
    documentTitle: r.title,
    documentPath: r.path,
    proposedType: r.document_type === null ? (read.get(r.id)?.proposedType ?? null) : { type: r.document_type, certainty: 1 },
    tied: r.tied,
    barcodes: r.barcodes ?? [],
    readings: read.get(r.id)?.readings ?? [],
    doubts: read.get(r.id)?.doubts ?? [],
    suggestions: read.get(r.id)?.suggestions ?? [],
    none: read.get(r.id)?.none ?? null,
    duplicates: same.get(r.id)?.duplicates ?? [],
    twin: same.get(r.id)?.twin ?? null,
    proposedCuts: r.cuts,
  }));
}

function nameOf(row: Row, column: string): string | null {
  const value = row[column];
  return typeof value === "string" ? value : null;
}
