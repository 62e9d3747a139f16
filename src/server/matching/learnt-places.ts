import { desc, eq, sql } from "drizzle-orm";
import type { SeenPlace } from "#core/reading/learn-layout.ts";
import { readingFields } from "#core/reading/reading.ts";
import { z } from "zod";
import { queryPrepared } from "../db/query-prepared.ts";
import type { Tx } from "../db/connect.ts";
import { textArray } from "../db/sql-arrays.ts";
import { fieldPlace } from "./tables.ts";

/** Confirmed places of one sender that count, the latest: an older layout is forgotten by itself. */
const PLACES_MAX = 120;

const relationSchema = z.enum(["same", "left", "above"]);

/** Where a sender keeps its fields, as people confirmed it, oldest first. */
export async function loadPlaces(tx: Tx, senderKey: string): Promise<readonly SeenPlace[]> {
  const rows = await tx
    .select()
    .from(fieldPlace)
    .where(eq(fieldPlace.senderKey, senderKey))
    .orderBy(desc(fieldPlace.madeAt), desc(fieldPlace.id))
    .limit(PLACES_MAX);
  return rows.reverse().flatMap((r) => {
    const field = readingFields.find((f) => f === r.field);
    const relation = r.relation === null ? null : relationSchema.parse(r.relation);
    return field
      ? [
          {
            field,
            paper: r.arrivalId,
            page: r.page === "last" ? ("last" as const) : ("first" as const),
            label: r.label,
            relation,
            x: r.x,
            y: r.y,
            right: r.right,
            shape: r.shape,
          },
        ]
      : [];
  });
}

/** Whose layouts are known, and what state that is in: another text whenever something was learnt of them, or forgotten. */
export async function learntMarks(senderKeys: readonly (string | null)[]): Promise<ReadonlyMap<string | null, string>> {
  const asked = [...new Set(senderKeys.flatMap((key) => key ?? []))];
  const rows =
    asked.length === 0
      ? []
      : await queryPrepared<{
          key: string;
          mark: string;
        }>(sql`select k.key, k.key || ' ' || m.mark as mark from unnest(${textArray(asked)}::text[]) as k (key)
          cross join lateral (select count(*) || '/' || coalesce(max(id), 0) as mark from field_place where sender_key = k.key) m`);
  return new Map<string | null, string>([[null, ""], ...rows.map((r) => [r.key, r.mark] as const)]);
}
