import { sql } from "drizzle-orm";
import { z } from "zod";
import { verdictOf, wordsOfClash, wordsOfReason } from "#core/matching/reason-words.ts";
import type { Suggestion } from "#core/matching/match-types.ts";
import { SURE_FROM } from "#core/matching/suggest-records.ts";
import { type Apart, tellApart } from "#core/matching/tell-apart.ts";
import type { JudgedType } from "#core/reading/judge-type.ts";
import type { Reading, ReadingDoubt } from "#core/reading/reading.ts";
import { documentFilter, recordFilter } from "../access/filters.ts";
import { db } from "../db/connect.ts";
import { idArray, textArray } from "../db/sql-arrays.ts";
import type { Actor } from "../people/load-actor.ts";

/** A reason as it is shown: numbered on the page where it stands there. */
export interface ReasonAnswer {
  readonly kind: string;
  /** What it says, in plain words. */
  readonly words: string;
  /** The very text it points at. */
  readonly text: string;
  readonly page?: number;
  readonly box?: readonly [number, number, number, number];
  readonly against: boolean;
}

/** A record that the program proposes. */
export interface SuggestionAnswer {
  readonly company: string;
  readonly type: string;
  readonly key: string;
  readonly title: string;
  readonly status: string | null;
  readonly date: string | null;
  readonly amount: string | null;
  readonly currency: string | null;
  readonly parent: { readonly type: string; readonly key: string; readonly title: string } | null;
  readonly certainty: number;
  readonly verdict: "sure" | "likely" | "alike" | "warning" | "none";
  readonly reasons: readonly ReasonAnswer[];
  readonly clashes: readonly { readonly code: string; readonly words: string }[];
  /** How it differs from the next one, the best from the second and every other from the best; null when it is the only one. */
  readonly apart: (Apart & { readonly key: string; readonly isAsLikely: boolean }) | null;
}

/** What was read off an arrival and found for it, as one person may see it. */
export interface ReadAnswer {
  readonly readings: readonly Reading[];
  readonly doubts: readonly ReadingDoubt[];
  readonly suggestions: readonly SuggestionAnswer[];
  readonly proposedType: { readonly type: string; readonly certainty: number; readonly words: JudgedType["words"] } | null;
  /** Probability that it belongs to none of our records. */
  readonly none: number;
}

type Row = Record<string, unknown> & {
  arrival_id: string;
  readings: unknown;
  doubts: unknown;
  types: unknown;
  suggestions: unknown;
  none: number;
};
type RecordRow = Record<string, unknown> &
  Pick<SuggestionAnswer, "company" | "type" | "key" | "title" | "status" | "date" | "amount" | "currency" | "parent"> & { id: number };

const listSchema = z.array(z.unknown());
/** Kept by this program's own suggest-for: the shape is its, only that it is a list is looked at. */
const listOf = <T>(value: unknown): readonly T[] => listSchema.parse(value) as readonly T[];

/** What was read and found for one document, before it is limited to what a person may see. */
export interface FoundRow<K> {
  readonly id: K;
  readonly readings: readonly Reading[];
  readonly doubts: readonly ReadingDoubt[];
  readonly types: readonly JudgedType[];
  readonly suggestions: readonly Suggestion[];
  readonly none: number;
}

/** What was read and found for some arrivals, as one person may see it. */
export async function loadSuggestions(actor: Actor, arrivalIds: readonly string[]): Promise<ReadonlyMap<string, ReadAnswer>> {
  if (arrivalIds.length === 0) return new Map();
  const { rows } = await db().execute<Row>(
    sql`select arrival_id, readings, doubts, types, suggestions, none from arrival_reading where arrival_id = any(${textArray(arrivalIds)}::uuid[])`,
  );
  return answersFor(
    actor,
    rows.map((r) => ({
      id: r.arrival_id,
      readings: listOf<Reading>(r.readings),
      doubts: listOf<ReadingDoubt>(r.doubts),
      types: listOf<JudgedType>(r.types),
      suggestions: listOf<Suggestion>(r.suggestions),
      none: r.none,
    })),
  );
}

