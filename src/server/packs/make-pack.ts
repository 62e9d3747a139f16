import { createHash, randomUUID } from "node:crypto";
import { createReadStream } from "node:fs";
import { mkdir, mkdtemp, rename, rm, stat } from "node:fs/promises";
import os from "node:os";
import path from "node:path";
import { sql } from "drizzle-orm";
import { allowsRecord } from "#core/access/grants.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { documentFilter } from "../access/filters.ts";
import { db } from "../db/connect.ts";
import { idArray } from "../db/sql-arrays.ts";
import { addJob } from "../jobs/add-job.ts";
import { jobRun } from "../jobs/tables.ts";
import { type Actor, loadPerson } from "../people/load-actor.ts";
import { now } from "../ports/clock.ts";
import { loadRecordTypes } from "../records/load-types.ts";
import { config } from "../settings/config.ts";
import { writeLines } from "../timeline/write-lines.ts";
import { chooseRecords, type PackedRef, type PackWish } from "./choose-records.ts";
import { loadPacked, type PackedRecord } from "./load-papers.ts";
import { type LeftOut, type PackAbout, writeBag } from "./write-bag.ts";
import { writePdf } from "./write-pdf.ts";

/** Packs are kept so long, days; they can be made again. */
const KEPT_DAYS = 7;
/** Progress is written down after so many documents. */
const TELL_EVERY = 20;

/** What is kept of a wish: whom it was about is settled when it is asked for, so that what is made is what was seen. */
interface SettledWish {
  readonly chosen: readonly PackedRef[];
  readonly scope: PackWish["scope"];
  readonly words: string;
}

/** A pack as the API says it. */
export interface PackAnswer {
  readonly id: string;
  readonly format: "pdf" | "folder";
  readonly label: string;
  readonly state: "waiting" | "running" | "done" | "failed" | "gone";
  readonly done: number;
  readonly total: number | null;
  readonly records: number;
  readonly papers: number;
  readonly leftOut: readonly LeftOut[];
  readonly sizeBytes: number | null;
  readonly sha256: string | null;
  readonly madeAt: string;
  readonly why: string | null;
}

export const packsFolder = (): string => path.join(config().dataFolder, "packs");
const fileOf = (id: string, format: PackAnswer["format"]): string => path.join(packsFolder(), `${id}.${format === "pdf" ? "pdf" : "zip"}`);

/** Begins a pack in the background; answers its id. Refuses pack-empty, not-found and bad-input (too many records). */
export async function beginPack(actor: Actor, wish: PackWish): Promise<Result<{ readonly id: string }>> {
  const found = await chooseRecords(actor, wish);
  if (!found.ok) return found;
  const { chosen, outOf } = found.value;
  const first = chosen[0];
  if (!first) return refuse("pack-empty");
  const types = await loadRecordTypes();
  const plural = types.find((t) => t.key === first.type)?.plural.toLowerCase() ?? "records";
  const day = now().toISOString().slice(0, 10);
  const label = chosen.length === 1 ? `${first.key} ${day}` : `${chosen.length} ${plural} ${day}`;
  const words = [
    wish.sample
      ? `A sample of ${chosen.length} of ${outOf} ${plural}, with random seed ${wish.sample.seed}`
      : chosen.length === 1
        ? `Documents of ${first.key}`
        : `${chosen.length} ${plural}`,
    wish.filter ? `selected by ${filterWords(wish.filter)}` : "",
    wish.scope === "chain" ? "with the documents along their chains" : "",
  ]
    .filter(Boolean)
    .join(", ");
  const id = randomUUID();
  const settled: SettledWish = { chosen, scope: wish.scope, words };
  await db().transaction(async (tx) => {
    await tx.insert(jobRun).values({ id, kind: "makePack", label, personId: actor.id, madeAt: now() });
    await tx.execute(sql`insert into pack (id, person_id, format, label, wish, records, made_at)
      values (${id}, ${actor.id}, ${wish.format}, ${label}, ${JSON.stringify(settled)}::jsonb, ${chosen.length}, ${now()})`);
    await addJob(tx, "makePack", { job: id }, { key: `pack:${id}`, queue: "packs" });
    await writeLines(tx, [
      {
        verb: "packed",
        who: actor.id,
        company: first.company,
        details: { papers: `the documents of ${chosen.length === 1 ? first.key : `${chosen.length} ${plural}`}`, label },
      },
    ]);
  });
  return ok({ id });
}

