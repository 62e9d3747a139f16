import { eq, sql } from "drizzle-orm";
import { parseDocumentCode } from "#core/shared/brand.ts";
import { foldReference } from "#core/shared/fold-text.ts";
import { clip } from "../clips/tables.ts";
import { db } from "../db/connect.ts";
import { document } from "../documents/tables.ts";
import { record } from "../records/tables.ts";

/** The record that something on its way in is tied to. */
export interface Tied {
  readonly recordId: number;
  readonly company: string;
}

/** The one record that codes speak of: itself by its key, or the first that a document is clipped to. Two that fit equally well are not guessed between. */
export async function tieCodes(codes: readonly string[]): Promise<Tied | null> {
  for (const code of codes) {
    const documentCode = parseDocumentCode(code.toUpperCase());
    if (documentCode !== null) {
      const about = (
        await db()
          .select({ recordId: clip.recordId, company: document.company })
          .from(document)
          .innerJoin(clip, eq(clip.documentId, document.id))
          .where(sql`${document.code} = ${documentCode} and ${clip.position} = 0`)
      )[0];
      if (about) return about;
      continue;
    }
    const found = await db()
      .select({ recordId: record.id, company: record.company })
      .from(record)
      .where(eq(record.keyFolded, foldReference(code)))
      .limit(2);
    if (found.length === 1 && found[0]) return found[0];
  }
  return null;
}
