import { and, eq, inArray, sql } from "drizzle-orm";
import { type LabelFormat, matchLabel } from "#core/codes/label-format.ts";
import { parseOwnCode } from "#core/codes/own-code.ts";
import type { Tx } from "../db/connect.ts";
import { record } from "../records/tables.ts";
import { ownCode } from "./tables.ts";

/** What a barcode says: what sort it is, and the record and document type it names. */
export interface SaidByCode {
  readonly text: string;
  readonly sort: "coverSheet" | "label" | "separator" | "ofTheBusinessSystem";
  readonly record: {
    readonly id: number;
    readonly company: string;
    readonly type: string;
    readonly key: string;
    readonly title: string;
  } | null;
  readonly documentType: string | null;
  /** Whether a page with it begins a new document. */
  readonly begins: boolean;
}

/**
 * What some barcodes say, those that say anything. Nobody is asked whether they may see the records: whoever shows them leaves out what a person may
 * not. A barcode of the business system that fits a record of more than one company says which only when `company` does.
 */
export async function resolveCodes(
  tx: Tx,
  texts: readonly string[],
  formats: readonly LabelFormat[],
  company: string | null,
): Promise<ReadonlyMap<string, SaidByCode>> {
  const said = new Map<string, SaidByCode>();
  const numbers = texts.flatMap((text) => {
    const own = parseOwnCode(text);
    return own && own.kind !== "separator" ? [own.number] : [];
  });
  const known =
    numbers.length === 0
      ? []
      : await tx
          .select({ number: ownCode.number, kind: ownCode.kind, documentType: ownCode.documentType, record })
          .from(ownCode)
          .innerJoin(record, eq(record.id, ownCode.recordId))
          .where(inArray(ownCode.number, numbers));
  for (const text of new Set(texts)) {
    const own = parseOwnCode(text);
    if (own?.kind === "separator") said.set(text, { text, sort: "separator", record: null, documentType: null, begins: true });
    else if (own) {
      const row = known.find((k) => k.number === own.number && k.kind === own.kind);
      said.set(text, {
        text,
        sort: own.kind,
        record: row ? asNamed(row.record) : null,
        documentType: row?.documentType ?? null,
        begins: true,
      });
    } else {
      const label = matchLabel(text, formats);
      if (!label) continue;
      const wanted = label.format.company ?? company;
      const rows = await tx
        .select()
        .from(record)
        .where(
          and(
            eq(record.type, label.format.recordType),
            eq(record.key, label.key),
            wanted === null ? sql`true` : eq(record.company, wanted),
          ),
        )
        .limit(2);
      const only = rows.length === 1 ? rows[0] : undefined;
      said.set(text, {
        text,
        sort: "ofTheBusinessSystem",
        record: only ? asNamed(only) : null,
        documentType: label.format.documentType,
        begins: label.format.begins,
      });
    }
  }
  return said;
}

const asNamed = (r: typeof record.$inferSelect) => ({ id: r.id, company: r.company, type: r.type, key: r.key, title: r.title });
