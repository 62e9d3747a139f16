import { desc, eq, sql } from "drizzle-orm";
import { z } from "zod";
import { allowsAnywhere } from "#core/access/grants.ts";
import { type LearntCase, learnWeights, LEARNS_FROM } from "#core/matching/learn-weights.ts";
import { type EvidenceKind, evidenceKinds, type MatchWeights, startingWeights } from "#core/matching/match-weights.ts";
import { reasonWords } from "#core/matching/reason-words.ts";
import type { Suggestion } from "#core/matching/match-types.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { db } from "../db/connect.ts";
import type { Actor } from "../people/load-actor.ts";
import { now } from "../ports/clock.ts";
import { keptInMemory } from "../settings/kept.ts";
import { addJob } from "../jobs/add-job.ts";
import { writeLines } from "../timeline/write-lines.ts";
import { matchWeights } from "./tables.ts";

/** How long the weights in use are remembered, ms: another process may have learnt new ones. */
const REMEMBERED_MS = 5000;
/** What waits is looked at again with other weights: once, however often they change meanwhile, and after every process knows them. */
const suggestAllOnce = { key: "suggestAll", queue: "suggestAll", priority: 2, afterSeconds: REMEMBERED_MS / 1000 };
/** The latest decided documents that are learnt from. */
const CASES_MAX = 3000;
let remembered: { readonly until: number; readonly weights: MatchWeights } | null = null;
keptInMemory(() => (remembered = null));

const weightsSchema = z.record(z.string(), z.number());

/** The weights in use: the latest version that was learnt and is used, else the starting ones. */
export async function loadWeights(): Promise<MatchWeights> {
  if (remembered && remembered.until > Date.now()) return remembered.weights;
  const row = (await db().select().from(matchWeights).where(eq(matchWeights.isUsed, true)).orderBy(desc(matchWeights.version)).limit(1))[0];
  const weights = row ? { version: row.version, of: complete(row.weights) } : startingWeights;
  remembered = { until: Date.now() + REMEMBERED_MS, weights };
  return weights;
}

/** Kept weights with those of kinds that came later at their start. */
function complete(kept: unknown): MatchWeights["of"] {
  const known = weightsSchema.safeParse(kept);
  return Object.fromEntries(evidenceKinds.map((k) => [k, (known.success ? known.data[k] : undefined) ?? startingWeights.of[k]])) as Record<
    EvidenceKind,
    number
  >;
}

/**
 * Learns what evidence weighs from the documents that people filed: which of the proposed records they took. New weights are kept as the next version, and used
 * only where they are better on senders that nothing was learnt from. Answers null when too little was decided.
 */
export async function learnWeightsAnew(
  by: string,
): Promise<{ readonly version: number; readonly isTaken: boolean; readonly papers: number } | null> {
  const cases = await loadCases();
  const at = await loadWeights();
  const learnt = learnWeights(cases, startingWeights.of, at.of);
  if (!learnt) return null;
  return db().transaction(async (tx) => {
    await tx.execute(sql`select pg_advisory_xact_lock(730041)`);
    const last = (
      await tx
        .select({ version: matchWeights.version, papers: matchWeights.papers })
        .from(matchWeights)
        .orderBy(desc(matchWeights.version))
        .limit(1)
    )[0];
    const version = Math.max(startingWeights.version, last?.version ?? 0) + 1;
    if (!learnt.isBetter) return { version: at.version, isTaken: false, papers: cases.length };
    await tx.insert(matchWeights).values({
      version,
      weights: learnt.of,
      papers: cases.length,
      before: learnt.before,
      after: learnt.after,
      isUsed: true,
      madeAt: now(),
      madeBy: by,
    });
    await writeLines(tx, [{ verb: "weightsLearnt", who: by, details: { papers: String(cases.length), version: String(version) } }]);
    await addJob(tx, "suggestAll", {}, suggestAllOnce);
    remembered = null;
    return { version, isTaken: true, papers: cases.length };
  });
}