const filterWords = (filter: NonNullable<PackWish["filter"]>): string =>
  Object.entries(filter)
    .filter(([, value]) => value !== "")
    .map(([name, value]) => `${name} ${value}`)
    .join(", ");

/** The worker's part: writes the file whole or not at all. Begun again it begins again. */
export async function makePack(id: string): Promise<void> {
  const row = (
    await db().execute<{
      person_id: string;
      format: PackAnswer["format"];
      label: string;
      wish: SettledWish;
      ready_at: Date | null;
      made_at: Date;
    }>(sql`select person_id, format, label, wish, ready_at, made_at from pack where id = ${id}`)
  ).rows[0];
  if (!row || row.ready_at !== null) return;
  const actor = await loadPerson(row.person_id);
  if (!actor) return endPack(id, "failed", "the person who asked for it no longer has an account");
  await mkdir(packsFolder(), { recursive: true });
  const folder = await mkdtemp(path.join(os.tmpdir(), "amber-pack-"));
  const half = path.join(packsFolder(), `.${id}.part`);
  try {
    await rm(half, { force: true });
    await db().execute(sql`update job_run set state = 'running', done = 0, total = null where id = ${id}`);
    const about: PackAbout = { label: row.label, madeBy: actor.name, madeAt: new Date(row.made_at).toISOString(), chosen: row.wish.words };
    let done = 0;
    const onPaper = async (): Promise<void> => {
      done++;
      if (done % TELL_EVERY === 0) await db().execute(sql`update job_run set done = ${done} where id = ${id}`);
    };
    const documents = new Set<number>();
    const records = eachRecord(actor, row.wish, documents);
    const made =
      row.format === "pdf" ? await writePdf(half, about, records, folder, onPaper) : await writeBag(half, about, records, onPaper);
    const { size } = await stat(half);
    const hash = createHash("sha256");
    for await (const piece of createReadStream(half)) hash.update(piece as Buffer);
    await rename(half, fileOf(id, row.format));
    await db()
      .execute(sql`update pack set records = ${made.records}, papers = ${made.papers}, left_out = ${JSON.stringify(made.leftOut)}::jsonb, size_bytes = ${size},
      sha256 = ${hash.digest("hex")}, ready_at = ${now()},
      documents = ${idArray([...documents])}::bigint[] where id = ${id}`);
    await db().execute(sql`update job_run set state = 'done', done = ${done}, total = ${done}, ended_at = ${now()} where id = ${id}`);
  } finally {
    await rm(folder, { recursive: true, force: true });
    await rm(half, { force: true });
  }
}

/** Why a pack could not be made, by code, in words for whoever asked for it. */
const failureWords: Readonly<Record<string, string>> = {
  "pack-too-long": "It has too many pages for one PDF: use the folder format.",
  "pack-failed": "Its pages could not be joined. Use the folder format.",
  ENOSPC: "No storage space left. Tell an administrator, then try again.",
  EDQUOT: "No storage space left. Tell an administrator, then try again.",
  EACCES: "Its file could not be written. Tell an administrator.",
  EROFS: "Its file could not be written. Tell an administrator.",
};

/** Called when the worker gives up: the pack says why. */
export async function giveUpPack(id: string, why: string): Promise<void> {
  await endPack(id, "failed", failureWords[why] ?? "It could not be created. Try again; if it fails again, tell an administrator.");
}

async function endPack(id: string, state: string, why: string): Promise<void> {
  await db().execute(
    sql`update job_run set state = ${state}, failures = ${JSON.stringify([{ what: "the pack", why }])}::jsonb, ended_at = ${now()} where id = ${id}`,
  );
}

