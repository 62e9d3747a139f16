import { type SQL, sql } from "drizzle-orm";
import { recordScopes } from "#core/access/grants.ts";
import type { ItemRule } from "#core/checklists/checklist-rules.ts";
import { standingItems } from "#core/checklists/checklist-state.ts";
import { bitOf } from "#core/checklists/completeness.ts";
import { parseLookup } from "#core/records/parse-lookup.ts";
import { shiftDay } from "#core/shared/parse-day.ts";
import type { DocumentType } from "#core/documents/document-type.ts";
import { recordFilter } from "../access/filters.ts";
import { queryPrepared, preparedExecutor } from "../db/query-prepared.ts";
import { db, onOneLine } from "../db/connect.ts";
import type { Actor } from "../people/load-actor.ts";
import { today } from "../ports/clock.ts";
import { loadDocumentTypes, loadRecordTypes } from "../records/load-types.ts";
import { isDirectChildOf } from "../records/is-direct-child-of.ts";
import { loadFacts } from "./load-facts.ts";
import { seenItems } from "./load-items.ts";
import { loadChecklists, visibleBits } from "./load-rules.ts";

/** missing: outstanding or expired. due: missing and due by today. lapsing: settled, and not for long any more. */
export const missingViews = ["missing", "due", "received", "expiring", "expired"] as const;
export type MissingView = (typeof missingViews)[number];

/** Days ahead that what expires is shown. */
export const LAPSES_WITHIN = 60;
/** Records walked through for one page of the list; beyond it a filter is the way. */
const OFFSET_MAX = 5000;

export interface MissingWish {
  readonly view: MissingView;
  readonly type?: string | undefined;
  readonly company?: string | undefined;
  /** Key of an item of that type. */
  readonly item?: string | undefined;
  /** `type:key` of the account above. */
  readonly parent?: string | undefined;
  /** A person's id, or "none" for records that nobody answers for. */
  readonly responsible?: string | undefined;
  readonly q?: string | undefined;
  readonly limit: number;
  readonly offset: number;
}

/** A record that something is to be done about, with its items that fit the view. */
export interface MissingRow {
  readonly company: string;
  readonly type: string;
  readonly key: string;
  readonly title: string;
  readonly parent: { readonly type: string; readonly key: string; readonly title: string } | null;
  readonly responsible: { readonly id: string; readonly name: string } | null;
  readonly items: readonly {
    readonly key: string;
    readonly label: string;
    readonly state: string;
    readonly dueOn: string | null;
    readonly expiresOn: string | null;
    readonly missing: string;
  }[];
  /** Open reminders to whoever answers for it. */
  readonly remindedAt: string | null;
}

interface Scope {
  readonly company: string;
  readonly type: string;
  readonly bits: bigint;
}

/** The record types, companies and items that a person is told of. */
async function scopesOf(
  actor: Actor,
  wish: Pick<MissingWish, "type" | "company" | "item">,
  rules: ReadonlyMap<string, readonly ItemRule[]>,
  types: readonly DocumentType[],
): Promise<readonly Scope[]> {
  const keys = wish.type ? [wish.type] : (await loadRecordTypes()).map((t) => t.key);
  return recordScopes(actor.grants, "see", keys)
    .filter((s) => wish.company === undefined || wish.company === "" || s.company === wish.company)
    .flatMap(({ company, type }) => {
      const items = rules.get(type) ?? [];
      const visible = visibleBits(actor, company, type, items, types);
      const one = wish.item === undefined ? undefined : items.find((i) => i.key === wish.item);
      const bits = wish.item === undefined ? visible : one ? visible & bitOf(one.bit) : 0n;
      return bits === 0n ? [] : [{ company, type, bits }];
    });
}

const scopeRows = (scopes: readonly Scope[]): SQL =>
  sql`(values ${sql.join(
    scopes.map((s) => sql`(${s.company}::text, ${s.type}::text, ${String(s.bits)}::bigint)`),
    sql`, `,
  )}) as s(company, type, bits)`;

