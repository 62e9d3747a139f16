import { randomBytes } from "node:crypto";
import { sql } from "drizzle-orm";
import { z } from "zod";
import { allowsAnywhere } from "#core/access/grants.ts";
import { type Expected, automaticFilingSettingsSchema, HISTORY_MIN, maySwitchOn } from "#core/automatic-filing/automatic-filing-rule.ts";
import { neededFor } from "#core/automatic-filing/precision-bound.ts";
import { parseDocumentCode } from "#core/shared/brand.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { documentFilter, recordFilter } from "../access/filters.ts";
import { db } from "../db/connect.ts";
import { unfile } from "../documents/unfile.ts";
import type { Actor } from "../people/load-actor.ts";
import { now } from "../ports/clock.ts";
import { writeLines } from "../timeline/write-lines.ts";
import { loadExpected, type OffWhy } from "./measure.ts";
import { automaticFiling } from "./tables.ts";

/** Hands-free filing of one queue and type, with what is to be expected of it. */
export interface AutomaticFilingAnswer {
  readonly queue: string;
  readonly documentType: string;
  readonly isOn: boolean;
  readonly asked: number;
  readonly heldBack: number;
  readonly expected: Expected;
  readonly may: "yes" | "too-few" | "not-good-enough";
  /** Documents without an error that are needed for what is asked. */
  readonly needed: number;
  readonly filed: number;
  readonly waiting: number;
  readonly offWhy: OffWhy | null;
}

/** Queues and types of which anything is known. */
const LISTED = 200;

/** All queues and types that documents were decided on, the most used first. Refuses not-allowed without the right to manage. */
export async function listAutomaticFiling(
  actor: Actor,
): Promise<Result<{ readonly items: readonly AutomaticFilingAnswer[]; readonly historyMin: number }>> {
  if (!allowsAnywhere(actor.grants, "manage")) return refuse("not-allowed");
  const rows = await db().execute<{
    queue: string;
    document_type: string;
    is_on: boolean | null;
    asked: number | null;
    held_back: number | null;
    off_why: OffWhy | null;
    filed: number;
    waiting: number;
  }>(sql`
    with seen as (select queue, document_type, count(*) as n, count(*) filter (where how = 'filed' and state in ('filed', 'corrected'))::int as filed,
        count(*) filter (where how = 'sample' and state = 'waiting')::int as waiting from hands_free_paper group by 1, 2)
    select coalesce(s.queue, h.queue) as queue, coalesce(s.document_type, h.document_type) as document_type, h.is_on, h.asked, h.held_back, h.off_why,
      coalesce(s.filed, 0) as filed, coalesce(s.waiting, 0) as waiting
    from seen s full join hands_free h on h.queue = s.queue and h.document_type = s.document_type
    order by h.is_on desc nulls last, s.n desc nulls last limit ${LISTED}`);
  const starting = automaticFilingSettingsSchema.parse({});
  const items: AutomaticFilingAnswer[] = [];
  for (const r of rows.rows) {
    const settings = { asked: round(r.asked ?? starting.asked), heldBack: round(r.held_back ?? starting.heldBack) };
    const expected = await loadExpected(r.queue, r.document_type);
    items.push({
      queue: r.queue,
      documentType: r.document_type,
      isOn: r.is_on ?? false,
      ...settings,
      expected,
      may: maySwitchOn(expected, settings),
      needed: Math.max(HISTORY_MIN, neededFor(settings.asked)),
      filed: r.filed,
      waiting: r.waiting,
      offWhy: r.off_why,
    });
  }
  return ok({ items, historyMin: HISTORY_MIN });
}

const round = (n: number): number => Math.round(n * 10_000) / 10_000;

export const automaticFilingChangeSchema = automaticFilingSettingsSchema.extend({
  queue: z.string().min(1).max(40),
  documentType: z.string().min(1).max(40),
  isOn: z.boolean(),
});

/**
 * Sets automatic filing of a queue and type. It is switched on only where enough was confirmed and the bound reaches what is asked; it files with the
 * rights of whoever switched it on. Refuses not-allowed, unknown-queue, unknown-type, not-sure.
 */
export async function saveAutomaticFiling(
  actor: Actor,
  change: z.infer<typeof automaticFilingChangeSchema>,
): Promise<Result<{ readonly isOn: boolean }>> {
  if (!allowsAnywhere(actor.grants, "manage")) return refuse("not-allowed");
  const { queue, documentType, isOn, asked, heldBack } = change;
  const there = await db().execute<{ queue: boolean; type: boolean }>(
    sql`select exists (select from queue where key = ${queue}) as queue, exists (select from document_type where key = ${documentType}) as type`,
  );
  if (!there.rows[0]?.queue) return refuse("unknown-queue");
  if (!there.rows[0].type) return refuse("unknown-type");
  if (isOn && maySwitchOn(await loadExpected(queue, documentType), change) !== "yes")
    return refuse("not-sure", "Too few documents confirm this accuracy.");
  return db().transaction(async (tx) => {
    const values = { isOn, asked, heldBack, lentBy: actor.id, changedAt: now(), offWhy: null };
    await tx
      .insert(automaticFiling)
      .values({ queue, documentType, secret: randomBytes(24).toString("hex"), ...values })
      .onConflictDoUpdate({ target: [automaticFiling.queue, automaticFiling.documentType], set: values });
    await writeLines(tx, [
      {
        verb: "handsFreeSet",
        who: actor.id,
        details: { queue, documentType, state: isOn ? "on" : "off", asked: `${round(asked * 100)} %` },
      },
    ]);
    return ok({ isOn });
  });
}

