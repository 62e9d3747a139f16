import { sql } from "drizzle-orm";
import { openStates } from "#core/arrivals/journey.ts";
import { bitsApart, likeness, PICTURE_BITS } from "#core/matching/text-fingerprint.ts";
import { arrivalFilter, documentFilter } from "../access/filters.ts";
import { db } from "../db/connect.ts";
import { textArray } from "../db/sql-arrays.ts";
import type { Actor } from "../people/load-actor.ts";

/** A document that has the very bytes of an arrival, says the same in another wrapping, or nearly the same. */
export interface Duplicate {
  readonly code: string;
  readonly title: string;
  readonly kind: "same" | "sameText" | "near";
  /** 0 to 1; 1 for the very same bytes or words. */
  readonly similarity: number;
}
/** Another arrival like it that came in before and waits too. */
export interface Twin {
  readonly id: string;
  readonly fileName: string;
  readonly receivedAt: string;
  readonly kind: Duplicate["kind"];
  readonly similarity: number;
}
export interface Same {
  readonly duplicates: readonly Duplicate[];
  readonly twin: Twin | null;
}

/** Documents told of for one document. */
const SHOWN = 5;
/** Two documents that have less of their words in common are different ones of the same kind. */
const NEAR_FROM = 0.8;
/** Contents that are compared with one document; more of them share groups only where a form is hardly filled in. */
const COMPARED = 200;

type Candidate = Record<string, unknown> & {
  mine: string;
  theirs: string;
  mine_text: string | null;
  theirs_text: string | null;
  mine_picture: string | null;
  theirs_picture: string | null;
  mine_least: number[] | null;
  theirs_least: number[] | null;
};

/**
 * What is like some arrivals that wait, told only to those who may see it (promise 6): documents that are filed, and the arrival that came in first.
 * Bytes are found by their hash, the same words by theirs, nearly the same by groups of least hashes, all by index.
 */
export async function findSame(
  actor: Actor,
  arrivals: readonly { readonly id: string; readonly number: number; readonly sha256: string; readonly told_apart: boolean }[],
): Promise<ReadonlyMap<string, Same>> {
  const asked = arrivals.filter((a) => !a.told_apart);
  if (asked.length === 0) return new Map();
  const hashes = [...new Set(asked.map((a) => a.sha256))];
  const alike = await findAlike(hashes);
  const known = [...new Set([...hashes, ...[...alike.values()].flatMap((m) => [...m.keys()])])];
  const [filed, waiting] = await Promise.all([
    db().execute<{ sha256: string; code: string; title: string }>(sql`select distinct on (v.sha256, d.id) v.sha256, d.code, d.title
      from document_version v join document d on d.id = v.document_id
      where v.sha256 = any(${textArray(known)}::text[]) and d.unfiled_at is null and ${await documentFilter(actor, "see", sql`d.acl_id`)} order by v.sha256, d.id`),
    db().execute<{
      id: string;
      number: number;
      sha256: string;
      file_name: string;
      received_at: Date;
      parent_id: string | null;
    }>(sql`select arrival.id, arrival.number, arrival.sha256, arrival.file_name, arrival.received_at, arrival.parent_id
      from arrival where arrival.sha256 = any(${textArray(known)}::text[]) and arrival.state = any(${textArray([...openStates])}::text[])
        and ${await arrivalFilter(actor)} order by arrival.number`),
  ]);
  return new Map(
    asked.map((a) => {
      const like = (sha256: string): Pick<Duplicate, "kind" | "similarity"> | null =>
        sha256 === a.sha256 ? { kind: "same", similarity: 1 } : (alike.get(a.sha256)?.get(sha256) ?? null);
      const duplicates = filed.rows
        .flatMap((f) => {
          const how = like(f.sha256);
          return how ? [{ code: f.code, title: f.title, ...how }] : [];
        })
        .sort((x, y) => y.similarity - x.similarity || (x.kind === "same" ? -1 : 0))
        .filter((d, i, all) => all.findIndex((o) => o.code === d.code) === i)
        .slice(0, SHOWN);
      const twins = waiting.rows
        .filter((w) => w.number < a.number && w.id !== a.id)
        .flatMap((w) => {
          const how = like(w.sha256);
          return how ? [{ id: w.id, fileName: w.file_name, receivedAt: new Date(w.received_at).toISOString(), ...how }] : [];
        })
        .sort((x, y) => y.similarity - x.similarity);
      return [a.id, { duplicates, twin: twins[0] ?? null }];
    }),
  );
}

/** Contents that say the same or nearly the same as some, with how alike they are: by hash of the first, then of the second. */
export async function findAlike(
  hashes: readonly string[],
): Promise<ReadonlyMap<string, ReadonlyMap<string, Pick<Duplicate, "kind" | "similarity">>>> {
  const rows = await db()
    .execute<Candidate>(sql`select m.sha256 as mine, t.sha256 as theirs, m.text_hash as mine_text, t.text_hash as theirs_text,
      m.picture as mine_picture, t.picture as theirs_picture, m.least as mine_least, t.least as theirs_least
    from content_print m cross join lateral (
      (select * from content_print e where e.text_hash = m.text_hash and e.sha256 <> m.sha256 limit ${COMPARED})
      union
      (select * from content_print n where n.bands && m.bands and m.bands <> '{}' and n.sha256 <> m.sha256 limit ${COMPARED})
    ) t where m.sha256 = any(${textArray(hashes)}::text[])`);
  const alike = new Map<string, Map<string, Pick<Duplicate, "kind" | "similarity">>>();
  for (const row of rows.rows) {
    const how = compare(row);
    if (how) alike.set(row.mine, (alike.get(row.mine) ?? new Map<string, Pick<Duplicate, "kind" | "similarity">>()).set(row.theirs, how));
  }
  return alike;
}

function compare(row: Candidate): Pick<Duplicate, "kind" | "similarity"> | null {
  if (row.mine_text !== null && row.mine_text === row.theirs_text) return { kind: "sameText", similarity: 1 };
  if (row.mine_least && row.theirs_least) {
    const similarity = likeness(row.mine_least, row.theirs_least);
    return similarity >= NEAR_FROM ? { kind: "near", similarity: Math.round(similarity * 100) / 100 } : null;
  }
  if (row.mine_picture === null || row.theirs_picture === null) return null;
  const apart = bitsApart(BigInt(row.mine_picture), BigInt(row.theirs_picture));
  return apart <= PICTURE_BITS ? { kind: "near", similarity: Math.round((1 - apart / 64) * 100) / 100 } : null;
}
