import { rm } from "node:fs/promises";
import { sql } from "drizzle-orm";
import { parseSha256 } from "#core/shared/brand.ts";
import { db } from "../db/connect.ts";
import { listConnectionsInUse, openRepository } from "../filing-plan/open-repository.ts";
import { landingStore } from "../ports/adapters.ts";
import { systemCode } from "../ports/system-code.ts";
import { PROGRAM, writeLines } from "../timeline/write-lines.ts";
import { trimFetched } from "../documents/local-file.ts";

/** Local copies that go in one round. */
const AT_ONCE = 500;

/**
 * Local copies of documents go so many days after their placement was proven, where their connection says so. Each is read back and proven once more
 * right before (promise 3), and only when nothing else needs the bytes: no open arrival, no earlier version, no other document that is not placed.
 * Answers how many went.
 */
export async function releaseLocal(): Promise<number> {
  let gone = 0;
  for (const { key, options } of await listConnectionsInUse()) {
    if (options.keepLocalDays === null) continue;
    const rows = await db().execute<{
      sha256: string;
      path: string;
      document_id: number;
      company: string;
    }>(sql`select distinct on (c.sha256) c.sha256, pl.path, d.id as document_id, d.company
      from content c join place pl on pl.sha256 = c.sha256 join document d on d.id = pl.document_id
      where c.is_landed and c.state <> 'unread' and pl.connection = ${key} and pl.state = 'stored' and d.filed_at < now() - ${options.keepLocalDays} * interval '1 day'
        and not exists (select 1 from arrival a where a.sha256 = c.sha256 and a.state <> 'filed')
        and not exists (select 1 from document_version v join document e on e.id = v.document_id left join placement q on q.document_id = e.id
          where v.sha256 = c.sha256 and (v.number <> e.current_version or q.state is distinct from 'stored' or q.sha256 is distinct from c.sha256))
      order by c.sha256 limit ${AT_ONCE}`);
    for (const row of rows.rows) {
      const sha256 = parseSha256(row.sha256);
      try {
        if ((await (await openRepository(key)).hashOf(row.path)) !== sha256) continue;
      } catch (error) {
        if (systemCode(error)?.startsWith("repository-")) break;
        throw error;
      }
      const done = await db().transaction(async (tx) => {
        // Whoever takes the same bytes in again in this moment makes the row again first: then they stay.
        const marked = await tx.execute<{
          sha256: string;
        }>(sql`update content c set is_landed = false where sha256 = ${sha256} and is_landed
          and not exists (select 1 from arrival a where a.sha256 = c.sha256 and a.state <> 'filed') returning sha256`);
        if (marked.rows.length === 0) return false;
        await writeLines(tx, [{ verb: "localGone", who: PROGRAM, company: row.company, documentId: row.document_id }]);
        return true;
      });
      if (!done) continue;
      await rm(landingStore().pathOf(sha256), { force: true });
      gone++;
    }
  }
  await trimFetched();
  return gone;
}
