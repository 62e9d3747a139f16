import { eq, inArray, sql } from "drizzle-orm";
import { allowsAnywhere } from "#core/access/grants.ts";
import { foldName, foldPath } from "#core/filing-plan/legal-name.ts";
import { parseDocumentCode, parseSha256, documentCodeOf } from "#core/shared/brand.ts";
import { ok, refuse, type Refusal, type Result } from "#core/shared/result.ts";
import { presentations } from "#core/shared/refusals.ts";
import { documentFilter, recordFilter } from "../access/filters.ts";
import { arrival } from "../arrivals/tables.ts";
import { db } from "../db/connect.ts";
import { document } from "../documents/tables.ts";
import { unfile } from "../documents/unfile.ts";
import { openRepository } from "../filing-plan/open-repository.ts";
import { enterOwnFolder, settleFolder } from "../filing-plan/settle-folder.ts";
import { finding, folder, place, placement } from "../filing-plan/tables.ts";
import { addJob } from "../jobs/add-job.ts";
import type { Actor } from "../people/load-actor.ts";
import { landingStore } from "../ports/adapters.ts";
import { now } from "../ports/clock.ts";
import { systemCode } from "../ports/system-code.ts";
import { loadLimits } from "../settings/load-settings.ts";
import { writeLines } from "../timeline/write-lines.ts";
import { enterVersion, takeFound } from "./take-found.ts";

/** Something that was found and waits for a decision, or was decided. */
export interface FindingAnswer {
  readonly id: number;
  readonly kind: "new" | "changed" | "removed" | "folder";
  readonly state: string;
  readonly decision: string | null;
  readonly why: string | null;
  readonly connection: string;
  readonly path: string;
  readonly bytes: number | null;
  readonly foundAt: string;
  readonly document: { readonly code: string; readonly title: string } | null;
  readonly record: { readonly company: string; readonly type: string; readonly key: string; readonly title: string } | null;
}

/** What can be decided about each kind. */
export const decisions = {
  new: ["take", "leave"],
  changed: ["version", "restore", "leave"],
  removed: ["restore", "takeOver", "point"],
  folder: ["take", "leave"],
} as const;
export const allDecisions = ["take", "leave", "version", "restore", "takeOver", "point"] as const;
export type Decision = (typeof allDecisions)[number];

/** Everything out of sync that a person may see, newest first. */
export async function listFindings(
  actor: Actor,
  wish: {
    readonly state: "open" | "decided" | "settling";
    readonly kind?: string | undefined;
    readonly limit: number;
    readonly offset: number;
  },
): Promise<Result<{ items: readonly FindingAnswer[]; total: number; kinds: Readonly<Record<string, number>> }>> {
  if (!allowsAnywhere(actor.grants, "plan")) return refuse("not-allowed");
  const seen = await documentFilter(actor, "see", sql`d.acl_id`);
  const from = sql`finding x left join document d on d.id = x.document_id left join record r on r.id = x.record_id
    where x.state = ${wish.state} and (d.id is null or ${seen}) and (r.id is null or ${recordFilter(actor, "see", sql`r`)})`;
  const [rows, counts] = await Promise.all([
    db().execute<{
      id: number;
      kind: FindingAnswer["kind"];
      state: string;
      decision: string | null;
      why: string | null;
      connection: string;
      path: string;
      seen_bytes: number | null;
      found_at: Date;
      code: string | null;
      doc_title: string;
      company: string | null;
      type: string;
      key: string;
      title: string;
    }>(sql`select x.id, x.kind, x.state, x.decision, x.why, x.connection, x.path, x.seen_bytes, x.found_at, d.code, d.title as doc_title, r.company, r.type, r.key, r.title
      from ${from} ${wish.kind ? sql`and x.kind = ${wish.kind}` : sql``} order by x.found_at desc, x.id desc limit ${wish.limit} offset ${wish.offset}`),
    db().execute<{ kind: string; n: number }>(sql`select x.kind, count(*)::int as n from ${from} group by x.kind`),
  ]);
  const kinds = Object.fromEntries(counts.rows.map((c) => [c.kind, c.n]));
  return ok({
    items: rows.rows.map((x) => ({
      id: x.id,
      kind: x.kind,
      state: x.state,
      decision: x.decision,
      why: x.why,
      connection: x.connection,
      path: x.path,
      bytes: x.seen_bytes,
      foundAt: new Date(x.found_at).toISOString(),
      document: x.code === null ? null : { code: x.code, title: x.doc_title },
      record: x.company === null ? null : { company: x.company, type: x.type, key: x.key, title: x.title },
    })),
    total: wish.kind ? (kinds[wish.kind] ?? 0) : Object.values(kinds).reduce((a, b) => a + b, 0),
    kinds,
  });
}

