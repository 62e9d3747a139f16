import { randomUUID } from "node:crypto";
import { and, eq, ne, sql } from "drizzle-orm";
import { z } from "zod";
import { allowsRecord } from "#core/access/grants.ts";
import { draftFields, draftTitle, linesOfPaper } from "#core/drafts/fill-draft.ts";
import type { PaperRows } from "#core/reading/read-rows.ts";
import { parseFieldValues } from "#core/records/parse-field-values.ts";
import type { ArrivalId } from "#core/shared/brand.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { db } from "../db/connect.ts";
import { fileWithoutSheets } from "../codes/file-without-sheets.ts";
import { fileAway, type Filed, filingSchema } from "../documents/file-away.ts";
import { document } from "../documents/tables.ts";
import { arrival } from "../arrivals/tables.ts";
import { addJob } from "../jobs/add-job.ts";
import type { Actor } from "../people/load-actor.ts";
import { now } from "../ports/clock.ts";
import { findVisibleRecord } from "../records/find-record.ts";
import { loadRecordType } from "../records/load-types.ts";
import { record } from "../records/tables.ts";
import { recordInputSchema, upsertIn } from "../records/upsert-record.ts";
import { loadArrivalReading } from "../suggesting/suggest-for.ts";
import { writeLines } from "../timeline/write-lines.ts";
import { draft } from "./tables.ts";

const named = z.object({ type: z.string().min(1).max(40), key: z.string().min(1).max(120) });
const share = z.number().min(-50_000).max(50_000);
/** Where a value came from, as the sheet says. */
export const sourceSchema = z.union([
  z.object({
    from: z.literal("paper"),
    page: z.number().int().min(1).max(100_000).nullable(),
    box: z.tuple([share, share, share, share]).nullable(),
    text: z.string().max(300),
    certainty: z.number().min(0).max(1),
  }),
  z.object({ from: z.literal("record"), key: z.string().max(120) }),
  z.object({ from: z.literal("person") }),
]);
/** A record that is to be made from a paper, and how the paper is filed to it. */
export const draftInputSchema = z.object({
  company: z.string().min(1).max(20),
  type: z.string().min(1).max(40),
  title: z.string().trim().max(300).default(""),
  fields: z.record(z.string(), z.unknown()),
  sources: z.record(z.string().max(40), sourceSchema).default({}),
  above: named.nullish(),
  follows: z.array(named).max(20).default([]),
  filing: filingSchema.pick({ documentType: true, properties: true, title: true, clips: true }),
});
export type DraftInput = z.infer<typeof draftInputSchema>;

export interface MadeDraft {
  readonly draft: string;
  readonly record: { readonly company: string; readonly type: string; readonly key: string };
  readonly filed: Filed;
}

/** What was made here can be undone for so long, as everything can: only then does the business system hear of it. */
const UNDO_SECONDS = 10;

/**
 * Makes a record from an arrival, clips the paper to it, and queues it for the business system: all in one transaction. The paper is filed like any other.
 * A paper makes one record; the same wish again gives the same draft. Refuses what filing refuses, and bad-input (fields), unknown-record, not-allowed.
 */
export async function makeDraft(actor: Actor, id: ArrivalId, input: DraftInput): Promise<Result<MadeDraft>> {
  return fileWithoutSheets(actor, id, (pages) => makeDraftOf(actor, pages, input));
}

async function makeDraftOf(actor: Actor, id: ArrivalId, input: DraftInput): Promise<Result<MadeDraft>> {
  const type = await loadRecordType(input.type);
  if (!type?.draft) return refuse("unknown-type", input.type);
  if (!allowsRecord(actor.grants, "file", input.company, type.key)) return refuse("not-allowed");
  const repeated = await answerAgain(actor, id, input);
  if (repeated) return ok(repeated);
  // What it belongs to and follows has to be seen by the person who says so.
  for (const n of [...(input.above ? [input.above] : []), ...input.follows])
    if (!(await findVisibleRecord(actor, n.type, n.key, input.company))) return refuse("unknown-record", `${n.type} ${n.key}`);
  const checked = parseFieldValues(draftFields(type), input.fields);
  if (checked.errors.length > 0) return refuse("bad-input", undefined, [...checked.errors]);
  const above = input.above ? await findVisibleRecord(actor, input.above.type, input.above.key, input.company) : null;
  const number = (await db().execute<{ n: number }>(sql`select nextval('draft_number_seq')::int as n`)).rows[0]?.n;
  const key = `D-${number ?? ""}`;
  const title = input.title || draftTitle(type, checked.values, above?.title ?? null);
  const rows = type.draft.lines ? ((await loadArrivalReading(db(), id))?.rows as PaperRows | null | undefined) : null;
  const draftId = randomUUID();
  const filing = {
    ...input.filing,
    clips: [{ company: input.company, type: type.key, key }, ...input.filing.clips.filter((c) => c.type !== type.key || c.key !== key)],
  };
  const filed = await fileAway(actor, id, filing, {
    mayBeRepeat: false,
    before: async (tx) => {
      const made = await upsertIn(
        tx,
        actor,
        input.company,
        type,
        key,
        recordInputSchema.parse({
          title,
          fields: checked.values,
          status: "draft",
          above: input.above ?? null,
          follows: input.follows,
          ...(rows ? { lines: linesOfPaper(rows.lines) } : {}),
        }),
      );
      if (!made.ok) return made;
      await tx.insert(draft).values({
        id: draftId,
        recordId: made.value.id,
        arrivalId: id,
        company: input.company,
        type: type.key,
        key,
        state: "sending",
        sources: input.sources,
        follows: input.follows,
        madeBy: actor.id,
        madeAt: now(),
      });
      await writeLines(tx, [
        { verb: "draftMade", who: actor.id, company: input.company, recordId: made.value.id, arrivalId: id, details: { type: type.label } },
      ]);
      await addJob(tx, "sendDraft", { draftId }, { key: `sendDraft:${draftId}`, afterSeconds: UNDO_SECONDS });
      return ok(null);
    },
  });
  return filed.ok ? ok({ draft: draftId, record: { company: input.company, type: type.key, key }, filed: filed.value }) : filed;
}

/** The answer to a wish that was carried out already by the same person (promise 11); null when there was none. */
async function answerAgain(actor: Actor, id: ArrivalId, input: DraftInput): Promise<MadeDraft | null> {
  const found = (
    await db()
      .select({ draft, key: record.key, code: document.code, title: document.title })
      .from(draft)
      .innerJoin(record, eq(record.id, draft.recordId))
      .innerJoin(arrival, eq(arrival.id, draft.arrivalId))
      .innerJoin(document, eq(document.id, arrival.documentId))
      .where(and(eq(draft.arrivalId, id), eq(draft.madeBy, actor.id), eq(draft.type, input.type), ne(draft.state, "withdrawn")))
  )[0];
  if (!found) return null;
  const place = (
    await db().execute<{ connection: string; path: string; state: string; sha256: string | null; checked_at: Date | null }>(
      sql`select p.connection, p.path, p.state, p.sha256, p.checked_at from place p join document d on d.id = p.document_id where d.code = ${found.code}`,
    )
  ).rows[0];
  return {
    draft: found.draft.id,
    record: { company: input.company, type: input.type, key: found.key },
    filed: {
      code: found.code as Filed["code"],
      title: found.title,
      path: place?.path ?? "",
      placement: {
        connection: place?.connection ?? "",
        path: place?.path ?? "",
        state: place?.state ?? "waiting",
        sha256: place?.sha256 ?? null,
        checkedAt: place?.checked_at ? new Date(place.checked_at).toISOString() : null,
      },
    },
  };
}
