import { randomUUID } from "node:crypto";
import { pipeline, type Readable, Transform } from "node:stream";
import { parse } from "csv-parse";
import { and, eq, isNull, sql } from "drizzle-orm";
import { allowsRecord } from "#core/access/grants.ts";
import { parseSha256 } from "#core/shared/brand.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { content } from "../documents/tables.ts";
import { db } from "../db/connect.ts";
import { addJob } from "../jobs/add-job.ts";
import { jobRun } from "../jobs/tables.ts";
import type { Actor } from "../people/load-actor.ts";
import { loadPerson } from "../people/load-actor.ts";
import { landingStore } from "../ports/adapters.ts";
import { now } from "../ports/clock.ts";
import { systemCode } from "../ports/system-code.ts";
import { loadRecordType } from "./load-types.ts";
import { finishUpserts, emptyUpsertBatch } from "./finish-upserts.ts";
import { enterRecord, recordInputSchema } from "./upsert-record.ts";

/** Bytes of one CSV file. */
const IMPORT_BYTES_MAX = 2 * 1024 ** 3;
/** Failures that are kept with their reason; the rest are counted. */
const FAILURES_KEPT = 500;
/** Rows done in one transaction: few enough that progress is seen and a crash repeats little. */
const CHUNK = 200;
/** Longest line; a file without line ends must not fill the memory. */
const LINE_MAX = 200_000;

/** Columns with a meaning of their own; every other column is a field of the type. */
const ownColumns = [
  "key",
  "title",
  "status",
  "date",
  "amount",
  "currency",
  "parentType",
  "parentKey",
  "followsType",
  "followsKey",
] as const;

/** Keeps a CSV of records and queues its import; the answer is the job to watch. Nothing is parsed yet, so any size streams through. */
export async function beginImport(actor: Actor, company: string, typeKey: string, stream: Readable): Promise<Result<{ job: string }>> {
  if (!allowsRecord(actor.grants, "import", company, typeKey)) return refuse("not-allowed");
  if (!(await loadRecordType(typeKey))) return refuse("unknown-type");
  const landed = await landingStore().keep(stream, IMPORT_BYTES_MAX);
  if (!landed.ok) return landed;
  const id = randomUUID();
  await db().transaction(async (tx) => {
    await tx.insert(content).values({ sha256: landed.value.sha256, sizeBytes: landed.value.sizeBytes }).onConflictDoNothing();
    await tx.insert(jobRun).values({
      id,
      kind: "importRecords",
      label: `Records of type ${typeKey}`,
      personId: actor.id,
      madeAt: now(),
      input: { company, type: typeKey, sha256: landed.value.sha256 },
    });
    await addJob(tx, "importRecords", { job: id }, { key: `import:${id}` });
  });
  return ok({ job: id });
}

/** The worker's import: every row that is right is kept, every other is listed with its line and reason. Repeating it changes nothing. */
export async function importRecords(jobId: string): Promise<void> {
  const job = (await db().select().from(jobRun).where(eq(jobRun.id, jobId)))[0];
  if (!job || job.state === "done" || job.state === "stopped") return;
  const input = job.input as { company: string; type: string; sha256: string };
  const actor = await loadPerson(job.personId);
  const type = await loadRecordType(input.type);
  if (!actor || !type || !allowsRecord(actor.grants, "import", input.company, input.type)) {
    await end(jobId, "failed", [{ what: "the import", why: "the right to import was withdrawn" }], 0, 1);
    return;
  }
  await db().update(jobRun).set({ state: "running" }).where(eq(jobRun.id, jobId));
  const failures: { what: string; why: string }[] = [];
  let failed = 0;
  let done = 0;
  const fail = (line: number, why: string): void => {
    failed++;
    if (failures.length < FAILURES_KEPT) failures.push({ what: `line ${line}`, why });
  };
  const parser = parse({
    bom: true,
    columns: (header: string[]) => header.map((h) => h.trim()),
    info: true,
    relax_column_count: true,
    skip_empty_lines: true,
    trim: true,
    max_record_size: LINE_MAX,
    skip_records_with_error: true,
    delimiter: [",", ";", "\t"],
  });
  parser.on("skip", (error: { readonly lines?: number; readonly code?: string }) =>
    fail(error.lines ?? 0, `the line cannot be parsed (${error.code ?? "unreadable"})`),
  );
  const rows = pipeline(landingStore().read(parseSha256(input.sha256)), capLines(), parser, () => {});
  let chunk: { record: Record<string, string>; line: number }[] = [];
  const flush = async (): Promise<void> => {
    const taken = chunk;
    chunk = [];
    await db().transaction(async (tx) => {
      const left = emptyUpsertBatch();
      for (const { record, line } of taken) {
        const parsed = recordInputSchema.safeParse(rowToInput(record));
        if (!parsed.success) {
          fail(line, parsed.error.issues.map((i) => `${i.path.join(".")} ${i.message}`).join("; "));
          continue;
        }
        const saved = await enterRecord(tx, left, actor, input.company, type, record["key"] ?? "", parsed.data);
        if (saved.ok) done++;
        else
          fail(
            line,
            saved.refusal.errors?.map((e) => `${e.path} ${e.message}`).join("; ") ??
              `${saved.refusal.code} ${saved.refusal.detail ?? ""}`.trim(),
          );
      }
      await finishUpserts(tx, left);
    });
    // Not over what another run of the same job ended with.
    await db()
      .update(jobRun)
      .set({ done, failed, failures })
      .where(and(eq(jobRun.id, jobId), isNull(jobRun.endedAt)));
  };
  try {
    for await (const row of rows) {
      const { record, info } = row as { record: Record<string, string>; info: { lines: number } };
      chunk.push({ record, line: info.lines });
      if (chunk.length >= CHUNK) await flush();
    }
    if (chunk.length > 0) await flush();
  } catch (error) {
    // The parser gives up on a file that is no CSV at all; what came before it is kept.
    if (!systemCode(error)?.startsWith("CSV_")) throw error;
    if (chunk.length > 0) await flush();
    fail(0, "the rest of the file is not CSV");
  }
  if (done === 0 && failed === 0) fail(1, "there are no rows in the file");
  await end(jobId, done === 0 && failed > 0 ? "failed" : "done", failures, done, failed);
}

