import { allowsRecord } from "#core/access/grants.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { sql } from "drizzle-orm";
import { db } from "../db/connect.ts";
import { moveNow, type MovedNow } from "../filing-plan/move-now.ts";
import type { Actor } from "../people/load-actor.ts";
import { findVisibleRecord } from "./find-visible-record.ts";

/** Moves a record's folder, with all in it and beneath it, to where the filing plan has it. Refuses not-found, not-allowed. */
export async function moveRecordFolder(
  actor: Actor,
  type: string,
  key: string,
  company: string | undefined,
): Promise<Result<{ move: (MovedNow & { readonly path: string | null }) | null }>> {
  const row = await findVisibleRecord(actor, type, key, company);
  if (!row) return refuse("not-found");
  if (!allowsRecord(actor.grants, "file", row.company, row.type)) return refuse("not-allowed");
  const moved = await moveNow(actor, "record", `${row.key} ${row.title}`.slice(0, 120), { recordIds: [row.id] });
  if (!moved.ok) return moved;
  const at = await db().execute<{ path: string }>(sql`select path from own_folder where record_id = ${row.id}`);
  return ok({ move: moved.value === null ? null : { ...moved.value, path: at.rows[0]?.path ?? null } });
}
