import { desc, eq, sql } from "drizzle-orm";
import { z } from "zod";
import { allowsAnywhere } from "#core/access/grants.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { hintsOf } from "#core/reading/learn-layout.ts";
import { readingFields } from "#core/reading/reading.ts";
import { documentFilter, recordFilter } from "../access/filters.ts";
import { arrival } from "../arrivals/tables.ts";
import { db } from "../db/connect.ts";
import type { Actor } from "../people/load-actor.ts";
import { now } from "../ports/clock.ts";
import { loadPlaces } from "./learnt-places.ts";
import { fieldPlace, forgottenSender } from "./tables.ts";

/** What was learnt of one sender, in a line. */
export interface LearntSender {
  readonly sender: string;
  /** The account's name, the domain, or the name on the document. */
  readonly name: string;
  readonly papers: number;
  readonly fields: number;
  /** Of the values confirmed, the share that the program had read right by itself, 0 to 1. */
  readonly right: number | null;
  readonly lastAt: string;
}
/** The same with its fields and the documents it comes from. */
export interface LearntDetail extends LearntSender {
  readonly places: readonly {
    readonly field: string;
    readonly label: string | null;
    readonly relation: string | null;
    readonly page: string;
    readonly times: number;
  }[];
  readonly from: readonly { readonly code: string; readonly title: string }[];
}

/** Senders and documents listed. */
const SENDERS_MAX = 200;
const PAPERS_MAX = 30;
const senderPattern = /^(account:\d{1,15}|domain:[a-z0-9.-]{1,200}|name:[\p{L}\p{N}]{1,200})$/u;

/** Senders whose layouts were learnt, the latest first; accounts that the person may not see are left out. Only with the right to manage. */
export async function listLearnt(actor: Actor, q: string): Promise<Result<{ readonly items: readonly LearntSender[] }>> {
  if (!allowsAnywhere(actor.grants, "manage")) return refuse("not-allowed");
  return ok({
    items: await select(
      actor,
      q === "" ? sql`true` : sql`lower(coalesce(r.title, p.sender_key)) like ${`%${q.toLowerCase().replace(/[\\%_]/g, (c) => `\\${c}`)}%`}`,
    ),
  });
}

async function select(actor: Actor, where: ReturnType<typeof sql>): Promise<readonly LearntSender[]> {
  const rows = await db().execute<{
    sender: string;
    name: string | null;
    papers: number;
    fields: number;
    right: number | null;
    last: Date;
  }>(sql`
    select p.sender_key as sender, r.title as name, count(distinct p.arrival_id)::int as papers, count(distinct p.field)::int as fields,
      avg(p.was_right::int)::float8 as right, max(p.made_at) as last
    from field_place p left join record r on p.sender_key = 'account:' || r.id
    where ${where} and (p.sender_key not like 'account:%' or (r.id is not null and ${recordFilter(actor, "see", sql`r`)}))
    group by p.sender_key, r.title order by max(p.made_at) desc, p.sender_key limit ${SENDERS_MAX}`);
  return rows.rows.map((r) => ({
    sender: r.sender,
    name: r.name ?? r.sender.replace(/^\w+:/, ""),
    papers: r.papers,
    fields: r.fields,
    right: r.right === null ? null : Math.round(r.right * 100) / 100,
    lastAt: new Date(r.last).toISOString(),
  }));
}

/** What was learnt of one sender, and from which documents, those that the person may see. Refuses not-allowed and not-found. */
export async function loadLearnt(actor: Actor, sender: string): Promise<Result<LearntDetail>> {
  if (!allowsAnywhere(actor.grants, "manage")) return refuse("not-allowed");
  if (!senderPattern.test(sender)) return refuse("not-found");
  const [line] = await select(actor, sql`p.sender_key = ${sender}`);
  if (!line) return refuse("not-found");
  const from = await db().execute<{ code: string; title: string }>(sql`select distinct d.id, d.code, d.title from field_place p
    join arrival a on a.id = p.arrival_id join document d on d.id = a.document_id
    where p.sender_key = ${sender} and ${await documentFilter(actor, "see", sql`d.acl_id`)} order by d.id desc limit ${PAPERS_MAX}`);
  const places = hintsOf(await loadPlaces(db(), sender)).map(({ field, label, relation, page, times }) => ({
    field,
    label,
    relation,
    page,
    times,
  }));
  return ok({ ...line, places, from: from.rows.map(({ code, title }) => ({ code, title })) });
}

