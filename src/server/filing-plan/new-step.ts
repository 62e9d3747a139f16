import type { Place } from "#core/filing-plan/assign-places.ts";
import type { MoveStep } from "#core/filing-plan/order-moves.ts";
import type { moveStep } from "./tables.ts";

/** A step before it is kept. */
export type NewStep = Omit<typeof moveStep.$inferInsert, "planId" | "position">;

export interface Spot {
  readonly connection: string;
  readonly path: string;
}

export const placeAt = (connection: string, path: string, fold: (path: string) => string): Place => ({
  path,
  folded: `${connection}/${fold(path)}`,
});

/** From where to where a step goes: straight, or over a temporary name beside the place it leaves. */
export function betweenOf(step: MoveStep, from: Spot, to: Spot, planId: string): readonly [Spot, Spot] {
  if (step.kind === "straight") return [from, to];
  const aside = { connection: from.connection, path: asidePath(planId, from.path, step.id) };
  return step.kind === "in" ? [aside, to] : [from, aside];
}

/** A temporary name beside a place, the same each time it is asked for. */
function asidePath(planId: string, path: string, id: number): string {
  const cut = path.lastIndexOf("/");
  const name = `.${planId.slice(0, 24)}${id.toString(16).padStart(12, "0").slice(-12)}.moving`;
  return cut === -1 ? name : `${path.slice(0, cut)}/${name}`;
}
