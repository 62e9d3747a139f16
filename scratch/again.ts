import { sql } from "drizzle-orm";
import { db, closeDb } from "#server/db/connect.ts";
import { suggestFor } from "#server/suggesting/suggest-for.ts";
for (const r of (await db().execute<{ id: string }>(sql`select id from arrival where state in ('ready','failed')`)).rows) await suggestFor(r.id);
await closeDb();