/** Forgets what was learnt of a sender; what is confirmed from now on teaches again. Twice is once. */
export async function forgetLearnt(actor: Actor, sender: string): Promise<Result<{ readonly forgotten: number }>> {
  const found = await loadLearnt(actor, sender);
  if (!found.ok) return found;
  return db().transaction(async (tx) => {
    const values = { forgottenAt: now(), forgottenBy: actor.id };
    await tx
      .insert(forgottenSender)
      .values({ senderKey: sender, ...values })
      .onConflictDoUpdate({ target: forgottenSender.senderKey, set: values });
    const gone = await tx.delete(fieldPlace).where(eq(fieldPlace.senderKey, sender)).returning({ id: fieldPlace.id });
    return ok({ forgotten: gone.length });
  });
}

const share = z.number().min(0).max(1.5);
/** What was learnt, as an open file. */
export const learntFileSchema = z.object({
  format: z.literal("amber-clip-layouts"),
  version: z.literal(1),
  senders: z
    .array(
      z.object({
        sender: z.string().regex(senderPattern),
        places: z
          .array(
            z.object({
              arrival: z.uuid(),
              field: z.enum(readingFields),
              value: z.string().min(1).max(300),
              page: z.enum(["first", "last"]),
              label: z.string().max(60).nullable(),
              relation: z.enum(["same", "left", "above"]).nullable(),
              x: share,
              y: share,
              right: share,
              shape: z.string().max(80),
              wasRight: z.boolean().nullable(),
              madeAt: z.iso.datetime(),
            }),
          )
          .max(20_000),
      }),
    )
    .max(50_000),
});
export type LearntFile = z.infer<typeof learntFileSchema>;

/** All that was learnt of senders that the person may see, as one open file. */
export async function exportLearnt(actor: Actor): Promise<Result<LearntFile>> {
  if (!allowsAnywhere(actor.grants, "manage")) return refuse("not-allowed");
  const rows = await db()
    .select({ place: fieldPlace })
    .from(fieldPlace)
    .where(
      sql`field_place.sender_key not like 'account:%' or exists (select from record r where field_place.sender_key = 'account:' || r.id and ${recordFilter(actor, "see", sql`r`)})`,
    )
    .orderBy(fieldPlace.senderKey, desc(fieldPlace.madeAt), fieldPlace.id);
  const bySender = new Map<string, LearntFile["senders"][number]["places"]>();
  for (const { place: p } of rows) {
    const list = bySender.get(p.senderKey) ?? [];
    bySender.set(p.senderKey, list);
    const { arrivalId, value, label, shape, x, y, right, wasRight } = p;
    const parsed = learntFileSchema.shape.senders.element.shape.places.element.safeParse({
      arrival: arrivalId,
      field: p.field,
      value,
      page: p.page,
      label,
      relation: p.relation,
      x,
      y,
      right,
      shape,
      wasRight,
      madeAt: p.madeAt.toISOString(),
    });
    if (parsed.success) list.push(parsed.data);
  }
  return ok({ format: "amber-clip-layouts", version: 1, senders: [...bySender].map(([sender, places]) => ({ sender, places })) });
}

/** Takes such a file in beside what is there; a document teaches each field once, so twice is once. Documents that are not here are passed over. */
export async function importLearnt(
  actor: Actor,
  file: LearntFile,
): Promise<Result<{ readonly taken: number; readonly passedOver: number }>> {
  if (!allowsAnywhere(actor.grants, "manage")) return refuse("not-allowed");
  let taken = 0;
  let all = 0;
  await db().transaction(async (tx) => {
    const here = new Set(
      (
        await tx
          .select({ id: arrival.id })
          .from(arrival)
          .where(
            sql`${arrival.id} = any(${`{${[...new Set(file.senders.flatMap((s) => s.places.map((p) => p.arrival)))].join(",")}}`}::uuid[])`,
          )
      ).map((r) => r.id),
    );
    for (const { sender, places } of file.senders)
      for (const { arrival: arrivalId, madeAt, ...place } of places) {
        all++;
        if (!here.has(arrivalId)) continue;
        const made = await tx
          .insert(fieldPlace)
          .values({ senderKey: sender, arrivalId, madeAt: new Date(madeAt), madeBy: actor.id, ...place })
          .onConflictDoNothing()
          .returning({ id: fieldPlace.id });
        taken += made.length;
      }
  });
  return ok({ taken, passedOver: all - taken });
}
