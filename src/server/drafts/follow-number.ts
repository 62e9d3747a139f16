import { eq } from "drizzle-orm";
import { db } from "../db/connect.ts";
import { moveNow } from "../filing-plan/move-now.ts";
import { loadPerson } from "../people/load-actor.ts";
import { programActor } from "../people/program-actor.ts";
import { record } from "../records/tables.ts";
import { draft } from "./tables.ts";

/** Moves the folder of a record that got its number to where the filing plan has it now; nothing happens where it stands there already. Safe to repeat. */
export async function followNumber(draftId: string): Promise<void> {
  const found = (
    await db().select({ draft, record }).from(draft).innerJoin(record, eq(record.id, draft.recordId)).where(eq(draft.id, draftId))
  )[0];
  if (!found) return;
  const actor = (await loadPerson(found.draft.madeBy)) ?? programActor();
  const moved = await moveNow(actor, "record", `${found.record.key} ${found.record.title}`.slice(0, 120), { recordIds: [found.record.id] });
  // A plan that is under way is waited for: the job is tried again.
  if (!moved.ok) throw new Error(`the folder could not follow: ${moved.refusal.code}`);
}