/** Carries one decision out for many findings. What cannot be done is listed with its reason, the rest is done. */
export async function decideFindings(
  actor: Actor,
  ids: readonly number[],
  decision: Decision,
  path?: string,
): Promise<Result<{ done: number; failures: readonly { what: string; why: string }[] }>> {
  if (!allowsAnywhere(actor.grants, "plan")) return refuse("not-allowed");
  const seen = await documentFilter(actor, "see", sql`d.acl_id`);
  const rows = await db().execute<{ id: number; path: string }>(
    sql`select x.id, x.path from finding x left join document d on d.id = x.document_id left join record r on r.id = x.record_id
      where x.id = any(${`{${ids.join(",")}}`}::bigint[]) and (d.id is null or ${seen}) and (r.id is null or ${recordFilter(actor, "see", sql`r`)})`,
  );
  const failures: { what: string; why: string }[] = [];
  let done = 0;
  for (const row of rows.rows) {
    let outcome: Result<null>;
    try {
      outcome = await decideOne(actor, row.id, decision, path);
    } catch (error) {
      const code = systemCode(error) ?? "";
      outcome = { ok: false, refusal: { code: code in presentations ? (code as Refusal["code"]) : "unavailable" } };
    }
    if (outcome.ok) done++;
    else
      failures.push({
        what: row.path,
        why: [presentations[outcome.refusal.code].title, outcome.refusal.detail].filter(Boolean).join(": "),
      });
  }
  return ok({ done, failures });
}

async function decideOne(actor: Actor, id: number, decision: Decision, path?: string): Promise<Result<null>> {
  const found = (await db().select().from(finding).where(eq(finding.id, id)))[0];
  if (!found) return refuse("not-found");
  if (found.state === "decided") return refuse("stale");
  if (!(decisions[found.kind as keyof typeof decisions] as readonly string[]).includes(decision))
    return refuse("bad-input", `not for what is ${found.kind}`);
  const decided = async (): Promise<Result<null>> => {
    await db().transaction(async (tx) => {
      await tx.update(finding).set({ state: "decided", decision, decidedBy: actor.id }).where(eq(finding.id, id));
      await writeLines(tx, [
        {
          verb: "foundDecided",
          who: actor.id,
          documentId: found.documentId,
          recordId: found.recordId,
          details: { decision: decisionWords[decision], path: found.path },
        },
      ]);
    });
    return ok(null);
  };
  if (decision === "leave") {
    // It stays in the repository as it is; what is ours stays out of sync until it is decided otherwise.
    return decided();
  }
  if (found.kind === "folder") return takeFolder(found, decided);
  if (found.kind === "new" || decision === "version") {
    await takeFound(id, actor.id);
    const after = (await db().select({ state: finding.state, why: finding.why }).from(finding).where(eq(finding.id, id)))[0];
    return after && after.state !== "decided" ? refuse("still-there", after.why ?? "it is still being written") : ok(null);
  }
  if (found.documentId === null) return refuse("not-found");
  if (decision === "restore") {
    const at = (await db().select().from(place).where(eq(place.documentId, found.documentId)))[0];
    if (!at) return refuse("not-found");
    if (found.kind === "changed" && found.sha256 !== null) {
      // Theirs is kept: it was taken in when it was found, and goes to the folder of things taken back.
      await (await openRepository(found.connection)).takeBack(at.path, parseSha256(found.sha256));
    }
    await db()
      .update(placement)
      .set({ state: "waiting", sha256: null, checkedAt: null, why: null })
      .where(eq(placement.documentId, found.documentId));
    await addJob(db(), "place", { documentId: found.documentId }, { key: `place:${found.documentId}` });
    return decided();
  }
  if (decision === "takeOver") {
    const code = parseDocumentCode(documentCodeOf(found.documentId));
    if (!code) return refuse("not-found");
    const back = await unfile(actor, code);
    if (!back.ok) return back;
    await db()
      .update(arrival)
      .set({ state: "setAside", endedAt: now(), endedBy: actor.id, endReason: "its file was removed from the repository" })
      .where(sql`${eq(arrival.id, back.value.arrivalId)} and ${inArray(arrival.state, ["ready", "waiting", "failed"])}`);
    return decided();
  }
  return pointTo(actor, found, path, decided);
}

