import { type SQL, sql } from "drizzle-orm";
import { compileClassBits } from "#core/access/compile-class-bits.ts";
import type { AccessClass, Action } from "#core/access/grants.ts";
import { selectPrepared } from "../db/query-prepared.ts";
import { shareInFlight, type Tx } from "../db/connect.ts";
import { whatStands } from "../db/kept-by-set-up.ts";
import type { Actor } from "../people/load-actor.ts";
import { keptInMemory } from "../settings/kept.ts";
import { accessClass } from "./tables.ts";

type Known = AccessClass & { readonly id: number };
interface Cache {
  readonly known: readonly Known[];
  readonly bits: Map<string, Uint8Array>;
}
const shared = globalThis as typeof globalThis & { amberClasses?: Cache | undefined };
/** Compiled grants kept in memory; dropped all at once beyond it. */
const BITS_KEPT = 2000;

/** The access classes of a person for an action, as bits. Classes never change, so they are read only when there are more of them. */
export async function classBits(actor: Actor, action: Action): Promise<Uint8Array> {
  const { classes } = await whatStands();
  let cache = shared.amberClasses;
  if (cache?.known.length !== classes) {
    cache = { known: await allClasses(), bits: new Map() };
    // Whoever read fewer of them at the same moment does not take back what was read since.
    if (cache.known.length >= (shared.amberClasses?.known.length ?? 0)) shared.amberClasses = cache;
  }
  const key = `${action} ${JSON.stringify(actor.grants)}`;
  const kept = cache.bits.get(key);
  if (kept) return kept;
  const bits = compileClassBits(actor.grants, action, cache.known);
  if (cache.bits.size >= BITS_KEPT) cache.bits.clear();
  cache.bits.set(key, bits);
  return bits;
}

/** A page asks for several lists at once: they share one question. */
const allClasses = (): Promise<readonly Known[]> => shareInFlight("classes", () => selectPrepared(accessClass, sql`true`));

keptInMemory(() => (shared.amberClasses = undefined));

/** The id of a class, interned at first use, in the caller's transaction. */
export async function internClass(tx: Tx, cls: AccessClass): Promise<number> {
  const types = [...new Set(cls.recordTypes)].sort();
  const array =
    types.length === 0
      ? sql`'{}'::text[]`
      : sql`array[${sql.join(
          types.map((t) => sql`${t}`),
          sql`, `,
        )}]::text[]`;
  const find = sql`select id from access_class where company = ${cls.company} and document_type = ${cls.documentType} and confidential = ${cls.confidential} and record_types = ${array}`;
  const known = await tx.execute<{ id: number }>(find);
  if (known.rows[0]) return known.rows[0].id;
  const made = await tx.execute<{ id: number }>(sql`insert into access_class (company, document_type, confidential, record_types)
    values (${cls.company}, ${cls.documentType}, ${cls.confidential}, ${array}) on conflict do nothing returning id`);
  if (made.rows[0]) return made.rows[0].id;
  const again = await tx.execute<{ id: number }>(find);
  if (!again.rows[0]) throw new Error("access class vanished");
  return again.rows[0].id;
}

/** Bits as a query parameter. */
export function bitsParameter(bits: Uint8Array): SQL {
  return sql`${Buffer.from(bits)}::bytea`;
}
