import { sql } from "drizzle-orm";
import { type OwnCodeKind, writeOwnCode } from "#core/codes/own-code.ts";
import type { Tx } from "../db/connect.ts";
import { now } from "../ports/clock.ts";

/** The code of a cover sheet or label for a record and document type; the same ones always have the same. */
export async function makeCode(
  tx: Tx,
  about: {
    readonly kind: Exclude<OwnCodeKind, "separator">;
    readonly recordId: number;
    readonly documentType: string | null;
    readonly by: string;
  },
): Promise<string> {
  const find = () =>
    tx.execute<{ number: number }>(
      sql`select number from own_code where kind = ${about.kind} and record_id = ${about.recordId} and coalesce(document_type, '') = ${about.documentType ?? ""}`,
    );
  let found = (await find()).rows[0];
  if (!found) {
    await tx.execute(sql`insert into own_code (kind, record_id, document_type, made_at, made_by)
      values (${about.kind}, ${about.recordId}, ${about.documentType}, ${now()}, ${about.by}) on conflict do nothing`);
    found = (await find()).rows[0];
  }
  if (!found) throw new Error("a code that was just made is not there");
  return writeOwnCode({ kind: about.kind, number: Number(found.number) });
}