/** A document that was filed without a person. */
export interface FiledByItself {
  readonly code: string;
  readonly title: string;
  readonly documentType: string;
  readonly queue: string;
  readonly record: { readonly company: string; readonly type: string; readonly key: string; readonly title: string } | null;
  readonly state: "filed" | "corrected" | "undone";
  readonly at: string;
}

/** Documents listed of one day. */
const PAPERS_MAX = 500;

/** Days on which documents were filed without a person, and those of one day; only documents that the person may see. */
export async function listFiledByItself(
  actor: Actor,
  day: string | null,
): Promise<
  Result<{
    readonly days: readonly { readonly day: string; readonly filed: number; readonly corrected: number; readonly undone: number }[];
    readonly items: readonly FiledByItself[];
  }>
> {
  const seen = await documentFilter(actor, "see", sql`d.acl_id`);
  const of = sql`hands_free_paper h join document d on d.id = h.document_id`;
  // The day it was where the program runs.
  const zone = sql`(h.at at time zone ${Intl.DateTimeFormat().resolvedOptions().timeZone}::text)::date`;
  const days = await db().execute<{ day: string; filed: number; corrected: number; undone: number }>(sql`
    select ${zone}::text as day, count(*) filter (where h.state = 'filed')::int as filed, count(*) filter (where h.state = 'corrected')::int as corrected,
      count(*) filter (where h.state = 'undone')::int as undone
    from ${of} where h.how = 'filed' and ${seen} group by 1 order by 1 desc limit 90`);
  const chosen = day ?? days.rows[0]?.day ?? null;
  const items =
    chosen === null
      ? { rows: [] }
      : await db().execute<{
          code: string;
          title: string;
          document_type: string;
          queue: string;
          record: FiledByItself["record"];
          state: FiledByItself["state"];
          at: Date;
        }>(sql`
    select d.code, d.title, h.document_type, h.queue, h.state, h.at,
      (select json_build_object('company', r.company, 'type', r.type, 'key', r.key, 'title', r.title) from record r
        where r.company = h.decided -> 'record' ->> 'company' and r.type = h.decided -> 'record' ->> 'type' and r.key = h.decided -> 'record' ->> 'key' and ${recordFilter(actor, "see", sql`r`)}) as record
    from ${of} where h.how = 'filed' and ${zone} = ${chosen}::date and ${seen} order by h.at desc, d.id desc limit ${PAPERS_MAX}`);
  return ok({
    days: days.rows,
    items: items.rows.map((r) => ({
      code: r.code,
      title: r.title,
      documentType: r.document_type,
      queue: r.queue,
      record: r.record,
      state: r.state,
      at: new Date(r.at).toISOString(),
    })),
  });
}

export const undoDaySchema = z.object({
  day: z.iso.date(),
  queue: z.string().max(40).optional(),
  documentType: z.string().max(40).optional(),
});

/** Takes everything back to Arrivals that was filed without a person on one day; what a person has changed since stays. Says what could not be taken back. */
export async function undoDay(
  actor: Actor,
  wish: z.infer<typeof undoDaySchema>,
): Promise<Result<{ readonly done: number; readonly failures: readonly { readonly what: string; readonly why: string }[] }>> {
  const listed = await listFiledByItself(actor, wish.day);
  if (!listed.ok) return listed;
  const failures: { what: string; why: string }[] = [];
  let done = 0;
  for (const paper of listed.value.items) {
    if (
      paper.state !== "filed" ||
      (wish.queue && wish.queue !== paper.queue) ||
      (wish.documentType && wish.documentType !== paper.documentType)
    )
      continue;
    const code = parseDocumentCode(paper.code);
    if (!code) continue;
    // Said first: taking it back is no correction of this one document.
    const marked = await db().execute(sql`update hands_free_paper h set state = 'undone', checked_at = null from document d
      where h.document_id = d.id and d.code = ${code} and h.how = 'filed' and h.state = 'filed'`);
    if (marked.rowCount === 0) continue;
    const back = await unfile(actor, code);
    if (back.ok) done++;
    else {
      await db().execute(
        sql`update hands_free_paper h set state = 'filed' from document d where h.document_id = d.id and d.code = ${code} and h.state = 'undone'`,
      );
      failures.push({ what: paper.title, why: back.refusal.code });
    }
  }
  return ok({ done, failures });
}

/** In what the program's decision on a document of the sample differs from that of the person who filed it; null until that is worked out. */
export async function loadChecked(
  actor: Actor,
  code: string,
): Promise<Result<{ readonly isSample: boolean; readonly differences: readonly string[] | null }>> {
  const rows = await db().execute<{ how: string; state: string; differences: readonly string[] | null }>(sql`
    select h.how, h.state, h.differences from hands_free_paper h join arrival a on a.id = h.arrival_id join document d on d.id = a.document_id
    where d.code = ${code} and ${await documentFilter(actor, "see", sql`d.acl_id`)}`);
  const found = rows.rows[0];
  if (!found) return ok({ isSample: false, differences: null });
  return ok({ isSample: found.how === "sample", differences: found.state === "checked" ? (found.differences ?? []) : null });
}
