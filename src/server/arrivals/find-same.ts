import { sql } from "drizzle-orm";
import { openStates } from "#core/arrivals/journey.ts";
import { arrivalFilter, documentFilter } from "../access/filters.ts";
import { db } from "../db/connect.ts";
import { textArray } from "../db/sql-arrays.ts";
import type { Actor } from "../people/load-actor.ts";

/** A document that has the very bytes of an arrival. */
export interface Duplicate {
  readonly code: string;
  readonly title: string;
  /** The same bytes, to the last one. */
  readonly kind: "same";
  readonly similarity: 1;
}
/** Another arrival with the same bytes that came in before and waits too. */
export interface Twin {
  readonly id: string;
  readonly fileName: string;
  readonly receivedAt: string;
}
export interface Same {
  readonly duplicates: readonly Duplicate[];
  readonly twin: Twin | null;
}

/** Documents and arrivals told of for one paper. */
const SHOWN = 5;

/**
 * What has the same bytes as some arrivals that wait, told only to those who may see it (promise 6): documents that are filed, and the arrival that
 * came in first. Two queries for a whole list, both by an index on the hash.
 */
export async function findSame(
  actor: Actor,
  arrivals: readonly { readonly id: string; readonly number: number; readonly sha256: string }[],
): Promise<ReadonlyMap<string, Same>> {
  if (arrivals.length === 0) return new Map();
  const hashes = textArray([...new Set(arrivals.map((a) => a.sha256))]);
  const [filed, waiting] = await Promise.all([
    db().execute<{ sha256: string; code: string; title: string }>(sql`select distinct on (v.sha256, d.id) v.sha256, d.code, d.title
      from document_version v join document d on d.id = v.document_id
      where v.sha256 = any(${hashes}::text[]) and d.unfiled_at is null and ${await documentFilter(actor, "see", sql`d.acl_id`)} order by v.sha256, d.id`),
    db().execute<{
      id: string;
      number: number;
      sha256: string;
      file_name: string;
      received_at: Date;
    }>(sql`select arrival.id, arrival.number, arrival.sha256, arrival.file_name, arrival.received_at
      from arrival where arrival.sha256 = any(${hashes}::text[]) and arrival.state = any(${textArray([...openStates])}::text[])
        and ${await arrivalFilter(actor)} order by arrival.number`),
  ]);
  return new Map(
    arrivals.map((a) => {
      const first = waiting.rows.find((w) => w.sha256 === a.sha256 && w.number < a.number);
      return [
        a.id,
        {
          duplicates: filed.rows
            .filter((f) => f.sha256 === a.sha256)
            .slice(0, SHOWN)
            .map((f) => ({ code: f.code, title: f.title, kind: "same" as const, similarity: 1 as const })),
          twin: first ? { id: first.id, fileName: first.file_name, receivedAt: new Date(first.received_at).toISOString() } : null,
        },
      ];
    }),
  );
}