const decisionWords: Readonly<Record<Decision, string>> = {
  take: "taken",
  leave: "ignored",
  version: "accepted as new version",
  restore: "restored",
  takeOver: "removed from its records",
  point: "replaced by another file",
};

/** A folder that somebody made becomes a record's own; what stands in it is found at the next look. */
async function takeFolder(found: typeof finding.$inferSelect, decided: () => Promise<Result<null>>): Promise<Result<null>> {
  const recordId = found.recordId;
  if (recordId === null) return refuse("not-found");
  const done = await db().transaction(async (tx) => {
    const settled = await settleFolder(tx, recordId, false);
    if (!settled.ok || settled.value.id !== null || foldPath(settled.value.segments) !== found.pathFolded) return false;
    const own = { recordId, connection: found.connection, segments: found.path.split("/"), ruleStamp: "found" };
    return (await enterOwnFolder(tx, own)) !== null;
  });
  if (!done) return refuse("stale", "the record now has a folder, or the plan gives it another path");
  await addJob(db(), "scan", { connection: found.connection }, { key: `scan:${found.connection}`, queue: `scan:${found.connection}` });
  return decided();
}

/** Another file of the repository is the document: with the same bytes it is only elsewhere, with others it is a new version. */
async function pointTo(
  actor: Actor,
  found: typeof finding.$inferSelect,
  path: string | undefined,
  decided: () => Promise<Result<null>>,
): Promise<Result<null>> {
  const documentId = found.documentId;
  if (documentId === null || path === undefined || path.trim() === "")
    return refuse("bad-input", undefined, [{ path: "path", message: "choose the file" }]);
  const clean = path
    .trim()
    .split("/")
    .filter((s) => s !== "" && s !== "." && s !== "..")
    .join("/");
  const repository = await openRepository(found.connection);
  const seen = await repository.look(clean);
  if (!seen) return refuse("bad-input", undefined, [{ path: "path", message: "there is no such file" }]);
  const cut = clean.lastIndexOf("/");
  const [folderPath, name] = [cut === -1 ? "" : clean.slice(0, cut), clean.slice(cut + 1)];
  const stream = await repository.read(clean);
  if (!stream) return refuse("not-found");
  const landed = await landingStore().keep(stream, (await loadLimits()).bytesMax);
  if (!landed.ok) return landed;
  const outcome = await db().transaction(async (tx): Promise<Result<null>> => {
    const was = (await tx.select().from(document).where(eq(document.id, documentId)).for("update"))[0];
    if (!was || was.unfiledAt) return refuse("not-found");
    const pathFolded = folderPath === "" ? "" : foldPath(folderPath.split("/"));
    await tx
      .insert(folder)
      .values({
        recordId: found.recordId,
        connection: found.connection,
        path: folderPath,
        pathFolded,
        kind: "within",
        ruleStamp: "",
        madeAt: now(),
      })
      .onConflictDoNothing();
    const at = (
      await tx
        .select()
        .from(folder)
        .where(sql`connection = ${found.connection} and path_folded = ${pathFolded}`)
    )[0];
    if (!at) return refuse("not-found");
    const taken = await tx.execute(
      sql`select 1 from placement where folder_id = ${at.id} and name_folded = ${foldName(name)} and document_id <> ${documentId}`,
    );
    if (taken.rows.length > 0) return refuse("name-taken", "that file already belongs to another document");
    await tx
      .update(placement)
      .set({ folderId: at.id, name, nameFolded: foldName(name) })
      .where(eq(placement.documentId, documentId));
    await enterVersion(tx, was, { sha256: landed.value.sha256, sizeBytes: landed.value.sizeBytes, seen }, name, found.recordId);
    await tx.execute(
      sql`delete from finding where connection = ${found.connection} and path_folded = ${foldPath(clean.split("/"))} and kind = 'new'`,
    );
    return ok(null);
  });
  return outcome.ok ? decided() : outcome;
}
