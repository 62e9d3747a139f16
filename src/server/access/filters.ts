import { type SQL, sql } from "drizzle-orm";
import { type Action, companiesWith } from "#core/access/grants.ts";
import type { Actor } from "../people/load-actor.ts";
import { bitsParameter, classBits } from "./class-bits.ts";

/**
 * The one access filter (promise 6): every query on documents, records or arrivals carries one of these three conditions.
 * They are conditions, never left out: a person without grants gets `false`.
 */
export async function documentFilter(actor: Actor, action: Action = "see", aclColumn: SQL = sql`document.acl_id`): Promise<SQL> {
  return sql`covers(${bitsParameter(await classBits(actor, action))}, ${aclColumn})`;
}

/** Condition on `record` (or another alias) for the records that a person may act on. */
export function recordFilter(actor: Actor, action: Action = "see", alias: SQL = sql`record`): SQL {
  const parts: SQL[] = [];
  for (const company of companiesWith(actor.grants, action)) {
    const grants = actor.grants.filter((g) => g.company === company && g.actions.includes(action));
    if (grants.some((g) => g.recordTypes === "all")) parts.push(sql`${alias}.company = ${company}`);
    else {
      const types = [...new Set(grants.flatMap((g) => (g.recordTypes === "all" ? [] : g.recordTypes)))];
      if (types.length > 0)
        parts.push(
          sql`(${alias}.company = ${company} and ${alias}.type in (${sql.join(
            types.map((t) => sql`${t}`),
            sql`, `,
          )}))`,
        );
    }
  }
  return parts.length === 0 ? sql`false` : sql`(${sql.join(parts, sql` or `)})`;
}

/**
 * Condition on `arrival`: those in the person's queues (or all, with the right to the register), in companies they have
 * anything to do with, and, once filed, only when the document is covered; and always what they sent themselves or what was handed to them.
 */
export async function arrivalFilter(actor: Actor): Promise<SQL> {
  const companies = [...new Set(actor.grants.map((g) => g.company))];
  const register = companiesWith(actor.grants, "register");
  const list = (values: readonly string[]): SQL =>
    values.length === 0
      ? sql`(null)`
      : sql`(${sql.join(
          values.map((v) => sql`${v}`),
          sql`, `,
        )})`;
  const inQueue = sql`(arrival.queue in ${list(actor.queues)} and (arrival.company is null or arrival.company in ${list(companies)}))`;
  const inRegister = register.length === 0 ? sql`false` : sql`(arrival.company is null or arrival.company in ${list(register)})`;
  const covered = await documentFilter(actor, "see", sql`filed_document.acl_id`);
  return sql`(arrival.received_by = ${actor.id} or arrival.handed_to = ${actor.id} or ((${inQueue} or ${inRegister}) and (arrival.document_id is null
    or exists (select 1 from document filed_document where filed_document.id = arrival.document_id and ${covered}))))`;
}
