import { type SQL, sql } from "drizzle-orm";
import { z } from "zod";
import { drawSample } from "#core/packs/sample.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { documentFilter } from "../access/filters.ts";
import { recordSorts, listRecords } from "../records/list-records.ts";
import { findVisibleRecord } from "../records/find-visible-record.ts";
import type { Actor } from "../people/load-actor.ts";

/** Records that go into one pack. */
export const PACK_RECORDS_MAX = 10_000;
/** Records fetched in one go while they are chosen by a filter. */
const PAGE = 500;

const day = z.string().regex(/^\d{4}-\d{2}-\d{2}$/);
/** Which records' documents are taken out: named ones, or those of a filter, or a sample of these. */
export const packWishSchema = z.object({
  format: z.enum(["pdf", "folder"]),
  /** The record's own documents, or those along its chain too. */
  scope: z.enum(["own", "chain"]).default("own"),
  records: z
    .array(z.object({ company: z.string().max(20), type: z.string().max(40), key: z.string().max(120) }))
    .max(PACK_RECORDS_MAX)
    .default([]),
  filter: z
    .object({
      type: z.string().max(40),
      company: z.string().max(20).optional(),
      q: z.string().max(120).optional(),
      status: z.string().max(120).optional(),
      parent: z.string().max(200).optional(),
      checklist: z.enum(["missing", "complete"]).optional(),
      from: day.optional(),
      to: day.optional(),
      sort: z.enum(recordSorts).optional(),
    })
    .optional(),
  /** So many of them, drawn by a seed that is told in the pack: whoever draws again with it gets the same. */
  sample: z.object({ size: z.number().int().min(1).max(1000), seed: z.number().int().min(0).max(4_294_967_295) }).optional(),
});
export type PackWish = z.output<typeof packWishSchema>;

/** A record that goes into a pack. */
export interface PackedRef {
  readonly company: string;
  readonly type: string;
  readonly key: string;
}

/** The records a wish stands for, as the person sees them, in the order of their numbers. Refuses not-found and bad-input (too many). */
export async function chooseRecords(
  actor: Actor,
  wish: PackWish,
): Promise<Result<{ readonly chosen: readonly PackedRef[]; readonly outOf: number }>> {
  const all: PackedRef[] = [];
  for (const r of wish.records) {
    const row = await findVisibleRecord(actor, r.type, r.key, r.company);
    if (!row) return refuse("not-found", `${r.type} ${r.key}`);
    all.push({ company: row.company, type: row.type, key: row.key });
  }
  if (wish.filter) {
    const seen: SQL = await documentFilter(actor, "see", sql`d.acl_id`);
    for (let offset = 0; ; offset += PAGE) {
      // By number, so that the same filter gives the same list whoever used what meanwhile.
      const page = await listRecords(actor, { ...wish.filter, sort: "key", down: false, limit: PAGE, offset }, seen);
      all.push(...page.items.map(({ company, type, key }) => ({ company, type, key })));
      if (page.total > PACK_RECORDS_MAX && !wish.sample)
        return refuse("bad-input", undefined, [
          {
            path: "filter",
            message: `fits ${page.totalIsExact ? "" : "more than "}${page.total} records; a pack holds at most ${PACK_RECORDS_MAX}`,
          },
        ]);
      if (page.items.length < PAGE) break;
    }
  }
  const once = [...new Map(all.map((r) => [`${r.company} ${r.type} ${r.key}`, r])).values()];
  return ok({ chosen: wish.sample ? drawSample(once, wish.sample.size, wish.sample.seed) : once, outOf: once.length });
}
