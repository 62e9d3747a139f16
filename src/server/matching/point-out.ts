import { z } from "zod";
import { openStates } from "#core/arrivals/journey.ts";
import type { ArrivalId } from "#core/shared/brand.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import type { Reading } from "#core/reading/reading.ts";
import { withLockedArrival } from "../arrivals/with-locked-arrival.ts";
import type { Actor } from "../people/load-actor.ts";
import { fieldOfProperty, learn } from "./learn-from-filing.ts";
import { loadArrivalReading } from "./suggest-for.ts";
import { startingWeights } from "#core/matching/match-weights.ts";
import { now } from "../ports/clock.ts";
import { arrivalReading } from "./tables.ts";

const boxSchema = z.tuple([z.number(), z.number(), z.number().positive(), z.number().positive()]);
/** What a person pointed at on the pages of an arrival: of a property its value, and where it stands. */
export const pointedSchema = z.object({
  places: z
    .array(z.object({ property: z.string().max(40), value: z.string().min(1).max(300), page: z.number().int().min(1), box: boxSchema }))
    .min(1)
    .max(40),
});
export type PointedOut = z.infer<typeof pointedSchema>;

/**
 * Puts readings of an arrival right as a person pointed them out. They stay when it is read again, and its sender's layout is learnt from them at once.
 * Twice is once. Refuses not-found, not-allowed, stale.
 */
export async function pointOut(actor: Actor, id: ArrivalId, { places }: PointedOut): Promise<Result<{ learnt: number }>> {
  return withLockedArrival(actor, id, async (tx, row) => {
    if (!(openStates as readonly string[]).includes(row.state)) return refuse("stale");
    const kept = await loadArrivalReading(tx, id);
    const pointed = places.flatMap(({ property, value, page, box }) => {
      const field = fieldOfProperty[property];
      return field ? [{ field, value, page, box }] : [];
    });
    const said = pointed.map(({ field, value, page, box }): Reading => ({
      field,
      value,
      certainty: 1,
      page,
      box,
      text: value,
      label: null,
      others: [],
      from: "person",
    }));
    const before = (Array.isArray(kept?.readings) ? kept.readings : []) as readonly Reading[];
    const learnt = await learn(
      tx,
      id,
      pointed.map(({ field, value, page, box }) => ({ field, value, pointed: { page, box } })),
      () => ({ madeAt: now(), madeBy: actor.id }),
      null,
    );
    const readings = [...before.filter((r) => !said.some((s) => s.field === r.field)), ...said];
    await tx
      .insert(arrivalReading)
      .values({ arrivalId: id, readings, weightsVersion: startingWeights.version, madeAt: now() })
      .onConflictDoUpdate({ target: arrivalReading.arrivalId, set: { readings } });
    return ok({ learnt });
  });
}
