import type { Actor } from "./load-actor.ts";
import { parsePersonId } from "#core/shared/brand.ts";
import { PROGRAM } from "../timeline/write-lines.ts";

/** Who stands for the program itself where something has to be said in somebody's name. It has no rights: whoever uses it has made sure of them. */
export function programActor(): Actor {
  const id = parsePersonId(PROGRAM);
  if (id === null) throw new Error("the program has no name");
  return { id, name: "Amber Clip", email: "", roles: [], grants: [], queues: [] };
}
