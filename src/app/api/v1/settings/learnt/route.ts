import { door } from "#server/api/door.ts";
import { listLearnt } from "#server/matching/learnt.ts";

export const GET = door("learnt", ({ actor, query }) => listLearnt(actor, query.q));
