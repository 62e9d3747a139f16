import { mkdtemp, rm } from "node:fs/promises";
import os from "node:os";
import path from "node:path";
import type { ContentKind } from "#core/arrivals/limits.ts";
import type { Quarter } from "#core/pages/turn-box.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { db } from "../db/connect.ts";
import { landingStore } from "../ports/adapters.ts";
import type { Landed } from "../ports/landing-store.ts";
import { pageSource } from "../reading/page-picture.ts";
import { composePdfs } from "./compose-file.ts";
import { knowPages, type KnownPages, type PageGoing } from "./keep-pages.ts";
import { type LoadedSource, loadSourcePages, type SourcePage } from "./load-sources.ts";

/** The pages of a part that leaves the bench, in order: number of the source, page counted from 1, and how it is turned. */
interface PartPages {
  readonly pages: readonly { readonly source: number; readonly page: number; readonly turn: Quarter }[];
}

/** The file of a part. */
export interface MadeFile {
  readonly landed: Landed;
  /** The source whose bytes it has, when it is one of them untouched. */
  readonly whole: number | null;
}

/** The files of parts in their order; kept for good when `safe` is there. */
export interface MadeFiles {
  readonly files: readonly (MadeFile | null)[];
  readonly safe: Promise<void>;
}

/**
 * Makes the file of each part that is not one of its sources as it lies there, and keeps it. Refuses not-readable when a source cannot be opened, and
 * no-space.
 */
export async function makeFiles(
  sources: readonly LoadedSource[],
  parts: readonly PartPages[],
  own: readonly (number | null)[],
): Promise<Result<MadeFiles>> {
  const folder = await mkdtemp(path.join(os.tmpdir(), "amber-bench-"));
  try {
    const files: { readonly file: string; readonly kind: ContentKind }[] = [];
    for (const source of sources) {
      const drawnFrom = await pageSource(source.sha256, source.kind);
      if (!drawnFrom.ok) return refuse("not-readable", source.fileName);
      files.push(drawnFrom.value);
    }
    // What is a source untouched keeps its very bytes: nothing is written, they are kept already (unless they are only where it is placed).
    const untouched = await Promise.all(
      parts.map(async (part, i): Promise<MadeFile | null> => {
        const whole = own[i] === null ? untouchedSource(sources, part.pages) : null;
        const source = whole === null ? undefined : sources[whole];
        const size = source ? await landingStore().sizeOf(source.sha256) : null;
        return source && size !== null ? { landed: { sha256: source.sha256, sizeBytes: size }, whole } : null;
      }),
    );
    const open = parts.flatMap((_, i) => (own[i] === null && untouched[i] === null ? [i] : []));
    const composed = await composePdfs(
      open.map((i) =>
        (parts[i]?.pages ?? []).map((p) => ({
          file: files[p.source]?.file ?? "",
          kind: files[p.source]?.kind ?? "pdf",
          page: p.page,
          turn: p.turn,
        })),
      ),
      folder,
    );
    if (!composed.ok) return { ok: false, refusal: { ...composed.refusal, detail: sources.map((s) => s.fileName).join(", ") } };
    const kept = await landingStore().keepFiles(composed.value);
    if (!kept.ok) return kept;
    const made: (MadeFile | null)[] = [...untouched];
    for (const [n, i] of open.entries()) {
      const landed = kept.value.landed[n];
      if (!landed) throw new Error("a file that was made was not kept");
      made[i] = { landed, whole: null };
    }
    return ok({ files: made, safe: kept.value.safe });
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

/** What is known of the pages of each part; null for one that is not made, or not known of. */
export async function knowParts(
  sources: readonly LoadedSource[],
  parts: readonly PartPages[],
  own: readonly (number | null)[],
): Promise<readonly (KnownPages | null)[]> {
  const pages = await Promise.all(sources.map((source, s) => loadSourcePages(db(), source, turnedOf(parts, s))));
  return parts.map((part, i) => (own[i] === null ? knowPages(part.pages.map((p) => pageIn(sources, pages, p))) : null));
}

/** Pages of a source that leave it turned. */
const turnedOf = (parts: readonly PartPages[], source: number): ReadonlySet<number> =>
  new Set(parts.flatMap((part) => part.pages.flatMap((p) => (p.source === source && p.turn !== 0 ? [p.page] : []))));

/** The source that a part is, page for page and unturned. */
export function untouchedSource(sources: readonly LoadedSource[], pages: PartPages["pages"]): number | null {
  const source = pages[0]?.source ?? 0;
  if (pages.length !== sources[source]?.pageCount) return null;
  return pages.every((p, i) => p.source === source && p.page === i + 1 && p.turn === 0) ? source : null;
}

function pageIn(sources: readonly LoadedSource[], pages: readonly (readonly SourcePage[])[], page: PartPages["pages"][number]): PageGoing {
  const source = sources[page.source];
  if (!source) throw new Error("a page of no source");
  return { of: source.sha256, page: pages[page.source]?.[page.page - 1], turn: page.turn };
}
