import { eq, sql } from "drizzle-orm";
import { compareTexts, type TextDifference } from "#core/matching/compare-texts.ts";
import { parseArrivalId, parseDocumentCode } from "#core/shared/brand.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { loadArrival } from "../arrivals/list-arrivals.ts";
import { db } from "../db/connect.ts";
import { content } from "../documents/tables.ts";
import { loadDocument } from "../documents/load-document.ts";
import type { Actor } from "../people/load-actor.ts";
import { BODY_MAX } from "../reading/read-outcome.ts";

/** Two documents beside each other: what stands only in one of them. */
export interface Compared extends TextDifference {
  readonly here: { readonly base: string; readonly name: string; readonly pages: number | null };
  readonly there: { readonly base: string; readonly name: string; readonly pages: number | null };
}

/** Compares an arrival with a document (its code) or another arrival (its id). Refuses not-found for either that the person may not see. */
export async function comparePapers(actor: Actor, idText: string, withText: string): Promise<Result<Compared>> {
  const id = parseArrivalId(idText);
  const mine = id ? await loadArrival(actor, id) : null;
  if (!mine) return refuse("not-found");
  const code = parseDocumentCode(withText);
  const otherId = parseArrivalId(withText);
  const document = code ? await loadDocument(actor, code) : null;
  const other = otherId ? await loadArrival(actor, otherId) : null;
  const sha256 = document ? [...document.versions].sort((a, b) => b.version - a.version)[0]?.sha256 : other?.sha256;
  if (sha256 === undefined) return refuse("not-found");
  const [here, there] = await Promise.all([mine.sha256, sha256].map(about));
  const name = document ? `${document.title} ${document.code}` : (other?.fileName ?? "");
  return ok({
    ...compareTexts(here?.body ?? "", there?.body ?? ""),
    here: { base: `/arrivals/${mine.id}`, name: mine.fileName, pages: here?.pages ?? null },
    there: { base: document ? `/documents/${document.code}` : `/arrivals/${other?.id ?? ""}`, name, pages: there?.pages ?? null },
  });
}

async function about(sha256: string) {
  return (
    await db()
      .select({ body: sql<string | null>`left(${content.body}, ${BODY_MAX})`, pages: content.pages })
      .from(content)
      .where(eq(content.sha256, sha256))
  )[0];
}
