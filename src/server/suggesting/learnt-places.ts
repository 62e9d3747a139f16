import { desc, eq } from "drizzle-orm";
import type { SeenPlace } from "#core/reading/learn-layout.ts";
import { readingFields } from "#core/reading/reading.ts";
import { z } from "zod";
import type { Tx } from "../db/connect.ts";
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
