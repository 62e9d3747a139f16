import { createHash } from "node:crypto";
import { sql } from "drizzle-orm";
import { openStates } from "#core/arrivals/journey.ts";
import type { PaperLook } from "#core/matching/paper-look.ts";
import type { PaperReadings, Reading } from "#core/reading/reading.ts";
import { queryPrepared } from "../db/query-prepared.ts";
import { db } from "../db/connect.ts";
import { textArray } from "../db/sql-arrays.ts";
import type { Ourself } from "./load-ourselves.ts";
import { type PaperHead, TEXT_MAX } from "./load-paper.ts";

/** What reading an arrival gave: enough to find for it again when records, weights or types have changed. */
export interface CachedAnalysis {
  readonly look: PaperLook;
  /** Its fields, read with what was learnt of its sender. */
  readonly read: PaperReadings;
  /** Of whom, and what was learnt by then. */
  readonly learnt: string;
  readonly subject: string | null;
  readonly isMail: boolean;
  readonly answers: PaperHead["answers"];
  readonly codes: PaperHead["codes"];
}

/** An arrival that is found for: what is known of it, what people confirmed on it, and what reading gave, where that still holds. */
export interface Waiting {
  readonly arrival: PaperHead["arrival"];
  readonly confirmed: readonly Reading[];
  readonly stamp: string;
  readonly kept: { readonly paper: PaperHead; readonly look: CachedAnalysis } | null;
}

type Row = {
  id: string;
  state: PaperHead["arrival"]["state"];
  company: string | null;
  queue: string;
  file_name: string;
  sender: string | null;
  received_at: Date;
  record_id: number | null;
  document_type: string | null;
  mark: string;
  is_several: boolean;
  text: string | null;
  confirmed: readonly Reading[] | null;
  look: string | null;
};

/** Looks that were made before this process began may be those of an older program: its documents are read again, once. */
const BEGAN = new Date(performance.timeOrigin);

/** Arrivals with what reading them gave earlier, if that was of the same content, by the same program. Those that wait no more are left out. */
export async function loadWaiting(arrivalIds: readonly string[], ourselves: readonly Ourself[]): Promise<readonly Waiting[]> {
  const us = markOf(ourselves);
  // The mark of a row in the database changes whenever its content is read or looked at again.
  const rows = await queryPrepared<Row>(sql`
    select w.*, l.body as look from (
      select a.id, a.state, a.company, a.queue, a.file_name, a.sender, a.received_at, a.record_id, a.document_type,
        md5(concat_ws('|', c.xmin::text, c.sha256, a.file_name, a.sender, ${us}::text)) as mark, c.cuts <> '[]' as is_several,
        left(case when c.outline ->> 'kind' = 'mail' then concat_ws(E'\n\n', c.outline ->> 'subject', c.outline ->> 'text') else c.body end, ${TEXT_MAX}) as text,
        (select jsonb_agg(e) from jsonb_array_elements(f.readings) e where e ->> 'from' = 'person') as confirmed
      from arrival a join content c on c.sha256 = a.sha256 left join arrival_reading f on f.arrival_id = a.id
      where a.id = any(${textArray(arrivalIds)}::uuid[]) and a.state = any(${textArray(openStates)}::text[])
    ) w left join arrival_look l on l.arrival_id = w.id and l.stamp = w.mark and l.made_at >= ${BEGAN}
    order by w.id`);
  return rows.map(asWaiting);
}

function asWaiting(row: Row): Waiting {
  const arrival = {
    id: row.id,
    state: row.state,
    company: row.company,
    queue: row.queue,
    fileName: row.file_name,
    sender: row.sender,
    receivedAt: new Date(row.received_at),
    recordId: row.record_id,
    documentType: row.document_type,
  };
  const waiting = { arrival, confirmed: row.confirmed ?? [], stamp: row.mark };
  const look = row.look === null ? null : parseLook(row.look);
  if (!look) return { ...waiting, kept: null };
  const { subject, isMail, answers, codes } = look;
  return {
    ...waiting,
    kept: { look, paper: { arrival, text: row.text ?? "", subject, isMail, answers, isSeveral: row.is_several, codes } },
  };
}

/** Kept by cacheAnalysis, whose shape it is; what cannot be read any more is as good as not there. */
function parseLook(text: string): CachedAnalysis | null {
  try {
    return JSON.parse(text) as CachedAnalysis;
  } catch {
    return null;
  }
}

/** Keeps what reading an arrival gave. */
export async function cacheAnalysis(arrivalId: string, stamp: string, look: CachedAnalysis): Promise<void> {
  await queryPrepared(sql`insert into arrival_look (arrival_id, stamp, made_at, body) values (${arrivalId}, ${stamp}, now(), ${JSON.stringify(look)})
    on conflict (arrival_id) do update set stamp = excluded.stamp, made_at = excluded.made_at, body = excluded.body`);
}

/** Takes away what was kept of arrivals that wait no more. Answers of how many. */
export async function clearAnalyses(): Promise<number> {
  const gone = await db().execute(
    sql`delete from arrival_look l using arrival a where a.id = l.arrival_id and a.state <> all(${textArray(openStates)}::text[])`,
  );
  return gone.rowCount ?? 0;
}

const marks = new WeakMap<readonly Ourself[], string>();

function markOf(ourselves: readonly Ourself[]): string {
  const mark = marks.get(ourselves) ?? createHash("sha256").update(JSON.stringify(ourselves)).digest("hex").slice(0, 16);
  marks.set(ourselves, mark);
  return mark;
}
