import { eq, sql } from "drizzle-orm";
import { db, type Tx } from "../db/connect.ts";
import type { NewStep } from "./new-step.ts";
import { movePlan, moveStep } from "./tables.ts";

/** Steps kept in one statement. */
export const KEPT_AT_ONCE = 1000;

/** The first are kept sooner: somebody waits to see them. */
const SHOWN_FIRST = 200;

/** Up to so many folders what goes along is counted to the last document; beyond that only what stands in them directly. */
const COUNTED_MAX = 3000;

/** Keeps steps in batches with their positions, and the plan's counts with them. */
export function stepKeeper(planId: string) {
  let position = 0;
  let batch: (typeof moveStep.$inferInsert)[] = [];
  const counts = { steps: 0, clashes: 0, documents: 0, folders: 0, looked: 0 };
  let isFirst = true;
  /** What was kept by a drawing before goes only when there is something to take its place, so that whoever looks never sees nothing. */
  const forget = async (tx: Tx): Promise<void> => {
    if (isFirst) await tx.execute(sql`delete from move_step where plan_id = ${planId}`);
    isFirst = false;
  };
  const write = async (): Promise<void> => {
    for (let at = 0; at < batch.length; at += KEPT_AT_ONCE) {
      const rows = batch.slice(at, at + KEPT_AT_ONCE).map((s) => ({
        plan_id: s.planId,
        position: s.position,
        wave: s.wave,
        kind: s.kind,
        is_aside: s.isAside ?? false,
        record_id: s.recordId ?? null,
        document_id: s.documentId ?? null,
        folder_id: s.folderId ?? null,
        from_connection: s.fromConnection,
        from_path: s.fromPath,
        to_connection: s.toConnection,
        to_path: s.toPath,
        from_folded: s.fromFolded ?? null,
        to_folded: s.toFolded ?? null,
        shown_from: s.shownFrom,
        documents: s.documents ?? 0,
        found_by: s.foundBy ?? "name",
        state: s.state ?? "planned",
        why: s.why ?? null,
      }));
      // One parameter for a thousand steps: many times faster than one for each value.
      await db().transaction(async (tx) => {
        await forget(tx);
        await tx.execute(
          sql`insert into move_step select * from jsonb_populate_recordset(null::move_step, ${JSON.stringify(rows)}::jsonb)`,
        );
      });
    }
    batch = [];
  };
  const tell = (): Promise<unknown> => db().update(movePlan).set(counts).where(eq(movePlan.id, planId));
  return {
    async add(steps: readonly NewStep[]): Promise<void> {
      for (const s of steps) {
        batch.push({ ...s, planId, position: position++ });
        counts.steps++;
        if (s.state === "clash") counts.clashes++;
        else {
          counts.documents += s.documents ?? 0;
          if (s.kind !== "file" && s.isAside !== true) counts.folders++;
        }
        if (batch.length < (position <= SHOWN_FIRST ? SHOWN_FIRST : KEPT_AT_ONCE)) continue;
        await write();
        await tell();
      }
    },
    async flush(looked: number): Promise<void> {
      counts.looked = looked;
      await write();
      await tell();
    },
    async end(looked: number): Promise<void> {
      counts.looked = looked;
      await write();
      await forget(db());
      await db().execute(sql`analyze move_step`);
      // Whole folders take along what stands in folders within them, of other records too.
      if (counts.folders > 0 && counts.folders <= COUNTED_MAX) {
        await db().execute(sql`update move_step s set documents = (select count(*) from folder f join placement p on p.folder_id = f.id
            where f.connection = s.from_connection and (f.path = s.shown_from or f.path_folded >= own.path_folded || '/' and f.path_folded < own.path_folded || '0'))
          from folder own where s.plan_id = ${planId} and s.kind = 'folder' and not s.is_aside and own.id = s.folder_id`);
        const total = await db().execute<{
          n: number;
        }>(sql`select count(distinct p.document_id)::int as n from move_step s join folder own on own.id = s.folder_id
          join folder f on f.connection = own.connection and (f.id = own.id or f.path_folded >= own.path_folded || '/' and f.path_folded < own.path_folded || '0')
          join placement p on (p.folder_id = f.id and s.kind = 'folder') or (p.document_id = s.document_id)
          where s.plan_id = ${planId} and s.state <> 'clash' and (s.kind = 'folder' or f.id = own.id)`);
        counts.documents = total.rows[0]?.n ?? counts.documents;
      }
      await tell();
    },
  };
}
