import { door } from "#server/api/door.ts";
import { loadLearnt } from "#server/matching/learnt.ts";

export const GET = door("learntOf", ({ actor, params }) => loadLearnt(actor, params.sender));
