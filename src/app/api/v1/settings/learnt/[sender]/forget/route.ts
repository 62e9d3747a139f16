import { door } from "#server/api/door.ts";
import { forgetLearnt } from "#server/matching/learnt.ts";

export const POST = door("forgetLearnt", ({ actor, params }) => forgetLearnt(actor, params.sender));
