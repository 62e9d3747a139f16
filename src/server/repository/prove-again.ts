import { and, asc, eq, isNull, sql } from "drizzle-orm";
import { db } from "../db/connect.ts";
import { openRepository } from "../filing-plan/open-repository.ts";
import { finding, place, placement } from "../filing-plan/tables.ts";
import { addJob } from "../jobs/add-job.ts";
import { foldPath } from "#core/filing-plan/legal-name.ts";
import { now } from "../ports/clock.ts";
import { systemCode } from "../ports/system-code.ts";
import { loadRepositorySettings } from "../settings/load-settings.ts";

/** What a round of proving came to. */
export interface Proved {
  readonly proved: number;
  readonly differs: number;
  readonly gone: number;
}

/**
 * Proves placements again, those that were proven longest ago first: reads the file back and compares its hash. As many a minute as the administrator
 * has set. One that differs or is gone is entered like what the watch finds, and somebody decides. A repository that is away is left for the next round.
 */
export async function proveSome(most?: number): Promise<Proved> {
  const count = most ?? (await loadRepositorySettings()).provesPerMinute;
  const rows = await db()
    .select()
    .from(place)
    .where(and(eq(place.state, "stored"), isNull(place.takenBackBy)))
    .orderBy(asc(place.checkedAt))
    .limit(count);
  const away = new Set<string>();
  let [proved, differs, gone] = [0, 0, 0];
  for (const row of rows) {
    if (away.has(row.connection)) continue;
    try {
      const repository = await openRepository(row.connection);
      const there = await repository.hashOf(row.path);
      const still = and(
        eq(placement.documentId, row.documentId),
        eq(placement.folderId, row.folderId),
        eq(placement.name, row.name),
        eq(placement.state, "stored"),
      );
      if (there === row.sha256) {
        const seen = await repository.look(row.path);
        await db()
          .update(placement)
          .set({ checkedAt: now(), ...(seen ? { seenBytes: seen.sizeBytes, seenModifiedMs: seen.modifiedMs, seenMark: seen.mark } : {}) })
          .where(still);
        proved++;
        continue;
      }
      // Its folder may have moved between asking and reading: then it is asked again in its turn.
      const standing = (await db().select({ path: place.path }).from(place).where(eq(place.documentId, row.documentId)))[0];
      if (standing?.path !== row.path) continue;
      const seen = there === null ? null : await repository.look(row.path);
      const at = now();
      const kind = there === null ? "removed" : "changed";
      const entered = await db()
        .insert(finding)
        .values({
          connection: row.connection,
          path: row.path,
          pathFolded: foldPath(row.path.split("/")),
          kind,
          folderId: row.folderId,
          documentId: row.documentId,
          recordId: sql`(select record_id from clip where document_id = ${row.documentId} order by position limit 1)`,
          seenBytes: seen?.sizeBytes ?? null,
          seenModifiedMs: seen?.modifiedMs ?? null,
          seenMark: seen?.mark ?? null,
          state: kind === "removed" ? "open" : "settling",
          foundAt: at,
          changedAt: at,
        })
        .onConflictDoUpdate({
          target: [finding.connection, finding.pathFolded, finding.kind],
          set: { state: kind === "removed" ? "open" : "settling", documentId: row.documentId, changedAt: at, decision: null },
        })
        .returning({ id: finding.id });
      if (kind === "removed") {
        await db().update(placement).set({ state: "outOfSync", why: "gone" }).where(still);
        gone++;
      } else {
        differs++;
        if (entered[0]) await addJob(db(), "takeFound", { finding: entered[0].id }, { key: `takeFound:${entered[0].id}` });
      }
    } catch (error) {
      if (!systemCode(error)?.startsWith("repository-")) throw error;
      away.add(row.connection);
    }
  }
  return { proved, differs, gone };
}