/** Answers for what was found, by id. Suggestions of records that the person may not see are left out, as if they were not there (promise 6). */
export async function answersFor<K>(actor: Actor, rows: readonly FoundRow<K>[]): Promise<ReadonlyMap<K, ReadAnswer>> {
  const ids = [...new Set(rows.flatMap((r) => r.suggestions.map((s) => s.recordId)))];
  const records =
    ids.length === 0
      ? []
      : (
          await db()
            .execute<RecordRow>(sql`select record.id, record.company, record.type, record.key, record.title, record.status, record.date, record.amount, record.currency,
            case when parent.id is null or not ${recordFilter(actor, "see", sql`parent`)} then null else json_build_object('type', parent.type, 'key', parent.key, 'title', parent.title) end as parent
            from record left join record parent on parent.id = record.above_id where record.id = any(${idArray(ids)}::bigint[]) and ${recordFilter(actor)}`)
        ).rows;
  const byId = new Map(records.map((r) => [r.id, r]));
  const doubles = await titlesOfDoubles(
    actor,
    rows.flatMap((r) => r.suggestions.flatMap((s) => s.clashes.flatMap((c) => (c.code === "double" ? [c.detail] : [])))),
  );
  return new Map(
    rows.map((row) => {
      // Only what this person sees of this very paper's suggestions may be named to them.
      const seen = row.suggestions.flatMap((s) => {
        const found = byId.get(s.recordId);
        return found ? [{ s, found }] : [];
      });
      const seenKeys = new Set(seen.map(({ found }) => found.key));
      const type = row.types[0];
      return [
        row.id,
        {
          readings: row.readings,
          doubts: row.doubts,
          none: row.none,
          proposedType: type ? { type: type.type, certainty: type.certainty, words: type.words } : null,
          suggestions: seen.map(({ s, found }, index) => {
            const rival = seen[index === 0 ? 1 : 0];
            return { ...answerOf(s, found, seenKeys, doubles), apart: rival ? apartOf(s, rival) : null };
          }),
        },
      ] as const;
    }),
  );
}

/** Titles of documents by their codes, those that the person may see: a double that they may not see is not told, only never sure. */
async function titlesOfDoubles(actor: Actor, codes: readonly string[]): Promise<ReadonlyMap<string, string>> {
  if (codes.length === 0) return new Map();
  const rows = await db().execute<{ code: string; title: string }>(
    sql`select d.code, d.title from document d where d.code = any(${textArray([...new Set(codes)])}::text[]) and ${await documentFilter(actor, "see", sql`d.acl_id`)}`,
  );
  return new Map(rows.rows.map((r) => [r.code, `${r.title} (${r.code})`]));
}

const apartOf = (s: Suggestion, rival: { readonly s: Suggestion; readonly found: RecordRow }): SuggestionAnswer["apart"] => ({
  ...tellApart(s, rival.s),
  key: rival.found.key,
  isAsLikely: s.clashes.some((c) => c.code === "alike" && c.detail === rival.found.key),
});

function answerOf(
  s: Suggestion,
  found: RecordRow,
  seen: ReadonlySet<string>,
  doubles: ReadonlyMap<string, string>,
): Omit<SuggestionAnswer, "apart"> {
  // What is as likely is told only where it is seen too; so is a document that came before.
  const clashes = s.clashes.flatMap((c) => {
    if (c.code === "alike") return seen.has(c.detail) ? [c] : [];
    if (c.code !== "double") return [c];
    const title = doubles.get(c.detail);
    return title === undefined ? [] : [{ ...c, detail: title }];
  });
  const { company, type, key, title, status, date, amount, currency, parent } = found;
  return {
    company,
    type,
    key,
    title,
    status,
    date,
    amount,
    currency,
    parent,
    certainty: s.certainty,
    // By all that clashes, also what is not told.
    verdict: verdictOf({ ...s, clashes: s.clashes.filter((c) => c.code !== "alike" || seen.has(c.detail)) }, SURE_FROM),
    reasons: s.reasons.flatMap((r) => {
      const words = wordsOfReason(r);
      if (words === null) return [];
      return [
        {
          kind: r.kind,
          words,
          text: r.where === "record" ? words : r.text,
          against: r.against,
          ...(r.page !== null && r.box !== null ? { page: r.page, box: r.box } : {}),
        },
      ];
    }),
    clashes: clashes.map((c) => ({ code: c.code, words: wordsOfClash(c) })),
  };
}
