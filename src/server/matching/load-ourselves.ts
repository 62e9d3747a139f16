import { eq } from "drizzle-orm";
import { z } from "zod";
import { allowsAnywhere } from "#core/access/grants.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import type { Actor } from "../people/load-actor.ts";
import { now } from "../ports/clock.ts";
import { parseVatNumber } from "#core/reading/identifiers.ts";
import { db, type Tx } from "../db/connect.ts";
import { company } from "../people/tables.ts";
import { record } from "../records/tables.ts";
import { setting } from "../settings/tables.ts";

/** One of our companies as documents name it. */
export interface Ourself {
  readonly company: string;
  readonly name: string;
  readonly vatNumbers: readonly string[];
  readonly ibans: readonly string[];
}

/** What an administrator says of our companies: VAT numbers by company. */
export const ourNumbersSchema = z.record(z.string().max(20), z.array(z.string().trim().min(4).max(20)).max(10));

/** The VAT numbers that were said of each of our companies. */
export async function loadOurNumbers(): Promise<
  readonly { readonly company: string; readonly name: string; readonly vatNumbers: readonly string[] }[]
> {
  return (await loadOurselves()).map(({ company: code, name, vatNumbers }) => ({ company: code, name, vatNumbers }));
}

/** Says the VAT numbers of our own companies, so that they are never taken for a sender's. Refuses not-allowed, and bad-input for what is none. */
export async function saveOurNumbers(actor: Actor, numbers: z.infer<typeof ourNumbersSchema>): Promise<Result<{ readonly saved: true }>> {
  if (!allowsAnywhere(actor.grants, "manage")) return refuse("not-allowed");
  const errors = Object.entries(numbers).flatMap(([code, list]) =>
    list.flatMap((v) => (parseVatNumber(v) === null ? [{ path: `numbers.${code}`, message: `${v} is not a valid VAT number` }] : [])),
  );
  if (errors.length > 0) return refuse("bad-input", undefined, errors);
  const values = { value: numbers, changedAt: now(), changedBy: actor.id };
  await db()
    .insert(setting)
    .values({ key: "ourVatNumbers", ...values })
    .onConflictDoUpdate({ target: setting.key, set: values });
  return ok({ saved: true });
}

/** Our companies: their names, what was said of them, and their bank accounts from the records of that type. */
export async function loadOurselves(tx: Tx = db()): Promise<readonly Ourself[]> {
  const companies = await tx.select().from(company).orderBy(company.code);
  const accounts = await tx
    .select({ company: record.company, fields: record.fields })
    .from(record)
    .where(eq(record.type, "bankAccount"))
    .limit(500);
  const said = ourNumbersSchema.safeParse((await tx.select().from(setting).where(eq(setting.key, "ourVatNumbers")))[0]?.value);
  return companies.map((c) => ({
    company: c.code,
    name: c.name,
    vatNumbers: (said.success ? (said.data[c.code] ?? []) : []).map((v) => parseVatNumber(v) ?? v),
    ibans: accounts.flatMap((a) => {
      const iban = (a.fields as Record<string, unknown>)["iban"];
      return a.company === c.code && typeof iban === "string" ? [iban.replace(/\s/g, "").toUpperCase()] : [];
    }),
  }));
}
