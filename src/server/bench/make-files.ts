import { rm } from "node:fs/promises";
import { PassThrough } from "node:stream";
import type { ContentKind } from "#core/arrivals/limits.ts";
import type { Quarter } from "#core/pages/turn-box.ts";
import type { Sha256 } from "#core/shared/brand.ts";
import { ok, type Refusal, refuse, type Result } from "#core/shared/result.ts";
import { db, type Tx } from "../db/connect.ts";
import { landingStore } from "../ports/adapters.ts";
import { hashFiles, type Landed } from "../ports/landing-store.ts";
import { pageSource } from "../reading/page-picture.ts";
import { composePdfs, type MadePart } from "./compose-file.ts";
import { type KeptPages, keepPages, knowPages, type KnownPages, type PageGoing } from "./keep-pages.ts";
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

/** The files of parts in their order, null for one that has none of its own; and which of their contents are known, and new. */
export interface MadeFiles extends KeptPages {
  readonly files: readonly (MadeFile | null)[];
}

/** Ends what is under way in the database, and answers why. */
class Refused extends Error {
  constructor(readonly refusal: Refusal) {
    super(refusal.code);
  }
}

/**
 * Makes the file of each part that is not one of its sources as it lies there, keeps it and enters it with what is known of its pages, in one transaction
 * with what it all comes to (`enter`). The first files are hashed and entered while the others are being made, and what they come to while they are flushed
 * to the disk; nothing is locked that others wait for until all are made. Refuses not-readable when a source cannot be opened, no-space, and what `enter`
 * refuses; then nothing is entered.
 */
export async function makeFiles(
  sources: readonly LoadedSource[],
  parts: readonly PartPages[],
  own: readonly (number | null)[],
  enter: (tx: Tx, made: MadeFiles) => Promise<Result<null>>,
): Promise<Result<null>> {
  const drawn: { readonly file: string; readonly kind: ContentKind }[] = [];
  for (const source of sources) {
    const drawnFrom = await pageSource(source.sha256, source.kind);
    if (!drawnFrom.ok) return refuse("not-readable", source.fileName);
    drawn.push(drawnFrom.value);
  }
  // What is a source untouched keeps its very bytes: nothing is written, they are kept already (unless they are only where it is placed).
  const files = await Promise.all(
    parts.map(async (part, i): Promise<MadeFile | null> => {
      const whole = own[i] === null ? untouchedSource(sources, part.pages) : null;
      const source = whole === null ? undefined : sources[whole];
      const size = source ? await landingStore().sizeOf(source.sha256) : null;
      return source && size !== null ? { landed: { sha256: source.sha256, sizeBytes: size }, whole } : null;
    }),
  );
  const open = parts.flatMap((_, i) => (own[i] === null && files[i] === null ? [i] : []));
  const folder = await landingStore().makeWorkFolder();
  const made = new PassThrough({ objectMode: true });
  const composing = composePdfs(
    open.map((i) =>
      (parts[i]?.pages ?? []).map((p) => ({
        file: drawn[p.source]?.file ?? "",
        kind: drawn[p.source]?.kind ?? "pdf",
        page: p.page,
        turn: p.turn,
        among: sources[p.source]?.pageCount ?? 0,
      })),
    ),
    folder,
    (some) => made.write(some),
  ).finally(() => made.end());
  // It is waited for below.
  composing.catch(() => {});
  try {
    // What their pages say is put together while the tool opens the sources.
    const known = await knowParts(sources, parts, own);
    return await db().transaction(async (tx) => {
      const [ready, fresh]: [Set<Sha256>, Sha256[]] = [new Set(), []];
      const enterFiles = async (of: readonly number[]): Promise<void> => {
        const contents = of.flatMap((i) => (files[i] ? [{ landed: files[i].landed, known: known[i] ?? null }] : []));
        const done = await keepPages(tx, contents);
        for (const sha256 of done.ready) ready.add(sha256);
        fresh.push(...done.fresh);
      };
      let entering = enterFiles(files.flatMap((f, i) => (f ? [i] : [])));
      entering.catch(() => {});
      const [paths, landed]: [string[], Landed[]] = [[], []];
      try {
        for await (const some of made as AsyncIterable<readonly MadePart[]>) {
          const hashed = await hashFiles(some.map((m) => m.file));
          const these = some.map((m) => open[m.part] ?? 0);
          for (const [n, i] of these.entries()) if (hashed[n]) files[i] = { landed: hashed[n], whole: null };
          paths.push(...some.map((m) => m.file));
          landed.push(...hashed);
          entering = entering.then(() => enterFiles(these));
          entering.catch(() => {});
        }
        const composed = await composing;
        if (!composed.ok && composed.refusal.code !== "not-readable") throw new Refused(composed.refusal);
        if (!composed.ok) throw new Refused({ ...composed.refusal, detail: sources.map((s) => s.fileName).join(", ") });
        const keeping = landingStore()
          .keepFiles(paths, landed)
          .then(async (kept) => {
            // Before anything is committed that names them.
            if (kept.ok) await kept.value.safe;
            return kept;
          });
        // Both to their end, whichever fails.
        const [kept, entered] = await Promise.allSettled([keeping, entering.then(() => enter(tx, { files, ready, fresh }))]);
        for (const done of [kept, entered]) {
          if (done.status === "rejected") throw done.reason;
          if (!done.value.ok) throw new Refused(done.value.refusal);
        }
        return ok(null);
      } finally {
        // To its end: what is still asked within a transaction must not go on after it.
        await entering.catch(() => {});
      }
    });
  } catch (error) {
    if (error instanceof Refused) return { ok: false, refusal: error.refusal };
    throw error;
  } finally {
    // It writes there.
    await composing.catch(() => {});
    await rm(folder, { recursive: true, force: true });
  }
}

/** What is known of the pages of each part; null for one that is not made, or not known of. */
async function knowParts(
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
