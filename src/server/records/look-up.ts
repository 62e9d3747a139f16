import { type SQL, sql } from "drizzle-orm";
import { parseLookup } from "#core/records/parse-lookup.ts";
import { rankLookup } from "#core/records/rank-lookup.ts";
import { recordFilter } from "../access/filters.ts";
import { db } from "../db/connect.ts";
import { excludeWithdrawnDrafts } from "../drafts/exclude-withdrawn-drafts.ts";
import type { Actor } from "../people/load-actor.ts";
import { isDirectChildOf } from "./is-direct-child-of.ts";

/** A record as the look-up shows it. */
export interface LookupHit {
  readonly id: number;
  readonly company: string;
  readonly type: string;
  readonly key: string;
  readonly title: string;
  readonly status: string | null;
  readonly date: string | null;
  readonly amount: string | null;
  readonly currency: string | null;
  readonly parent: { readonly type: string; readonly key: string; readonly title: string } | null;
  /** True when it was found by putting a typing error right. */
  readonly corrected: boolean;
}

export interface LookupWish {
  readonly q: string;
  readonly type?: string | undefined;
  readonly company?: string | undefined;
  /** `type:key` of a record that the hits must sit beneath (dependent choice). */
  readonly parent?: string | undefined;
  /** `type:key` of a record whose child records come first. */
  readonly near?: string | undefined;
  /** Only records that the person opened, the last one first. */
  readonly opened?: "1" | undefined;
  readonly limit: number;
}

/** Candidates taken of each way of finding; ranking sees them all. */
const CANDIDATES = 60;
/** How alike two words must be to pass for a typing error (share of common three-letter pieces). */
const SIMILARITY = 0.3;

type Row = LookupHit & { readonly recency: number; readonly isStanding: boolean } & Record<string, unknown>;

/** Records found while typing, best first: by key, title or any field, with `*`, despite small typing errors, recent ones first. Only what the person may see. */
export async function lookUp(actor: Actor, wish: LookupWish): Promise<readonly LookupHit[]> {
  const { near, ...all } = wish;
  if (near === undefined) return findHits(actor, all);
  const [first, others] = [await findHits(actor, { ...all, parent: near }), await findHits(actor, all)];
  // A child whose name only resembles what was typed does not go before a record that is called so.
  const close = first.filter((h) => !h.corrected || others.every((o) => o.corrected));
  return [...close, ...others.filter((o) => !close.some((h) => h.id === o.id))].slice(0, wish.limit);
}

