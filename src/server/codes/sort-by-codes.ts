import { and, eq, isNull } from "drizzle-orm";
import { groupByCodes } from "#core/codes/group-by-codes.ts";
import { isBlank } from "#core/pages/measure-page.ts";
import { prefillProperties } from "#core/documents/prefill-properties.ts";
import { fieldValuesSchema } from "#core/documents/properties-schema.ts";
import type { FieldValues } from "#core/records/record-type.ts";
import { parseArrivalId } from "#core/shared/brand.ts";
import { arrival, queue } from "../arrivals/tables.ts";
import { type Apart, takeApart } from "../bench/take-apart.ts";
import { db } from "../db/connect.ts";
import { fileAway } from "../documents/file-away.ts";
import { suggestAgain } from "../matching/suggest-again.ts";
import { programWithRightsOf } from "../people/program-actor.ts";
import { loadPageBriefs } from "../reading/page-rows.ts";
import { loadDocumentType } from "../records/load-types.ts";
import { record } from "../records/tables.ts";
import { loadLabelFormats } from "../settings/load-settings.ts";
import { resolveCodes, type SaidByCode } from "./resolve-codes.ts";

/**
 * What is done with an arrival for the codes on its pages, once they were looked at. Where its queue allows it, it is taken apart at its cover sheets,
 * labels and separators, each part is filed by what its code says, and the blank pages of a scan are left out. Elsewhere only an arrival that is one
 * document gets the record that its code names; a stack waits for the bench with its cuts proposed. Safe to repeat; an arrival that somebody has taken up
 * meanwhile is left alone.
 */
export async function sortByCodes(arrivalIdText: string): Promise<void> {
  const id = parseArrivalId(arrivalIdText);
  if (!id) return;
  const found = (
    await db()
      .select({ row: arrival, codesBy: queue.codesBy, leavesOutBlanks: queue.leavesOutBlanks })
      .from(arrival)
      .innerJoin(queue, eq(queue.key, arrival.queue))
      .where(eq(arrival.id, id))
  )[0];
  if (!found || !["ready", "split"].includes(found.row.state) || found.row.source === "bench") return;
  const { row } = found;
  const briefs = await loadPageBriefs(db(), row.sha256);
  if (briefs.length === 0) return;
  const said = await resolveCodes(
    db(),
    briefs.flatMap((p) => p.codes.map((c) => c.text)),
    await loadLabelFormats(),
    row.company,
  );
  const isScan = briefs.every((p) => !p.hasLayer);
  const pages = briefs.map((p) => {
    const meant = p.codes.map((c) => said.get(c.text)).find((s) => s !== undefined);
    return {
      number: p.number,
      blank: isBlank({ ink: p.ink, words: p.hasWords ? 1 : 0 }),
      said: meant ? { begins: meant.begins, leftOut: meant.sort === "coverSheet" || meant.sort === "separator", text: meant.text } : null,
    };
  });
  const { groups, dropped } = groupByCodes(pages, isScan && found.leavesOutBlanks);
  if (groups.length === 0) return;
  const lender = found.codesBy === null ? null : await programWithRightsOf(found.codesBy, row.queue);
  if (lender && (groups.some((g) => g.code !== null) || dropped.length > 0)) {
    const whole = groups.length === 1 && dropped.length === 0 ? groups[0] : undefined;
    if (whole) {
      const part = await partOf(said.get(whole.code ?? ""));
      if (part.file) await fileAway(lender, id, part.file, { mayBeRepeat: true });
    } else {
      const parts = await Promise.all(
        groups.map(async (g) => ({
          pages: g.pages.map((page) => ({ source: 0, page, turn: 0 as const })),
          ...(await partOf(said.get(g.code ?? ""))),
        })),
      );
      await takeApart(
        lender,
        { sources: [{ arrival: id }], parts, dropped: dropped.map((page) => ({ source: 0, page })) },
        { despiteClaims: true },
      );
      return;
    }
  }
  const only = groups.length === 1 ? said.get(groups[0]?.code ?? "") : undefined;
  // A record of another company than was said is not quietly chosen.
  if (only?.record && (row.company === null || row.company === only.record.company))
    await db()
      .update(arrival)
      .set({
        recordId: only.record.id,
        ...(row.documentType === null && only.documentType !== null ? { documentType: only.documentType } : {}),
      })
      .where(and(eq(arrival.id, id), isNull(arrival.recordId), eq(arrival.state, "ready")));
  await suggestAgain(db(), id);
}

/** How a part is filed by what its code says: at once when that is a record and a document type whose properties are all there, else said only. */
async function partOf(code: SaidByCode | undefined): Promise<Pick<Apart["parts"][number], "file" | "record" | "documentType">> {
  if (!code?.record) return {};
  const { company, type, key, id } = code.record;
  const documentType = code.documentType === null ? null : await loadDocumentType(code.documentType);
  if (!documentType) return { record: { company, type, key } };
  const row = (await db().select().from(record).where(eq(record.id, id)))[0];
  const properties = row ? prefillProperties(documentType.properties, [{ ...row, fields: row.fields as FieldValues }], {}) : {};
  if (!fieldValuesSchema(documentType.properties).safeParse(properties).success)
    return { record: { company, type, key }, documentType: documentType.key };
  return { file: { documentType: documentType.key, clips: [{ company, type, key }], properties } };
}
