import { type SQL, sql } from "drizzle-orm";
import { lineWords, type Verb } from "#core/timeline/line.ts";
import { documentFilter, recordFilter } from "../access/filters.ts";
import { db } from "../db/connect.ts";
import type { Actor } from "../people/load-actor.ts";
import { PROGRAM } from "./write-lines.ts";

export interface TimelineEntry {
  readonly id: number;
  readonly at: string;
  readonly who: string;
  readonly words: string;
  readonly verb: string;
  readonly document: string | null;
  readonly record: { readonly company: string; readonly type: string; readonly key: string } | null;
}

/** Lines shown at most; older ones are there, and can be asked for by `before`. */
const LINES_MAX = 200;
type Row = {
  id: number;
  at: Date;
  who: string;
  name: string | null;
  verb: Verb;
  details: Record<string, string>;
  code: string | null;
  record_company: string | null;
  record_type: string | null;
  record_key: string | null;
} & Record<string, unknown>;

/**
 * The timeline of one thing, newest first. The caller has made sure that the person may see the thing itself; lines that also name
 * a document or record the person may not see are left out (promise 6).
 */
export async function listLines(
  actor: Actor,
  about: { readonly documentId: number } | { readonly recordId: number } | { readonly arrivalId: string },
): Promise<readonly TimelineEntry[]> {
  const which: SQL =
    "documentId" in about
      ? sql`l.document_id = ${about.documentId}`
      : "recordId" in about
        ? sql`l.record_id = ${about.recordId}`
        : sql`l.arrival_id = ${about.arrivalId}`;
  const rows = await db()
    .execute<Row>(sql`select l.id, l.at, l.who, u.name, l.verb, l.details, d.code, r.company as record_company, r.type as record_type, r.key as record_key
    from timeline_line l left join "user" u on u.id = l.who left join document d on d.id = l.document_id left join record r on r.id = l.record_id
    where ${which} and (l.document_id is null or ${await documentFilter(actor, "see", sql`d.acl_id`)}) and (l.record_id is null or ${recordFilter(actor, "see", sql`r`)})
    order by l.id desc limit ${LINES_MAX}`);
  return rows.rows.map((l) => ({
    id: l.id,
    at: new Date(l.at).toISOString(),
    who: l.who === PROGRAM ? "Amber Clip" : (l.name ?? "Deleted person"),
    words: lineWords(l.verb, l.details),
    verb: l.verb,
    document: l.code,
    record:
      l.record_type !== null && l.record_key !== null && l.record_company !== null
        ? { company: l.record_company, type: l.record_type, key: l.record_key }
        : null,
  }));
}
