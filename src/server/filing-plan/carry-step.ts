import { eq, sql } from "drizzle-orm";
import { parseSha256 } from "#core/shared/brand.ts";
import { db } from "../db/connect.ts";
import { isOutage } from "../db/describe-error.ts";
import { localFile } from "../documents/local-file.ts";
import type { SeenFile } from "../ports/repository.ts";
import { systemCode } from "../ports/system-code.ts";
import { openRepository } from "./open-repository.ts";
import { provePut } from "./prove-put.ts";
import type { Outcome, Step } from "./plan-step.ts";
import { placement } from "./tables.ts";
import type { Chunk } from "./take-chunk.ts";

/** Does one step in the repository. What is expected to go wrong is an outcome; while the repository is away it throws, and the step stays under way. */
export async function carryStep(step: Step, elsewhere: Chunk["elsewhere"]): Promise<Outcome> {
  const failed = (kind: "failed" | "clash", why: string): Outcome => ({ step, kind, why });
  try {
    if (step.kind === "own") return { step, kind: "moved", why: null };
    if (step.kind === "folder") return await carryFolder(step, elsewhere);
    return await carryFile(step);
  } catch (error) {
    const why = systemCode(error);
    if (why === "repository-unreachable" || isOutage(error)) throw error;
    return failed("failed", why ?? "unknown");
  }
}

async function carryFolder(step: Step, elsewhere: Chunk["elsewhere"]): Promise<Outcome> {
  const path = elsewhere.get(step.folderId ?? 0);
  // Carried out already, and only not written down yet: the row is the last thing that changes.
  if (path === step.toPath) return { step, kind: "moved", why: null };
  if (path !== undefined) return { step, kind: "failed", why: "changed-since" };
  const repository = await openRepository(step.fromConnection);
  const outcome = await repository.moveFolder(step.fromPath, step.toPath);
  if (outcome === "taken") return { step, kind: "clash", why: "taken" };
  // A folder that nobody has put anything into yet is only a name.
  return { step, kind: "moved", why: null };
}

async function carryFile(step: Step): Promise<Outcome> {
  const found = (
    await db()
      .select()
      .from(placement)
      .where(eq(placement.documentId, step.documentId ?? 0))
  )[0];
  if (!found || found.takenBackBy !== null) return { step, kind: "failed", why: "unfiled" };
  if (found.state === "outOfSync") return { step, kind: "clash", why: "outOfSync" };
  if (found.state === "waiting" || found.state === "failed") return carryWaiting(step);
  const from = await openRepository(step.fromConnection);
  const isSame = step.fromConnection === step.toConnection;
  const sha256 = found.sha256 === null ? null : parseSha256(found.sha256);
  if (isSame) {
    const there = await from.look(step.fromPath);
    if (there && isOther(there, found)) return { step, kind: "clash", why: "changed" };
    const outcome = await from.move(step.fromPath, step.toPath);
    if (outcome === "taken") return { step, kind: "clash", why: "taken" };
    if (outcome === "not-there") return { step, kind: "clash", why: "gone" };
    return { step, kind: "moved", why: null, seen: await from.look(step.toPath) };
  }
  if (sha256 === null) return { step, kind: "failed", why: "not-proven" };
  const there = await from.hashOf(step.fromPath);
  if (there !== null && there !== sha256) return { step, kind: "clash", why: "changed" };
  const to = await openRepository(step.toConnection);
  const file = await localFile(sha256);
  const put = await to.put(step.toPath, file, sha256);
  if (put.kind === "taken") return { step, kind: "clash", why: "taken" };
  // The old one goes only after the new one was read back (promise 3).
  const wrong = await provePut(to, step.toPath, file, sha256);
  if (wrong) return { step, kind: "failed", why: wrong };
  await from.remove(step.fromPath, sha256);
  return { step, kind: "moved", why: null, seen: await to.look(step.toPath) };
}

/** A document that is still to be placed: it is placed at its new name. An earlier version of it that stands under the old one goes along, and gives way there. */
async function carryWaiting(step: Step): Promise<Outcome> {
  const from = await openRepository(step.fromConnection);
  const there = await from.hashOf(step.fromPath);
  const isOurs =
    there !== null &&
    (await db().execute(sql`select 1 from document_version where document_id = ${step.documentId} and sha256 = ${there}`)).rows.length > 0;
  if (isOurs && step.fromConnection === step.toConnection) {
    if ((await from.move(step.fromPath, step.toPath)) === "taken") return { step, kind: "clash", why: "taken" };
  } else if (isOurs && there !== null) await from.takeBack(step.fromPath, there);
  return { step, kind: "moved", why: null, seen: null };
}

function isOther(there: SeenFile, known: typeof placement.$inferSelect): boolean {
  if (known.seenBytes === null) return false;
  return there.sizeBytes !== known.seenBytes || (known.seenModifiedMs !== null && there.modifiedMs !== known.seenModifiedMs);
}
