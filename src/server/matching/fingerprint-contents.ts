import { asc, eq, sql } from "drizzle-orm";
import { countedWords, bandsOfPicture, fingerprintOfText } from "#core/matching/text-fingerprint.ts";
import { db, type Tx } from "../db/connect.ts";
import { content, contentPage, contentPrint } from "../documents/tables.ts";
import { BODY_MAX } from "../reading/read-outcome.ts";

/** Keeps what a content says as a few numbers, so that what says nearly the same is found. Safe to repeat; the latest reading holds. */
export async function storeFingerprint(tx: Tx, sha256: string): Promise<void> {
  const row = (
    await tx
      .select({ body: sql<string | null>`left(${content.body}, ${BODY_MAX})` })
      .from(content)
      .where(eq(content.sha256, sha256))
  )[0];
  if (!row) return;
  const page = (
    await tx
      .select({ print: contentPage.print })
      .from(contentPage)
      .where(eq(contentPage.sha256, sha256))
      .orderBy(asc(contentPage.number))
      .limit(1)
  )[0];
  const values = fingerprintOf(row.body ?? "", page?.print ?? null);
  await tx
    .insert(contentPrint)
    .values({ sha256, ...values })
    .onConflictDoUpdate({ target: contentPrint.sha256, set: values });
}

/** With more words than this a page is no picture. */
const FEW_WORDS = 3;

/** The numbers of a content, from its text and what its first page looks like. */
export function fingerprintOf(body: string, firstPage: bigint | null) {
  const text = fingerprintOfText(body);
  // A page with text is told by its text: the layout of one sender's invoices looks the same on all of them.
  // So is one with a few words: the white around them looks the same on all such pages.
  const picture = text === null && countedWords(body).length < FEW_WORDS ? firstPage : null;
  return {
    textHash: text?.whole ?? null,
    picture,
    least: text ? [...text.least] : null,
    bands: text ? [...text.bands] : picture === null ? [] : [...bandsOfPicture(picture)],
  };
}

/** Makes up the prints of these, which were put together from what was known of their pages. */
export async function fingerprintThese(contents: readonly string[]): Promise<void> {
  for (const sha256 of contents) await storeFingerprint(db(), sha256);
}

/** Contents in one go. */
const AT_ONCE = 200;

/** Makes up prints that are missing: of what was read before there were any, and of what came in by a way that makes none. Answers how many. */
export async function fingerprintContents(): Promise<number> {
  const rows = await db().execute<{
    sha256: string;
  }>(sql`select c.sha256 from content c where c.state = 'read' and c.looked in ('yes','stopped')
    and not exists (select from content_print p where p.sha256 = c.sha256) limit ${AT_ONCE}`);
  await fingerprintThese(rows.rows.map((r) => r.sha256));
  return rows.rows.length;
}