/** Condition on `c`, of the view, within a scope `s`. */
function viewCondition(view: MissingView, day: string): SQL {
  return {
    missing: sql`c.missing <> 0 and c.missing & s.bits <> 0`,
    due: sql`c.missing <> 0 and c.missing & s.bits <> 0 and c.due_on <= ${day}`,
    received: sql`c.in_hand <> 0 and c.in_hand & s.bits <> 0`,
    // What may lapse is settled; which item it is shows only when the record is looked at.
    expiring: sql`c.lapses_on is not null and c.lapses_on <= ${shiftDay(day, LAPSES_WITHIN)} and c.applies & ~c.missing & ~c.in_hand & ~c.waived & s.bits <> 0`,
    expired: sql`c.missing <> 0 and c.lapsed & s.bits <> 0`,
  }[view];
}

/**
 * Records of all types with something missing, received, expired or about to lapse: first what is due first. Only records, and only items, that the
 * person is told of (promise 6).
 */
export function listMissing(
  actor: Actor,
  wish: MissingWish,
): Promise<{ readonly items: readonly MissingRow[]; readonly next: string | null }> {
  return onOneLine(() => listOnLine(actor, wish));
}

async function listOnLine(
  actor: Actor,
  wish: MissingWish,
): Promise<{ readonly items: readonly MissingRow[]; readonly next: string | null }> {
  const [rules, types] = await Promise.all([loadChecklists(), loadDocumentTypes()]);
  const scopes = await scopesOf(actor, wish, rules, types);
  if (scopes.length === 0 || wish.offset > OFFSET_MAX) return { items: [], next: null };
  const day = today();
  const byLapse = wish.view === "expiring";
  const parts: SQL[] = [sql`c.company = s.company`, sql`c.type = s.type`, viewCondition(wish.view, day)];
  if (wish.responsible === "none") parts.push(sql`c.responsible_id is null`);
  else if (wish.responsible !== undefined) parts.push(sql`c.responsible_id = ${wish.responsible}`);
  if (wish.parent !== undefined)
    parts.push(sql`c.record_id in (select record.id from record where ${isDirectChildOf(actor, wish.parent)})`);
  for (const pattern of parseLookup(wish.q ?? "").patterns)
    parts.push(sql`exists (select 1 from record r where r.id = c.record_id and r.lookup_text like ${pattern})`);
  const order = byLapse ? sql`lapses_on, record_id` : sql`due_on nulls last, record_id`;
  // Each type and company by its own index, as many as the page needs; then the first of all of them.
  const rows = await queryPrepared<{
    id: number;
    company: string;
    type: string;
    key: string;
    title: string;
    parent: MissingRow["parent"];
    responsible: MissingRow["responsible"];
    reminded_at: Date | null;
  }>(sql`with first as (select x.* from ${scopeRows(scopes)} cross join lateral (
      select c.record_id, c.due_on, c.lapses_on, c.responsible_id from completeness c where ${sql.join(parts, sql` and `)}
      order by ${byLapse ? sql`c.lapses_on, c.record_id` : sql`c.due_on nulls last, c.record_id`} limit ${wish.offset + wish.limit + 1}) x
      order by ${order} limit ${wish.limit + 1} offset ${wish.offset})
    select r.id, r.company, r.type, r.key, r.title,
      case when a.id is null or not ${recordFilter(actor, "see", sql`a`)} then null else json_build_object('type', a.type, 'key', a.key, 'title', a.title) end as parent,
      case when u.id is null then null else json_build_object('id', u.id, 'name', u.name) end as responsible,
      (select max(m.at) from reminder m where m.record_id = r.id and m.seen_at is null) as reminded_at
    from first f join record r on r.id = f.record_id left join record a on a.id = r.above_id left join "user" u on u.id = f.responsible_id
    order by ${byLapse ? sql`f.lapses_on, f.record_id` : sql`f.due_on nulls last, f.record_id`}`);
  const shown = rows.slice(0, wish.limit);
  const facts = new Map(
    (
      await loadFacts(
        preparedExecutor,
        shown.map((r) => r.id),
        rules,
      )
    ).map((f) => [f.id, f]),
  );
  const items = shown.map((r): MissingRow => {
    const found = facts.get(r.id);
    const standing = found ? seenItems(actor, r.company, r.type, standingItems(rules.get(r.type) ?? [], found.facts, day), types) : [];
    const fitting = standing.filter((i) => {
      if (wish.item !== undefined && i.key !== wish.item) return false;
      switch (wish.view) {
        case "received":
          return i.state === "received";
        case "expired":
          return i.state === "expired";
        case "expiring":
          return i.state === "complete" && i.expiresOn !== null && i.expiresOn <= shiftDay(day, LAPSES_WITHIN);
        default:
          return i.state === "outstanding" || i.state === "expired";
      }
    });
    return {
      company: r.company,
      type: r.type,
      key: r.key,
      title: r.title,
      parent: r.parent,
      responsible: r.responsible,
      items: fitting.map(({ key, label, state, dueOn, expiresOn, missing }) => ({ key, label, state, dueOn, expiresOn, missing })),
      remindedAt: r.reminded_at ? new Date(r.reminded_at).toISOString() : null,
    };
  });
  // A record whose only lapsing item this person is not told of has nothing to show.
  return { items: items.filter((i) => i.items.length > 0), next: rows.length > wish.limit ? String(wish.offset + wish.limit) : null };
}

