import { eq, sql } from "drizzle-orm";
import { allowsDocument } from "#core/access/grants.ts";
import { type ChecklistRules, checklistRulesSchema, type ItemRule } from "#core/checklists/checklist-rules.ts";
import { OWN_BITS_FROM } from "#core/checklists/checklist-state.ts";
import { bitOf } from "#core/checklists/completeness.ts";
import type { DocumentType } from "#core/documents/document-type.ts";
import { db, type Tx } from "../db/connect.ts";
import { keptBySetUp } from "../db/kept-by-set-up.ts";
import { memoizeParse } from "../db/memoize-parse.ts";
import type { Actor } from "../people/load-actor.ts";
import { checklist } from "./tables.ts";

const asRules = memoizeParse(checklistRulesSchema);

const checklists = keptBySetUp(() => readChecklists(db()));

/** The checklists of all record types that have one. */
export function loadChecklists(tx?: Tx): Promise<ReadonlyMap<string, readonly ItemRule[]>> {
  return tx ? readChecklists(tx) : checklists();
}

async function readChecklists(tx: Tx): Promise<ReadonlyMap<string, readonly ItemRule[]>> {
  const rows = await tx.select({ type: checklist.recordType, text: sql<string>`${checklist.rules}::text` }).from(checklist);
  return new Map(rows.map((r) => [r.type, asRules(r.text).items]));
}

/** The checklist of a record type with its version; version 0 and no items when it has none. */
export async function loadChecklist(
  type: string,
  tx: Tx = db(),
): Promise<{ readonly version: number; readonly rules: ChecklistRules; readonly usedBits: readonly number[] }> {
  const row = (await tx.select().from(checklist).where(eq(checklist.recordType, type)))[0];
  return row
    ? { version: row.version, rules: checklistRulesSchema.parse(row.rules), usedBits: row.usedBits }
    : { version: 0, rules: { items: [] }, usedBits: [] };
}

/** Every bit for items that were added by hand. */
const OWN_BITS = Array.from({ length: 12 }, (_, i) => bitOf(OWN_BITS_FROM + i)).reduce((all, bit) => all | bit, 0n);

/**
 * Whether a person is told of an item on a record of a type: they may see documents of at least one of its types there (promise 6). Whether such a document
 * is there says something of it.
 */
export function seesItem(
  actor: Actor,
  company: string,
  recordType: string,
  documentTypes: readonly string[],
  known: readonly DocumentType[],
): boolean {
  return documentTypes.some((key) => {
    const type = known.find((t) => t.key === key);
    return (
      type !== undefined &&
      allowsDocument(actor.grants, "see", { company, documentType: key, confidential: type.confidential, recordTypes: [recordType] })
    );
  });
}

/** The items of a record type that a person is told of, as a set of bits. */
export function visibleBits(
  actor: Actor,
  company: string,
  recordType: string,
  items: readonly ItemRule[],
  known: readonly DocumentType[],
): bigint {
  return items
    .filter((i) => seesItem(actor, company, recordType, i.documentTypes, known))
    .reduce((bits, i) => bits | bitOf(i.bit), OWN_BITS);
}
