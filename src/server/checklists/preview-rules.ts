import { sql } from "drizzle-orm";
import { allowsRecord } from "#core/access/grants.ts";
import type { ChecklistInput } from "#core/checklists/checklist-rules.ts";
import { type ItemState, type StandingItem, standingItems } from "#core/checklists/checklist-state.ts";
import { ok, type Result } from "#core/shared/result.ts";
import { recordFilter } from "../access/filters.ts";
import { db } from "../db/connect.ts";
import type { Actor } from "../people/load-actor.ts";
import { today } from "../ports/clock.ts";
import { createChecklistEvaluator } from "./evaluate-checklists.ts";
import { parseChecklist } from "./manage-rules.ts";
import { idsAfter } from "./refresh-completeness.ts";

/** Records looked at in one go, records named, and how long a person is kept waiting, ms. */
const CHUNK = 2000;
const NAMED = 8;
const PATIENCE_MS = 20_000;

/** What saving a checklist would change. */
export interface ChecklistPreview {
  readonly records: number;
  /** Fewer than there are when it would have taken too long. */
  readonly lookedAt: number;
  readonly items: readonly {
    readonly key: string;
    readonly label: string;
    readonly applies: { readonly before: number; readonly after: number };
    readonly missing: { readonly before: number; readonly after: number };
    readonly received: { readonly before: number; readonly after: number };
  }[];
  /** Records that lack something then and do not now, and the other way round. */
  readonly becomeIncomplete: number;
  readonly becomeComplete: number;
  readonly examples: readonly {
    readonly company: string;
    readonly key: string;
    readonly title: string;
    readonly lacks: readonly string[];
  }[];
}

const isMissing = (state: ItemState): boolean => state === "outstanding" || state === "expired";

/** Works out what every record of the type would lack under the rules as sent, beside what it lacks now. Nothing is written. */
export async function previewChecklist(actor: Actor, typeKey: string, input: ChecklistInput): Promise<Result<ChecklistPreview>> {
  const parsed = await parseChecklist(actor, typeKey, input);
  if (!parsed.ok) return parsed;
  const { items: now, before } = parsed.value;
  const was = before.rules.items;
  const counts = new Map<string, { label: string; applies: [number, number]; missing: [number, number]; received: [number, number] }>();
  for (const item of [...was, ...now]) counts.set(item.key, { label: item.label, applies: [0, 0], missing: [0, 0], received: [0, 0] });
  const count = (standing: readonly StandingItem[], at: 0 | 1): void => {
    for (const item of standing) {
      const c = counts.get(item.key);
      if (!c) continue;
      c.applies[at]++;
      if (isMissing(item.state)) c.missing[at]++;
      if (item.state === "received") c.received[at]++;
    }
  };
  const records =
    (await db().execute<{ n: number }>(sql`select count(*)::int as n from record where type = ${typeKey} and ${recordFilter(actor)}`))
      .rows[0]?.n ?? 0;
  const day = today();
  const look = createChecklistEvaluator(
    typeKey,
    [...was, ...now],
    (facts) => [standingItems(was, facts, day), standingItems(now, facts, day)] as const,
  );
  const until = Date.now() + PATIENCE_MS;
  const examples: { company: string; key: string; title: string; lacks: string[] }[] = [];
  let [lookedAt, becomeIncomplete, becomeComplete] = [0, 0, 0];
  for (let after = 0; Date.now() < until;) {
    const ids = await idsAfter(typeKey, after, CHUNK);
    const last = ids.at(-1);
    if (last === undefined) break;
    after = last;
    for (const { company, key, title, value } of await look(db(), ids)) {
      // The rules hold for all companies; nobody is told of records that are not theirs to see.
      if (!allowsRecord(actor.grants, "see", company, typeKey)) continue;
      lookedAt++;
      const [then, next] = value;
      count(then, 0);
      count(next, 1);
      const [lacked, lacks] = [then.some((i) => isMissing(i.state)), next.some((i) => isMissing(i.state))];
      if (lacked && !lacks) becomeComplete++;
      if (!lacked && lacks) {
        becomeIncomplete++;
        if (examples.length < NAMED)
          examples.push({
            company,
            key,
            title,
            lacks: next.filter((i) => isMissing(i.state)).map((i) => i.label),
          });
      }
    }
  }
  const pair = ([x, y]: readonly [number, number]): { before: number; after: number } => ({ before: x, after: y });
  return ok({
    records,
    lookedAt,
    items: [...counts].map(([key, c]) => ({
      key,
      label: c.label,
      applies: pair(c.applies),
      missing: pair(c.missing),
      received: pair(c.received),
    })),
    becomeIncomplete,
    becomeComplete,
    examples,
  });
}
