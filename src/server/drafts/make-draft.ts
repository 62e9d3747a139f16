import { randomUUID } from "node:crypto";
import { and, eq, ne, sql } from "drizzle-orm";
import { z } from "zod";
import { allowsRecord } from "#core/access/grants.ts";
import { draftFields, draftTitle, linesOfPaper } from "#core/drafts/fill-draft.ts";
import type { PaperRows } from "#core/reading/read-rows.ts";
import { parseFieldValues } from "#core/records/parse-field-values.ts";
import type { ArrivalId } from "#core/shared/brand.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import type { FieldValues, RecordType } from "#core/records/record-type.ts";
import { db, type Tx } from "../db/connect.ts";
import { fileWithoutSheets } from "../codes/file-without-sheets.ts";
import { fileAway, type Filed, filingSchema } from "../documents/file-away.ts";
import { document } from "../documents/tables.ts";
import { arrival } from "../arrivals/tables.ts";
import { addJob } from "../jobs/add-job.ts";
import type { Actor } from "../people/load-actor.ts";
import { now } from "../ports/clock.ts";
import { findVisibleRecord } from "../records/find-visible-record.ts";
import { loadRecordType } from "../records/load-types.ts";
import { record } from "../records/tables.ts";
import { recordInputSchema, upsertIn } from "../records/upsert-record.ts";
import { loadArrivalReading } from "../matching/suggest-for.ts";
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
/** A record that is to be made from a document, and how the document is filed to it. */
export const draftInputSchema = z.object({
  company: z.string().min(1).max(20),
  type: z.string().min(1).max(40),
  title: z.string().trim().max(300).default(""),
  fields: z.record(z.string(), z.unknown()),
  sources: z.record(z.string().max(40), sourceSchema).default({}),
  parent: named.nullish(),
  /** The account it belongs to, where that is not there yet: made from the same document, and sent before it. */
  newParent: z
    .object({
      type: z.string().min(1).max(40),
      title: z.string().trim().max(300).default(""),
      fields: z.record(z.string(), z.unknown()),
      sources: z.record(z.string().max(40), sourceSchema).default({}),
    })
    .nullish(),
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
 * Makes a record from an arrival, clips the document to it, and queues it for the business system: all in one transaction. The document is filed like any other.
 * A document makes one record; the same wish again gives the same draft. Refuses what filing refuses, and bad-input (fields), unknown-record, not-allowed.
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
  for (const n of [...(input.parent ? [input.parent] : []), ...input.follows])
    if (!(await findVisibleRecord(actor, n.type, n.key, input.company))) return refuse("unknown-record", `${n.type} ${n.key}`);
  const checked = parseFieldValues(draftFields(type), input.fields);
  if (checked.errors.length > 0) return refuse("bad-input", undefined, [...checked.errors]);
  const account = input.newParent ? await prepareAccount(actor, input, type, input.newParent) : null;
  if (account && !account.ok) return account;
  const parent = input.parent ? await findVisibleRecord(actor, input.parent.type, input.parent.key, input.company) : null;
  const key = await nextDraftKey();
  const title = input.title || draftTitle(type, checked.values, account?.value.title ?? parent?.title ?? null);
  const rows = type.draft.lines ? ((await loadArrivalReading(db(), id))?.rows as PaperRows | null | undefined) : null;
  const draftId = randomUUID();
  const filing = {
    ...input.filing,
    clips: [{ company: input.company, type: type.key, key }, ...input.filing.clips.filter((c) => c.type !== type.key || c.key !== key)],
  };
  const filed = await fileAway(actor, id, filing, {
    mayBeRepeat: false,
    before: async (tx) => {
      if (account) {
        const entered = await enterDraft(tx, actor, id, account.value);
        if (!entered.ok) return entered;
      }
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
          parent: account ? { type: account.value.type.key, key: account.value.key } : (input.parent ?? null),
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

/** A record that is about to be made as a draft. */
interface NewDraft {
  readonly id: string;
  readonly company: string;
  readonly type: RecordType;
  readonly key: string;
  readonly title: string;
  readonly fields: FieldValues;
  readonly sources: DraftInput["sources"];
}

/** The account that is made together with a record, checked. Refuses unknown-type, not-allowed, bad-input. */
async function prepareAccount(
  actor: Actor,
  input: DraftInput,
  child: RecordType,
  wish: NonNullable<DraftInput["newParent"]>,
): Promise<Result<NewDraft>> {
  const type = await loadRecordType(wish.type);
  if (!type?.draft || !child.parent.includes(type.key)) return refuse("unknown-type", wish.type);
  if (input.parent) return refuse("bad-input", undefined, [{ path: "newParent", message: "there is an account already" }]);
  if (!allowsRecord(actor.grants, "file", input.company, type.key)) return refuse("not-allowed");
  const { values, errors } = parseFieldValues(draftFields(type), wish.fields);
  if (errors.length > 0)
    return refuse(
      "bad-input",
      undefined,
      errors.map((e) => ({ ...e, path: `newAbove.${e.path}` })),
    );
  return ok({
    id: randomUUID(),
    company: input.company,
    type,
    key: await nextDraftKey(),
    title: wish.title || draftTitle(type, values, null),
    fields: values,
    sources: wish.sources,
  });
}

/** Enters a draft that belongs to no other record, and queues it for the business system. In the caller's transaction. */
async function enterDraft(tx: Tx, actor: Actor, arrivalId: ArrivalId, d: NewDraft): Promise<Result<null>> {
  const { company, type, key, title } = d;
  const made = await upsertIn(tx, actor, company, type, key, recordInputSchema.parse({ title, fields: d.fields, status: "draft" }));
  if (!made.ok) return made;
  await tx.insert(draft).values({
    id: d.id,
    recordId: made.value.id,
    arrivalId,
    company,
    type: type.key,
    key,
    state: "sending",
    sources: d.sources,
    follows: [],
    madeBy: actor.id,
    madeAt: now(),
  });
  await writeLines(tx, [{ verb: "draftMade", who: actor.id, company, recordId: made.value.id, arrivalId, details: { type: type.label } }]);
  await addJob(tx, "sendDraft", { draftId: d.id }, { key: `sendDraft:${d.id}`, afterSeconds: UNDO_SECONDS });
  return ok(null);
}

async function nextDraftKey(): Promise<string> {
  const number = (await db().execute<{ n: number }>(sql`select nextval('draft_number_seq')::int as n`)).rows[0]?.n;
  return `D-${number ?? ""}`;
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
      location: {
        connection: place?.connection ?? "",
        path: place?.path ?? "",
        state: place?.state ?? "waiting",
        sha256: place?.sha256 ?? null,
        verifiedAt: place?.checked_at ? new Date(place.checked_at).toISOString() : null,
      },
    },
  };
}