async function* eachRecord(actor: Actor, wish: SettledWish, documents: Set<number>): AsyncGenerator<PackedRecord> {
  for (const ref of wish.chosen) {
    const record = await loadPacked(actor, ref, wish.scope);
    for (const paper of record?.papers ?? []) documents.add(paper.id);
    if (record) yield record;
  }
}

/** Packs of the person's own, newest first. */
export async function listPacks(actor: Actor, id?: string): Promise<readonly PackAnswer[]> {
  const rows = await db().execute<{
    id: string;
    format: PackAnswer["format"];
    label: string;
    state: "waiting" | "running" | "done" | "failed";
    done: number;
    total: number | null;
    records: number;
    papers: number;
    left_out: readonly LeftOut[];
    size_bytes: number | null;
    sha256: string | null;
    made_at: Date;
    gone_at: Date | null;
    failures: readonly { readonly why: string }[];
  }>(sql`select p.id, p.format, p.label, j.state, j.done, j.total, p.records, p.papers, p.left_out, p.size_bytes, p.sha256, p.made_at, p.gone_at, j.failures
    from pack p join job_run j on j.id = p.id where p.person_id = ${actor.id} and ${id === undefined ? sql`true` : sql`p.id = ${id}`} order by p.made_at desc limit 50`);
  return rows.rows.map((r) => ({
    id: r.id,
    format: r.format,
    label: r.label,
    state: r.gone_at === null ? r.state : "gone",
    done: r.done,
    total: r.total,
    records: r.records,
    papers: r.papers,
    leftOut: r.left_out,
    sizeBytes: r.size_bytes,
    sha256: r.sha256,
    madeAt: new Date(r.made_at).toISOString(),
    why: r.failures[0]?.why ?? null,
  }));
}

/** Whether the person may still see every record and document of a pack: rights can be taken away while it is kept. */
async function stillCovers(actor: Actor, id: string): Promise<boolean> {
  const seen = await documentFilter(actor, "see", sql`d.acl_id`);
  const row = (
    await db().execute<{ chosen: readonly PackedRef[]; covered: boolean }>(sql`select p.wish->'chosen' as chosen, p.documents is not null
      and not exists (select 1 from document d where d.id = any(p.documents) and d.unfiled_at is null and not ${seen}) as covered from pack p where p.id = ${id}`)
  ).rows[0];
  return row !== undefined && row.covered && row.chosen.every((r) => allowsRecord(actor.grants, "see", r.company, r.type));
}

/** The file of a pack of the person's own, with the name it is given out under. Refuses not-found, pack-gone, not-allowed (any more). */
export async function packFile(
  actor: Actor,
  id: string,
): Promise<Result<{ readonly file: string; readonly name: string; readonly sizeBytes: number; readonly type: string }>> {
  const pack = (await listPacks(actor, id))[0];
  if (!pack) return refuse("not-found");
  if (pack.state === "gone") return refuse("pack-gone");
  if (pack.state !== "done") return refuse("not-found");
  if (!(await stillCovers(actor, id))) return refuse("not-allowed");
  const file = fileOf(id, pack.format);
  const there = await stat(file).catch(() => null);
  if (!there) return refuse("pack-gone");
  const ending = pack.format === "pdf" ? "pdf" : "zip";
  return ok({
    file,
    name: `${pack.label}.${ending}`,
    sizeBytes: there.size,
    type: pack.format === "pdf" ? "application/pdf" : "application/zip",
  });
}

/** Takes away packs that are older than they are kept. */
export async function clearPacks(): Promise<void> {
  const old = await db().execute<{ id: string; format: PackAnswer["format"] }>(
    sql`select id, format from pack where gone_at is null and made_at < ${now()}::timestamptz - ${KEPT_DAYS} * interval '1 day' limit 200`,
  );
  for (const { id, format } of old.rows) {
    await rm(fileOf(id, format), { force: true });
    await db().execute(sql`update pack set gone_at = ${now()} where id = ${id}`);
  }
}
