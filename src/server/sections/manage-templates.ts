import { sql } from "drizzle-orm";
import { z } from "zod";
import { allowsAnywhere } from "#core/access/grants.ts";
import { type ReadingOrder, readingOrdersSchema } from "#core/sections/reading-order.ts";
import { checkSections, renamedSections, type SectionTree, sectionTreeSchema } from "#core/sections/section-tree.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { recordFilter } from "../access/filters.ts";
import { db, type Tx } from "../db/connect.ts";
import type { Actor } from "../people/load-actor.ts";
import { now } from "../ports/clock.ts";
import { loadDocumentTypes, loadRecordType, loadRecordTypes } from "../records/load-types.ts";
import { writeLines } from "../timeline/write-lines.ts";
import { loadTemplate } from "./load-tree.ts";

export const templateSchema = z.object({
  sections: sectionTreeSchema,
  orders: readingOrdersSchema.default([]),
  applies: z.enum(["all", "choice"]).default("all"),
  version: z.number().int().min(0),
});

/** A record type's sections, for set-up. */
export interface TemplateAnswer {
  readonly recordType: string;
  readonly version: number;
  readonly sections: SectionTree;
  readonly orders: readonly ReadingOrder[];
  readonly applies: "all" | "choice";
  /** Records of the type with sections of their own: they keep them. */
  readonly ownRecords: number;
}

/** The sections of all record types. Refuses not-allowed without the right to the filing plan. */
export async function listTemplates(actor: Actor): Promise<Result<{ readonly items: readonly TemplateAnswer[] }>> {
  if (!allowsAnywhere(actor.grants, "plan")) return refuse("not-allowed");
  const own = await db().execute<{ type: string; n: number }>(
    sql`select r.type, count(*)::int as n from record_sections s join record r on r.id = s.record_id where s.tree is not null and ${recordFilter(actor, "see", sql`r`)} group by r.type`,
  );
  const items = [];
  for (const type of await loadRecordTypes()) {
    const { version, tree, applies, orders } = await loadTemplate(type.key);
    items.push({
      recordType: type.key,
      version,
      sections: tree,
      orders,
      applies,
      ownRecords: own.rows.find((r) => r.type === type.key)?.n ?? 0,
    });
  }
  return ok({ items });
}

/**
 * Saves the sections of a record type. Documents follow sections that are called otherwise now; those whose section is gone are not placed until somebody
 * places them. Records with sections of their own keep them. Refuses not-allowed, unknown-type, bad-input, stale.
 */
export async function saveTemplate(
  actor: Actor,
  typeKey: string,
  asked: z.input<typeof templateSchema>,
): Promise<Result<{ readonly version: number }>> {
  if (!allowsAnywhere(actor.grants, "plan")) return refuse("not-allowed");
  const input = templateSchema.parse(asked);
  const type = await loadRecordType(typeKey);
  if (!type) return refuse("unknown-type");
  const errors = checkSections(
    input.sections,
    (await loadDocumentTypes()).map((t) => t.key),
  );
  const keys = input.orders.map((o) => o.key);
  if (new Set(keys).size < keys.length)
    return refuse("bad-input", undefined, [{ path: "orders", message: "two orders have the same key" }]);
  if (errors.length > 0) return refuse("bad-input", undefined, errors);
  return db().transaction(async (tx) => {
    const before = await loadTemplate(typeKey, tx);
    if (before.version !== input.version) return refuse("stale");
    const saved = await tx.execute(sql`insert into section_template (record_type, version, tree, orders, applies, changed_at, changed_by)
      values (${typeKey}, ${before.version + 1}, ${JSON.stringify(input.sections)}::jsonb, ${JSON.stringify(input.orders)}::jsonb, ${input.applies}, ${now()}, ${actor.id})
      on conflict (record_type) do update set version = excluded.version, tree = excluded.tree, orders = excluded.orders, applies = excluded.applies, changed_at = excluded.changed_at,
        changed_by = excluded.changed_by where section_template.version = ${before.version}`);
    if (saved.rowCount !== 1) return refuse("stale");
    await followRenames(
      tx,
      before.tree,
      input.sections,
      sql`c.record_id in (select r.id from record r where r.type = ${typeKey}) and not exists (select 1 from record_sections s where s.record_id = c.record_id and s.tree is not null)`,
    );
    await writeLines(tx, [{ verb: "sectionTemplateChanged", who: actor.id, details: { recordType: type.label } }]);
    return ok({ version: before.version + 1 });
  });
}

/** Documents whose section is called otherwise now are in it still: what their clips say is changed, all at once, so that names may be swapped. */
export async function followRenames(tx: Tx, before: SectionTree, after: SectionTree, which: ReturnType<typeof sql>): Promise<void> {
  const renamed = renamedSections(before, after);
  if (renamed.length === 0) return;
  const cases = sql.join(
    renamed.map(
      ({ from, to }) =>
        sql`when c.section = ${from} then ${to} when left(c.section, ${from.length + 1}) = ${`${from}/`} then ${to} || substr(c.section, ${from.length + 1})`,
    ),
    sql` `,
  );
  await tx.execute(sql`update clip c set section = case ${cases} else c.section end where c.section is not null and ${which}`);
}
