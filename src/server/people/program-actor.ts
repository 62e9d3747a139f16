import { type Actor, loadPerson } from "./load-actor.ts";
import { parsePersonId } from "#core/shared/brand.ts";
import { PROGRAM } from "../timeline/write-lines.ts";

/** Who stands for the program itself where something has to be said in somebody's name. It has no rights: whoever uses it has made sure of them. */
export function programActor(): Actor {
  return { id: parsePersonId(PROGRAM), name: "Amber Clip", email: "", roles: [], grants: [], queues: [] };
}

/** The program, with the rights that somebody lent it for a queue; null when there is no such person any more. */
export async function programWithRightsOf(personId: string, queueKey: string): Promise<Actor | null> {
  const person = await loadPerson(personId);
  return person ? { ...person, id: parsePersonId(PROGRAM), queues: [...new Set([...person.queues, queueKey])] } : null;
}
