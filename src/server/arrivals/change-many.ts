import { z } from "zod";
import { type ArrivalId, parseArrivalId } from "#core/shared/brand.ts";
import { presentations } from "#core/shared/refusals.ts";
import type { Result } from "#core/shared/result.ts";
import type { Actor } from "../people/load-actor.ts";
import { readAgain, restore, sayType, setAside } from "./change-state.ts";
import { fileAsSuggested } from "../matching/file-as-suggested.ts";
import { handOver } from "./hand-over.ts";

/** The same change to many arrivals. */
export const manySchema = z.object({
  ids: z.array(z.uuid()).min(1).max(500),
  action: z.enum(["setAside", "restore", "readAgain", "handOver", "documentType", "fileSure"]),
  reason: z.string().trim().max(300).default(""),
  /** With setAside: it is junk, and so is what its sender sends. */
  junk: z.boolean().default(false),
  person: z.string().max(80).optional(),
  queue: z.string().max(40).optional(),
  documentType: z.string().max(40).default(""),
});
export type ManyWish = z.infer<typeof manySchema>;

const filedSchema = z.looseObject({ code: z.string() });

const acts: Readonly<Record<ManyWish["action"], (actor: Actor, id: ArrivalId, wish: ManyWish) => Promise<Result<unknown>>>> = {
  setAside: (actor, id, wish) => setAside(actor, id, wish.reason, wish.junk),
  restore: (actor, id, wish) => restore(actor, id, wish.reason),
  readAgain: (actor, id) => readAgain(actor, id),
  handOver: (actor, id, wish) => handOver(actor, id, { person: wish.person, queue: wish.queue, word: wish.reason }),
  /** Files those that the program is sure of, and no others. */
  fileSure: (actor, id) => fileAsSuggested(actor, id),
  documentType: (actor, id, wish) => sayType(actor, id, wish.documentType),
};

/** Does it to one after the other; what cannot be done is listed with its reason, the rest is done. */
export async function changeMany(
  actor: Actor,
  wish: ManyWish,
): Promise<{ done: number; filed: readonly string[]; failures: readonly { what: string; why: string }[] }> {
  const failures: { what: string; why: string }[] = [];
  const filed: string[] = [];
  let done = 0;
  for (const text of new Set(wish.ids)) {
    const id = parseArrivalId(text);
    const result = id ? await acts[wish.action](actor, id, wish) : null;
    if (result?.ok) {
      done++;
      // What was filed can be taken back by its code.
      const made = filedSchema.safeParse(result.value);
      if (wish.action === "fileSure" && made.success) filed.push(made.data.code);
    } else
      failures.push({
        what: text,
        why: result
          ? [presentations[result.refusal.code].title, result.refusal.code === "claimed" ? result.refusal.detail : ""]
              .filter(Boolean)
              .join(": ")
          : presentations["not-found"].title,
      });
  }
  return { done, filed, failures };
}