/** Documents that people filed among records that were proposed, the latest, oldest first. */
async function loadCases(): Promise<readonly LearntCase[]> {
  const rows = await db().execute<{
    sender: string | null;
    suggestions: readonly Suggestion[];
    version: number;
    records: readonly number[];
  }>(sql`
    select f.sender_key as sender, f.suggestions, f.weights_version as version, array_agg(c.record_id order by c.position)::int[] as records
    from arrival_reading f join arrival a on a.id = f.arrival_id join document d on d.id = a.document_id join clip c on c.document_id = d.id
      left join hands_free_paper h on h.arrival_id = a.id
    where a.state = 'filed' and d.unfiled_at is null and jsonb_array_length(f.suggestions) > 1 and (h.how is null or h.how <> 'filed' or h.state = 'corrected')
    group by f.arrival_id, d.id order by d.id desc limit ${CASES_MAX}`);
  const versions = new Map((await db().select().from(matchWeights)).map((v) => [v.version, complete(v.weights)]));
  return rows.rows.reverse().flatMap((r) => {
    const of = versions.get(r.version) ?? startingWeights.of;
    const right = r.suggestions.findIndex((s) => r.records.includes(s.recordId));
    if (right === -1) return [];
    const options = r.suggestions.map(
      (s) => new Map(s.reasons.flatMap((e) => (of[e.kind] ? [[e.kind, e.weight / of[e.kind]] as const] : []))),
    );
    return [{ sender: r.sender ?? "", options, right }];
  });
}

/** What evidence weighs, for people to look at. */
export interface WeightsAnswer {
  readonly version: number;
  readonly learnsFrom: number;
  readonly decided: number;
  readonly weights: readonly { readonly kind: string; readonly words: string; readonly starting: number; readonly now: number }[];
  readonly versions: readonly {
    readonly version: number;
    readonly papers: number;
    readonly before: number;
    readonly after: number;
    readonly isUsed: boolean;
    readonly madeAt: string;
  }[];
}

/** The weights in use beside those they started from, and the versions there were. Refuses not-allowed without the right to manage. */
export async function loadWeightsAnswer(actor: Actor): Promise<Result<WeightsAnswer>> {
  if (!allowsAnywhere(actor.grants, "manage")) return refuse("not-allowed");
  const [at, versions, cases] = await Promise.all([
    loadWeights(),
    db().select().from(matchWeights).orderBy(desc(matchWeights.version)).limit(50),
    loadCases(),
  ]);
  return ok({
    version: at.version,
    learnsFrom: LEARNS_FROM,
    decided: cases.length,
    weights: evidenceKinds
      .filter((k) => k !== "base")
      .map((kind) => ({
        kind,
        words: reasonWords[kind].replace(/,? ?\{about\}/, ""),
        starting: startingWeights.of[kind],
        now: at.of[kind],
      })),
    versions: versions.map((v) => ({
      version: v.version,
      papers: v.papers,
      before: v.before,
      after: v.after,
      isUsed: v.version === at.version,
      madeAt: v.madeAt.toISOString(),
    })),
  });
}

export const weightsWishSchema = z.union([
  z.object({ act: z.literal("learn") }),
  z.object({ act: z.literal("use"), version: z.number().int().min(0).max(1_000_000) }),
]);

/** Learns them again now, or takes another version: 0 and 1 are the starting ones. Refuses not-allowed, not-found; not-sure where too little was decided. */
export async function changeWeights(
  actor: Actor,
  wish: z.infer<typeof weightsWishSchema>,
): Promise<Result<{ readonly version: number; readonly isTaken: boolean; readonly papers: number }>> {
  if (!allowsAnywhere(actor.grants, "manage")) return refuse("not-allowed");
  if (wish.act === "learn") {
    const learnt = await learnWeightsAnew(actor.id);
    return learnt ? ok(learnt) : refuse("not-sure", `Learning needs ${LEARNS_FROM} documents filed by people.`);
  }
  return db().transaction(async (tx) => {
    await tx.execute(sql`select pg_advisory_xact_lock(730041)`);
    const wanted =
      wish.version <= startingWeights.version
        ? null
        : (await tx.select().from(matchWeights).where(eq(matchWeights.version, wish.version)))[0];
    if (wanted === undefined) return refuse("not-found");
    await tx.update(matchWeights).set({ isUsed: false });
    if (wanted) await tx.update(matchWeights).set({ isUsed: true }).where(eq(matchWeights.version, wanted.version));
    await writeLines(tx, [
      {
        verb: "weightsLearnt",
        who: actor.id,
        details: { papers: String(wanted?.papers ?? 0), version: String(wanted?.version ?? startingWeights.version) },
      },
    ]);
    await addJob(tx, "suggestAll", {}, suggestAllOnce);
    remembered = null;
    return ok({ version: wanted?.version ?? startingWeights.version, isTaken: true, papers: wanted?.papers ?? 0 });
  });
}
