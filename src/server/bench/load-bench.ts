import type { ProposedCut } from "#core/bench/propose-cuts.ts";
import { isBlank } from "#core/pages/measure-page.ts";
import { ok, type Result } from "#core/shared/result.ts";
import { allowsRecord } from "#core/access/grants.ts";
import { db } from "../db/connect.ts";
import { content } from "../documents/tables.ts";
import { eq } from "drizzle-orm";
import { resolveCodes, type SaidByCode } from "../codes/resolve-codes.ts";
import type { Actor } from "../people/load-actor.ts";
import { contentName } from "../reading/load-view.ts";
import { loadLabelFormats } from "../settings/load-settings.ts";
import { loadBriefs, loadSources, type Source } from "./load-sources.ts";

/** A page as the bench shows it. */
export interface BenchPageAnswer {
  readonly width: number;
  readonly height: number;
  readonly blank: boolean;
  /** Degrees clockwise to stand upright. */
  readonly turn: number;
}
/** What a barcode on a page says, as far as the person may know. */
export interface BenchCode {
  readonly source: number;
  readonly page: number;
  readonly text: string;
  readonly sort: SaidByCode["sort"];
  /** Whether the page is only there for its code, and is left out of what is made. */
  readonly leftOut: boolean;
  readonly record: { readonly company: string; readonly type: string; readonly key: string; readonly title: string } | null;
  readonly documentType: string | null;
}
export interface BenchAnswer {
  readonly sources: readonly {
    readonly arrival: string | null;
    readonly document: string | null;
    readonly fileName: string;
    /** Names its content in the addresses of its pictures. */
    readonly of: string;
    readonly queue: string | null;
    readonly company: string | null;
    readonly sender: string | null;
    /** Whether it came as pictures of document: then a blank page is a back that nobody wrote on. */
    readonly isScan: boolean;
    /** True while its pages are still being looked at: more cuts may be proposed in a moment. */
    readonly isComing: boolean;
    readonly pages: readonly BenchPageAnswer[];
  }[];
  readonly cuts: readonly (ProposedCut & { readonly source: number })[];
  readonly codes: readonly BenchCode[];
}

/** What the bench is laid out from: the pages of some documents, where they probably fall apart, and what the codes on them say. */
export async function loadBench(actor: Actor, sources: readonly Source[]): Promise<Result<BenchAnswer>> {
  const loaded = await loadSources(db(), actor, sources, { lock: false, anyState: false });
  if (!loaded.ok) return loaded;
  const formats = await loadLabelFormats();
  const answer: { sources: BenchAnswer["sources"][number][]; cuts: BenchAnswer["cuts"][number][]; codes: BenchCode[] } = {
    sources: [],
    cuts: [],
    codes: [],
  };
  for (const [index, source] of loaded.value.entries()) {
    const { rows, sizes } = await loadBriefs(db(), source);
    const about = (
      await db().select({ looked: content.looked, cuts: content.cuts }).from(content).where(eq(content.sha256, source.sha256))
    )[0];
    const company = source.arrival ? source.arrival.company : (source.document?.company ?? null);
    answer.sources.push({
      arrival: source.arrival?.id ?? null,
      document: source.document?.code ?? null,
      fileName: source.fileName,
      of: contentName(source.sha256),
      queue: source.arrival?.queue ?? null,
      company,
      sender: source.arrival?.sender ?? null,
      isScan: rows.length > 0 && rows.every((r) => !r.hasLayer),
      isComing: rows.length > 0 && (about?.looked === "no" || about?.looked === "going"),
      pages: Array.from({ length: source.pageCount }, (_, i) => ({
        width: sizes[i]?.width ?? 595,
        height: sizes[i]?.height ?? 842,
        blank: rows[i] ? isBlank({ ink: rows[i].ink, words: rows[i].hasWords ? 1 : 0 }) : false,
        turn: rows[i]?.turn ?? 0,
      })),
    });
    answer.cuts.push(...((about?.cuts ?? []) as readonly ProposedCut[]).map((c) => ({ ...c, source: index })));
    const withCodes = rows.filter((r) => r.codes.length > 0);
    const said = await resolveCodes(
      db(),
      withCodes.flatMap((r) => r.codes.map((c) => c.text)),
      formats,
      company,
    );
    for (const row of withCodes)
      for (const code of row.codes) {
        const meant = said.get(code.text);
        if (!meant) continue;
        const sees = meant.record !== null && allowsRecord(actor.grants, "see", meant.record.company, meant.record.type);
        answer.codes.push({
          source: index,
          page: row.number,
          text: meant.text,
          sort: meant.sort,
          leftOut: meant.sort === "coverSheet" || meant.sort === "separator",
          record:
            sees && meant.record
              ? { company: meant.record.company, type: meant.record.type, key: meant.record.key, title: meant.record.title }
              : null,
          documentType: sees ? meant.documentType : null,
        });
      }
  }
  // The same code as QR and as bars counts once.
  const seen = new Set<string>();
  return ok({
    ...answer,
    codes: answer.codes.filter((c) => !seen.has(`${c.source} ${c.page} ${c.text}`) && seen.add(`${c.source} ${c.page} ${c.text}`)),
  });
}
