import { randomUUID } from "node:crypto";
import { sql } from "drizzle-orm";
import { z } from "zod";
import { allowsAnywhere } from "#core/access/grants.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { db, type Tx } from "../db/connect.ts";
import type { Actor } from "../people/load-actor.ts";
import { now } from "../ports/clock.ts";
import { findVisibleRecord } from "../records/find-visible-record.ts";

/** How long the next batch of a scanner is waited for, ms. */
const WAIT_MS = 5 * 60_000;
/** Ways in that a scanner delivers by: its own upload, or a file that it puts into the queue's watched folder. */
const SCANNER_SOURCES = ["scanner", "folder"];

export const scanWishSchema = z.object({ queue: z.string().max(40) });

/** A wish as the person who made it sees it. */
export interface ScanWish {
  readonly id: string;
  readonly queue: string;
  readonly until: string;
  readonly state: "waiting" | "arrived" | "over";
  readonly arrival: string | null;
}

/**
 * Ties the next batch that a scanner delivers to a queue within five minutes to a record. Again from the same person replaces their wish. Refuses not-found,
 * not-allowed, unknown-queue (not one of the person's), claimed (somebody else waits for a batch there).
 */
export async function wishScan(
  actor: Actor,
  which: { readonly type: string; readonly key: string; readonly company?: string | undefined },
  queue: string,
): Promise<Result<ScanWish>> {
  const row = await findVisibleRecord(actor, which.type, which.key, which.company);
  if (!row) return refuse("not-found");
  if (!allowsAnywhere(actor.grants, "add")) return refuse("not-allowed");
  if (!actor.queues.includes(queue)) return refuse("unknown-queue");
  const at = now();
  return db().transaction(async (tx) => {
    await tx.execute(sql`select from queue where key = ${queue} for update`);
    const { rows } = await tx.execute<{ person_id: string; name: string | null }>(sql`select w.person_id, u.name from scan_wish w
      left join "user" u on u.id = w.person_id where w.queue = ${queue} and w.arrival_id is null and w.until > ${at}`);
    const other = rows.find((r) => r.person_id !== actor.id);
    if (other) return refuse("claimed", other.name ?? undefined);
    await tx.execute(
      sql`update scan_wish set until = ${at} where queue = ${queue} and person_id = ${actor.id} and arrival_id is null and until > ${at}`,
    );
    const [id, until] = [randomUUID(), new Date(at.getTime() + WAIT_MS)];
    await tx.execute(
      sql`insert into scan_wish (id, person_id, queue, record_id, made_at, until) values (${id}, ${actor.id}, ${queue}, ${row.id}, ${at}, ${until})`,
    );
    return ok({ id, queue, until: until.toISOString(), state: "waiting" as const, arrival: null });
  });
}

/** How a wish stands; null when it is not the person's. */
export async function loadScanWish(actor: Actor, id: string): Promise<ScanWish | null> {
  const { rows } = await db().execute<{ queue: string; until: Date; arrival_id: string | null }>(
    sql`select queue, until, arrival_id from scan_wish where id = ${id}::uuid and person_id = ${actor.id}`,
  );
  const row = rows[0];
  if (!row) return null;
  const until = new Date(row.until);
  const state = row.arrival_id !== null ? "arrived" : until > now() ? "waiting" : "over";
  return { id, queue: row.queue, until: until.toISOString(), state, arrival: row.arrival_id };
}

/** Ends a wish before anything came. Twice is once. Refuses not-found. */
export async function endScanWish(actor: Actor, id: string): Promise<Result<ScanWish>> {
  await db().execute(
    sql`update scan_wish set until = ${now()} where id = ${id}::uuid and person_id = ${actor.id} and arrival_id is null and until > ${now()}`,
  );
  const wish = await loadScanWish(actor, id);
  return wish ? ok(wish) : refuse("not-found");
}

/** The record that an arrival from a scanner was waited for; the wish is used up. Null for all others. In the transaction that enters the arrival. */
export async function takeScanWish(
  tx: Tx,
  arrival: { readonly id: string; readonly queue: string; readonly source: string; readonly company: string | null },
): Promise<{ readonly recordId: number; readonly company: string } | null> {
  if (!SCANNER_SOURCES.includes(arrival.source)) return null;
  const { rows } = await tx.execute<{ record_id: number; company: string }>(sql`update scan_wish w set arrival_id = ${arrival.id}::uuid
    from record r where r.id = w.record_id and w.id = (select o.id from scan_wish o join record s on s.id = o.record_id
      where o.queue = ${arrival.queue} and o.arrival_id is null and o.until > ${now()} and (${arrival.company}::text is null or s.company = ${arrival.company})
      order by o.made_at limit 1 for update of o skip locked)
    returning w.record_id, r.company`);
  const found = rows[0];
  return found ? { recordId: Number(found.record_id), company: found.company } : null;
}
