import { randomUUID } from "node:crypto";
import { sql } from "drizzle-orm";
import { allowsAnywhere } from "#core/access/grants.ts";
import {
  checkChecklist,
  type ChecklistInput,
  checklistInputSchema,
  checklistRulesSchema,
  giveBits,
  type ItemRule,
  looksAlongChain,
} from "#core/checklists/checklist-rules.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { db } from "../db/connect.ts";
import { addJob } from "../jobs/add-job.ts";
import { jobRun } from "../jobs/tables.ts";
import type { Actor } from "../people/load-actor.ts";
import { now } from "../ports/clock.ts";
import { loadDocumentTypes, loadRecordType, loadRecordTypes } from "../records/load-types.ts";
import { writeLines } from "../timeline/write-lines.ts";
import { loadChecklist, loadChecklists } from "./load-rules.ts";
import { recheckAll } from "./refresh-completeness.ts";
import { checklist } from "./tables.ts";

/** A record type with its checklist, for set-up. */
export interface ChecklistAnswer {
  readonly recordType: string;
  /** 0: it never had one. What is saved has to name the version it was made from. */
  readonly version: number;
  readonly items: readonly ItemRule[];
}

/** The checklists of all record types, and the roles that may be named in them. Refuses not-allowed without the right to the filing plan. */
export async function listChecklists(
  actor: Actor,
): Promise<Result<{ readonly items: readonly ChecklistAnswer[]; readonly roles: readonly string[] }>> {
  if (!allowsAnywhere(actor.grants, "plan")) return refuse("not-allowed");
  const items = [];
  for (const type of await loadRecordTypes()) {
    const { version, rules } = await loadChecklist(type.key);
    items.push({ recordType: type.key, version, items: rules.items });
  }
  const roles = await db().execute<{ label: string }>(sql`select label from role order by label`);
  return ok({ items, roles: roles.rows.map((r) => r.label) });
}

/** Rules that were sent, checked against types, with bits for new items. Refuses not-allowed, unknown-type and bad-input with what is wrong where. */
export async function parseChecklist(
  actor: Actor,
  typeKey: string,
  input: ChecklistInput,
): Promise<Result<{ readonly items: readonly ItemRule[]; readonly before: Awaited<ReturnType<typeof loadChecklist>> }>> {
  if (!allowsAnywhere(actor.grants, "plan")) return refuse("not-allowed");
  const type = await loadRecordType(typeKey);
  if (!type) return refuse("unknown-type");
  const parsed = checklistInputSchema.parse(input);
  const [documentTypes, recordTypes] = [await loadDocumentTypes(), (await loadRecordTypes()).map((t) => t.key)];
  const errors = checkChecklist(parsed, type, { documentTypes, recordTypes });
  if (errors.length > 0) return refuse("bad-input", undefined, errors);
  const before = await loadChecklist(typeKey);
  return ok({ items: giveBits(parsed.items, before.rules.items, before.usedBits), before });
}

/**
 * Saves the checklist of a record type and has all its records looked at again in the background; answers the job to watch. Refuses stale when it was
 * changed since `version`.
 */
export async function saveChecklist(
  actor: Actor,
  typeKey: string,
  input: ChecklistInput,
  version: number,
): Promise<Result<{ readonly version: number; readonly job: string }>> {
  const parsed = await parseChecklist(actor, typeKey, input);
  if (!parsed.ok) return parsed;
  const { items, before } = parsed.value;
  if (before.version !== version) return refuse("stale");
  const rules = checklistRulesSchema.parse({ items });
  const type = await loadRecordType(typeKey);
  const job = randomUUID();
  return db().transaction(async (tx) => {
    const values = {
      version: version + 1,
      rules,
      usedBits: [...new Set([...before.usedBits, ...items.map((i) => i.bit)])].sort((a, b) => a - b),
      looksAlongChain: looksAlongChain(rules),
      changedAt: now(),
      changedBy: actor.id,
    };
    const saved =
      version === 0
        ? await tx
            .insert(checklist)
            .values({ recordType: typeKey, ...values })
            .onConflictDoNothing()
            .returning({ version: checklist.version })
        : await tx
            .update(checklist)
            .set(values)
            .where(sql`${checklist.recordType} = ${typeKey} and ${checklist.version} = ${version}`)
            .returning({ version: checklist.version });
    if (saved.length === 0) return refuse("stale");
    await tx.insert(jobRun).values({
      id: job,
      kind: "recheck",
      label: `Checklist of ${type?.plural.toLowerCase() ?? typeKey}`,
      personId: actor.id,
      input: { type: typeKey },
    });
    await addJob(tx, "recheck", { job }, { key: `recheck:${job}` });
    await writeLines(tx, [{ verb: "checklistChanged", who: actor.id, details: { recordType: type?.label ?? typeKey } }]);
    return ok({ version: version + 1, job });
  });
}

/** Looks at all records of the job's type again, chunk by chunk, with progress. One that is begun again goes through all of them again: twice is once. */
export async function recheckType(jobId: string): Promise<void> {
  const job = (await db().execute<{ input: { type: string }; state: string }>(sql`select input, state from job_run where id = ${jobId}`))
    .rows[0];
  if (!job || job.state === "done") return;
  const { type } = job.input;
  const total = (await db().execute<{ n: number }>(sql`select count(*)::int as n from record where type = ${type}`)).rows[0]?.n ?? 0;
  await db().execute(sql`update job_run set state = 'running', total = ${total}, done = 0 where id = ${jobId}`);
  const rules = (await loadChecklists()).get(type) ?? [];
  const done = await recheckAll(type, rules, async (n) => {
    await db().execute(sql`update job_run set done = ${n} where id = ${jobId}`);
  });
  await db().execute(sql`update job_run set state = 'done', done = ${done}, total = ${done}, ended_at = ${now()} where id = ${jobId}`);
}

/** Called when the worker gives up: the job says so. The check of what is kept puts right what was not looked at. */
export async function giveUpRecheck(jobId: string, why: string): Promise<void> {
  await db().execute(
    sql`update job_run set state = 'failed', failures = ${JSON.stringify([{ what: "looking at the records", why }])}::jsonb, ended_at = ${now()} where id = ${jobId}`,
  );
}
