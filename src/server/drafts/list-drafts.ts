import { type SQL, sql } from "drizzle-orm";
import type { DraftSource } from "#core/drafts/fill-draft.ts";
import type { FieldValues } from "#core/records/record-type.ts";
import { documentFilter, recordFilter } from "../access/filters.ts";
import { queryPrepared } from "../db/query-prepared.ts";
import type { Actor } from "../people/load-actor.ts";

export const draftStates = ["sending", "accepted", "refused", "withdrawn"] as const;
export type DraftState = (typeof draftStates)[number];

/** A draft as lists and its record's page show it. */
export interface DraftAnswer {
  readonly id: string;
  readonly state: DraftState;
  readonly record: {
    readonly company: string;
    readonly type: string;
    readonly key: string;
    readonly title: string;
    readonly status: string | null;
    readonly fields: FieldValues;
  };
  readonly sources: Readonly<Record<string, DraftSource>>;
  readonly reasons: readonly { readonly path: string; readonly message: string }[];
  /** Why there was no answer at the last try, and when the next one is. */
  readonly problem: string | null;
  readonly attempts: number;
  readonly nextTryAt: string | null;
  readonly document: string | null;
  readonly madeBy: string | null;
  readonly isMine: boolean;
  readonly madeAt: string;
  readonly answeredAt: string | null;
}

/** Drafts of records that the person may see, the latest first. */
export async function listDrafts(
  actor: Actor,
  wish: { readonly states?: readonly DraftState[] | undefined; readonly mine?: boolean; readonly limit: number },
): Promise<readonly DraftAnswer[]> {
  const states = wish.states ?? draftStates;
  return select(
    actor,
    sql`dr.state in (${sql.join(
      states.map((s) => sql`${s}`),
      sql`, `,
    )}) and ${wish.mine ? sql`dr.made_by = ${actor.id}` : sql`true`}`,
    wish.limit,
  );
}

/** The draft that a record was made from; null when it was made elsewhere or the person may not see it. */
export async function draftOfRecord(actor: Actor, recordId: number): Promise<DraftAnswer | null> {
  return (await select(actor, sql`dr.record_id = ${recordId}`, 1))[0] ?? null;
}

/** One draft; null when it is not there for this person. */
export async function loadDraft(actor: Actor, id: string): Promise<DraftAnswer | null> {
  return (await select(actor, sql`dr.id = ${id}::uuid`, 1))[0] ?? null;
}

async function select(actor: Actor, where: SQL, limit: number): Promise<readonly DraftAnswer[]> {
  type Row = Record<string, unknown> & {
    id: string;
    state: DraftState;
    company: string;
    type: string;
    key: string;
    title: string;
    status: string | null;
    fields: FieldValues;
    sources: DraftAnswer["sources"];
    reasons: DraftAnswer["reasons"];
    problem: string | null;
    attempts: number;
    next_try_at: Date | null;
    code: string | null;
    made_by: string;
    name: string | null;
    made_at: Date;
    answered_at: Date | null;
  };
  const rows = await queryPrepared<Row>(sql`
    select dr.id, dr.state, r.company, r.type, r.key, r.title, r.status, r.fields, dr.sources, dr.reasons, dr.problem, dr.attempts, dr.next_try_at,
      (select d.code from arrival a join document d on d.id = a.document_id where a.id = dr.arrival_id and ${await documentFilter(actor, "see", sql`d.acl_id`)}) as code, dr.made_by, u.name, dr.made_at, dr.answered_at
    from draft dr join record r on r.id = dr.record_id left join "user" u on u.id = dr.made_by
    where ${where} and ${recordFilter(actor, "see", sql`r`)} order by dr.made_at desc, dr.id limit ${limit}`);
  const iso = (at: Date | null): string | null => (at === null ? null : new Date(at).toISOString());
  return rows.map((r) => ({
    id: r.id,
    state: r.state,
    record: { company: r.company, type: r.type, key: r.key, title: r.title, status: r.status, fields: r.fields },
    sources: r.sources,
    reasons: r.reasons,
    problem: r.problem,
    attempts: r.attempts,
    nextTryAt: iso(r.next_try_at),
    document: r.code,
    madeBy: r.name,
    isMine: r.made_by === actor.id,
    madeAt: new Date(r.made_at).toISOString(),
    answeredAt: iso(r.answered_at),
  }));
}
