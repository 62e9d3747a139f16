import { db } from "#server/db/connect.ts";
import { atTime } from "#server/ports/clock.ts";
import { loadRecordTypes } from "#server/records/load-types.ts";
import { finishUpserts, emptyUpsertBatch } from "#server/records/finish-upserts.ts";
import { enterRecord, recordInputSchema } from "#server/records/upsert-record.ts";
import { actorByMail } from "./set-up/fill-set-up.ts";
import { lineOfRecord } from "./business-records.ts";
import type { World } from "./world.ts";

/** Records sent in one transaction. */
const CHUNK = 250;

/** Sends the world's records in through the real upsert, accounts before what sits beneath them. */
export async function fillRecords(world: World): Promise<void> {
  const administrator = await actorByMail("isla.rowe@merrowick.example");
  const types = new Map((await loadRecordTypes()).map((t) => [t.key, t]));
  // What follows others comes last, in the order it was made, so that what it follows is there.
  const rank = (r: (typeof world.records)[number]): number => (r.follows ? 2 : r.parent ? 1 : 0);
  const ordered = [...world.records].sort((a, b) => rank(a) - rank(b));
  for (let at = 0; at < ordered.length; at += CHUNK) {
    await atTime(
      () => new Date(`2026-11-10T06:00:00Z`),
      () =>
        db().transaction(async (tx) => {
          const left = emptyUpsertBatch();
          for (const record of ordered.slice(at, at + CHUNK)) {
            const type = types.get(record.type);
            if (!type) throw new Error(`no record type ${record.type}`);
            const { title, fields, status, amount, currency, parent, follows } = record;
            const lines = record.lines?.map(lineOfRecord);
            const saved = await enterRecord(
              tx,
              left,
              administrator,
              record.company,
              type,
              record.key,
              recordInputSchema.parse({ title, fields, status, amount, currency, parent, follows, lines }),
            );
            if (!saved.ok) throw new Error(`${record.type} ${record.key}: ${JSON.stringify(saved.refusal)}`);
          }
          await finishUpserts(tx, left);
        }),
    );
  }
}