/** How many records there are in each view, by type; and of one type by item. */
export interface MissingCounts {
  readonly types: readonly ({ readonly type: string } & Readonly<Record<MissingView, number>>)[];
  readonly items: readonly {
    readonly key: string;
    readonly label: string;
    readonly missing: number;
    readonly received: number;
    readonly expired: number;
  }[];
}

/** Counts what listMissing would list, of one company or all. */
export async function countMissing(actor: Actor, wish: Pick<MissingWish, "type" | "company" | "responsible">): Promise<MissingCounts> {
  const [rules, types] = [await loadChecklists(), await loadDocumentTypes()];
  const day = today();
  const scopes = await scopesOf(actor, { company: wish.company }, rules, types);
  if (scopes.length === 0) return { types: [], items: [] };
  const who =
    wish.responsible === undefined
      ? sql`true`
      : wish.responsible === "none"
        ? sql`c.responsible_id is null`
        : sql`c.responsible_id = ${wish.responsible}`;
  const counted = await db().execute<{ type: string } & Record<MissingView, number>>(sql`select c.type,
      count(*) filter (where ${viewCondition("missing", day)})::int as missing, count(*) filter (where ${viewCondition("due", day)})::int as due,
      count(*) filter (where ${viewCondition("received", day)})::int as received, count(*) filter (where ${viewCondition("expiring", day)})::int as expiring,
      count(*) filter (where ${viewCondition("expired", day)})::int as expired
    from ${scopeRows(scopes)} join completeness c on c.company = s.company and c.type = s.type where ${who} group by c.type`);
  const order = (await loadRecordTypes()).map((t) => t.key);
  const asked = rules.get(wish.type ?? "") ?? [];
  const mine = scopes.filter((s) => s.type === wish.type);
  let items: MissingCounts["items"] = [];
  if (asked.length > 0 && mine.length > 0) {
    const columns = asked.flatMap((i) => {
      const bit = sql.raw(`${bitOf(i.bit)}::bigint`);
      return [
        sql`count(*) filter (where c.missing & s.bits & ${bit} <> 0)::int`,
        sql`count(*) filter (where c.in_hand & s.bits & ${bit} <> 0)::int`,
        sql`count(*) filter (where c.lapsed & s.bits & ${bit} <> 0)::int`,
      ];
    });
    const row = (
      await db().execute<{ n: number[] }>(
        sql`select array[${sql.join(columns, sql`, `)}] as n from ${scopeRows(mine)} join completeness c on c.company = s.company and c.type = s.type where ${who} and (c.missing <> 0 or c.in_hand <> 0)`,
      )
    ).rows[0];
    const told = mine.reduce((bits, s) => bits | s.bits, 0n);
    items = asked.flatMap((i, n) =>
      (told & bitOf(i.bit)) === 0n
        ? []
        : [{ key: i.key, label: i.label, missing: row?.n[n * 3] ?? 0, received: row?.n[n * 3 + 1] ?? 0, expired: row?.n[n * 3 + 2] ?? 0 }],
    );
  }
  return { types: [...counted.rows].sort((a, b) => order.indexOf(a.type) - order.indexOf(b.type)), items };
}
