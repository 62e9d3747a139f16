import { parseArrivalId, type ArrivalId } from "#core/shared/brand.ts";
import { ok, type Result } from "#core/shared/result.ts";
import { eq } from "drizzle-orm";
import { openStates } from "#core/arrivals/journey.ts";
import { arrival } from "../arrivals/tables.ts";
import { putBack } from "../bench/put-back.ts";
import { takeApart } from "../bench/take-apart.ts";
import { db } from "../db/connect.ts";
import type { Actor } from "../people/load-actor.ts";
import { loadPageBriefs } from "../reading/page-rows.ts";
import { loadLabelFormats } from "../settings/load-settings.ts";
import { resolveCodes } from "./resolve-codes.ts";

/**
 * Files an arrival without the cover sheets and separators among its pages: they say where the pages behind them belong and are never part of a document. The pages
 * that are left become an arrival of their own first, and `file` gets its id; one without sheets is filed as it is. When `file` refuses, the arrival is put back as it
 * was. Twice is once. Refuses what taking it apart and `file` refuse. Rule: docs/rules.md, Cover sheets.
 */
export async function fileWithoutSheets<T>(actor: Actor, id: ArrivalId, file: (id: ArrivalId) => Promise<Result<T>>): Promise<Result<T>> {
  const pages = await pagesWithoutSheets(id);
  if (pages === null) return file(id);
  const made = await takeApart(actor, {
    sources: [{ arrival: id }],
    parts: [{ pages: pages.map((page) => ({ source: 0, page, turn: 0 as const })) }],
    dropped: "rest",
  });
  if (!made.ok) return made;
  const part = parseArrivalId(made.value.parts[0]?.id ?? "");
  if (!part) throw new Error("a part without an id");
  const filed = await file(part);
  if (!filed.ok) await putBack(actor, id);
  return filed.ok ? ok(filed.value) : filed;
}

/** The pages of an arrival that are no cover sheets or separators; null when it has no such page, or no other. */
async function pagesWithoutSheets(id: ArrivalId): Promise<readonly number[] | null> {
  const row = (
    await db().select({ sha256: arrival.sha256, company: arrival.company, state: arrival.state }).from(arrival).where(eq(arrival.id, id))
  )[0];
  if (!row || !([...openStates, "split"] as readonly string[]).includes(row.state)) return null;
  const briefs = await loadPageBriefs(db(), row.sha256);
  const texts = briefs.flatMap((p) => p.codes.map((c) => c.text));
  if (texts.length === 0) return null;
  const said = await resolveCodes(db(), texts, await loadLabelFormats(), row.company);
  const isSheet = (p: (typeof briefs)[number]): boolean =>
    p.codes.some((c) => ["coverSheet", "separator"].includes(said.get(c.text)?.sort ?? ""));
  const left = briefs.filter((p) => !isSheet(p)).map((p) => p.number);
  return left.length === 0 || left.length === briefs.length ? null : left;
}