/** Called when the worker gives up: the job says so, with what was brought in by then. */
export async function giveUpImport(jobId: string): Promise<void> {
  const job = (await db().select().from(jobRun).where(eq(jobRun.id, jobId)))[0];
  if (!job || job.endedAt !== null) return;
  const failures = [
    ...(job.failures as { what: string; why: string }[]),
    { what: "the import", why: "it was tried many times and stopped" },
  ];
  await end(jobId, "failed", failures, job.done, job.failed + 1);
}

/** Progress of a job of the person's own, as the API says it; null when it is not theirs. */
export async function loadJob(
  actor: Actor,
  id: string,
): Promise<{
  state: string;
  done: number;
  total: number | null;
  failed: number;
  label: string;
  failures: readonly { what: string; why: string }[];
} | null> {
  const row = (
    await db()
      .select()
      .from(jobRun)
      .where(sql`${eq(jobRun.id, id)} and ${eq(jobRun.personId, actor.id)}`)
  )[0];
  return row
    ? {
        state: row.state,
        done: row.done,
        total: row.total,
        failed: row.failed,
        label: row.label,
        failures: row.failures as { what: string; why: string }[],
      }
    : null;
}

async function end(
  id: string,
  state: string,
  failures: readonly { what: string; why: string }[],
  done: number,
  failed: number,
): Promise<void> {
  await db()
    .update(jobRun)
    .set({ state, done, failed, failures, total: done + failed, endedAt: now() })
    .where(eq(jobRun.id, id));
}

function rowToInput(row: Readonly<Record<string, string>>): Record<string, unknown> {
  const fields: Record<string, unknown> = {};
  for (const [column, value] of Object.entries(row)) if (!(ownColumns as readonly string[]).includes(column)) fields[column] = value;
  const filled = (name: string): string | undefined => (row[name] === undefined || row[name] === "" ? undefined : row[name]);
  const follows = filled("followsKey");
  return {
    title: row["title"] ?? "",
    fields,
    status: filled("status"),
    date: filled("date"),
    amount: filled("amount"),
    currency: filled("currency"),
    ...(filled("parentKey") ? { parent: { type: filled("parentType") ?? "", key: filled("parentKey") } } : {}),
    ...(follows ? { follows: follows.split("|").map((key) => ({ type: filled("followsType") ?? "", key: key.trim() })) } : {}),
  };
}

/** Stops a stream whose line never ends. */
function capLines(): Transform {
  let run = 0;
  return new Transform({
    transform(piece: Buffer, _encoding, next) {
      const last = piece.lastIndexOf(10);
      run = last === -1 ? run + piece.length : piece.length - last - 1;
      if (run > LINE_MAX) next(Object.assign(new Error("line too long"), { code: "CSV_LINE_TOO_LONG" }));
      else next(null, piece);
    },
  });
}