async function findHits(actor: Actor, wish: Omit<LookupWish, "near">): Promise<readonly LookupHit[]> {
  const lookup = parseLookup(wish.q);
  const scope: SQL[] = [recordFilter(actor), excludeWithdrawnDrafts(sql`record`)];
  if (wish.type) scope.push(sql`record.type = ${wish.type}`);
  if (wish.company) scope.push(sql`record.company = ${wish.company}`);
  if (wish.parent) scope.push(isDirectChildOf(actor, wish.parent));
  const columns = sql`record.id, record.company, record.type, record.key, record.title, record.status, record.date, record.amount, record.currency,
    case when parent.id is null or not ${recordFilter(actor, "see", sql`parent`)} then null else json_build_object('type', parent.type, 'key', parent.key, 'title', parent.title) end as parent,
    (extract(epoch from record.used_at) * -1)::float8 as recency,
    (select definition ->> 'kind' = 'standing' from record_type where record_type.key = record.type) as "isStanding"`;
  const from = sql`from record left join record parent on parent.id = record.above_id
    left join record_opened opened on opened.record_id = record.id and opened.person_id = ${actor.id}`;
  if (wish.opened) scope.push(sql`opened.at is not null`);
  const where = sql.join(scope, sql` and `);
  const take = async (condition: SQL, order: SQL): Promise<readonly Row[]> =>
    (await db().execute<Row>(sql`select ${columns} ${from} where ${where} and ${condition} order by ${order} limit ${CANDIDATES}`)).rows;
  const recent = wish.opened ? sql`opened.at desc` : sql`record.used_at desc`;
  if (lookup.patterns.length === 0) return (await take(sql`true`, recent)).slice(0, wish.limit).map((r) => tidy(r, false));
  const found = new Map<number, Row>();
  if (!lookup.hasWildcard && lookup.reference !== "") {
    // An explicit range, since a prepared LIKE with a parameter does not use the index.
    const upper = `${lookup.reference}\u{10ffff}`;
    for (const row of await take(
      sql`record.key_folded ~>=~ ${lookup.reference} and record.key_folded ~<~ ${upper}`,
      sql`record.key_folded, record.used_at desc`,
    ))
      found.set(row.id, row);
  }
  if (found.size < wish.limit && !lookup.hasWildcard && lookup.folded.length >= 2) {
    // Titles that begin so, shortest first: among many records that bear an account's name the account itself must not be missed.
    const upper = `${lookup.folded}\u{10ffff}`;
    for (const row of await take(
      sql`record.title_folded ~>=~ ${lookup.folded} and record.title_folded ~<~ ${upper}`,
      sql`record.title_folded, record.used_at desc`,
    ))
      if (!found.has(row.id)) found.set(row.id, row);
  }
  // A number is often only part of the key: those go before the ones that hold it in any other field.
  if (found.size < wish.limit && !lookup.hasWildcard && /\d/.test(lookup.reference) && lookup.reference.length >= 3) {
    for (const row of await take(
      sql`record.lookup_text like ${`%${lookup.reference}%`} and record.key_folded like ${`%${lookup.reference}%`}`,
      recent,
    ))
      if (!found.has(row.id)) found.set(row.id, row);
  }
  if (lookup.keyPieces.some((p) => p !== "")) {
    // Keys that fit the stars go before records that hold the pieces in any other field.
    const key = lookup.keyPieces.map((p) => p.replace(/[\\%_]/g, "")).join("%");
    const anywhere = sql.join(
      lookup.patterns.map((p) => sql`record.lookup_text like ${p}`),
      sql` and `,
    );
    for (const row of await take(sql`record.key_folded like ${key} and ${anywhere}`, recent)) found.set(row.id, row);
  }
  if (found.size < wish.limit) {
    const every = sql.join(
      lookup.patterns.map((p) => sql`record.lookup_text like ${p}`),
      sql` and `,
    );
    for (const row of await take(every, recent)) if (!found.has(row.id)) found.set(row.id, row);
  }
  const ranked = rankLookup(lookup, [...found.values()])
    .slice(0, wish.limit)
    .map((r) => tidy(r, false));
  if (ranked.length > 0 || lookup.words.length === 0) return ranked;
  // Nothing: look for words in titles that are nearly the same, and take those.
  const near: SQL[] = [];
  for (const word of lookup.patterns) {
    const plain = word.slice(1, -1);
    if (!lookup.words.includes(plain)) {
      near.push(sql`record.lookup_text like ${word}`);
      continue;
    }
    const alike = await db().execute<{ word: string }>(
      sql`select word from title_word where word % ${plain} and similarity(word, ${plain}) >= ${SIMILARITY} order by similarity(word, ${plain}) desc, word limit 6`,
    );
    const words = [plain, ...alike.rows.map((r) => r.word)];
    near.push(
      sql`(${sql.join(
        words.map((w) => sql`record.lookup_text like ${`%${w.replace(/[\\%_]/g, (c) => `\\${c}`)}%`}`),
        sql` or `,
      )})`,
    );
  }
  // Ranked by how alike the whole title is: the words that were put right say nothing about where they should stand.
  const alike = sql`similarity(record.title_folded, ${lookup.folded}) desc, record.used_at desc`;
  return (await take(sql.join(near, sql` and `), alike)).slice(0, wish.limit).map((r) => tidy(r, true));
}

function tidy(row: Row, corrected: boolean): LookupHit {
  const { id, company, type, key, title, status, date, amount, currency, parent } = row;
  return { id, company, type, key, title, status, date, amount, currency, parent, corrected };
}
