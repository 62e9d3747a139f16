import { parseArrivalId } from "#core/shared/brand.ts";
import { presentations } from "#core/shared/refusals.ts";
import type { Actor } from "../people/load-actor.ts";
import { readAgain, restore, setAside } from "./change-state.ts";

const acts = { setAside, restore, readAgain: (actor: Actor, id: Parameters<typeof readAgain>[1]) => readAgain(actor, id) } as const;

/** The same change to many arrivals, one after the other; what cannot be done is listed with its reason, the rest is done. */
export async function changeMany(
  actor: Actor,
  ids: readonly string[],
  action: keyof typeof acts,
  reason: string,
): Promise<{ done: number; failures: readonly { what: string; why: string }[] }> {
  const failures: { what: string; why: string }[] = [];
  let done = 0;
  for (const text of new Set(ids)) {
    const id = parseArrivalId(text);
    const result = id ? await acts[action](actor, id, reason) : null;
    if (result?.ok) done++;
    else failures.push({ what: text, why: presentations[result ? result.refusal.code : "not-found"].title });
  }
  return { done, failures };
}
