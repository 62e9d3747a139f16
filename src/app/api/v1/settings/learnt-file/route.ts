import { door } from "#server/api/door.ts";
import { exportLearnt, importLearnt } from "#server/matching/learnt.ts";

export const GET = door("exportLearnt", ({ actor }) => exportLearnt(actor));
export const POST = door("importLearnt", ({ actor, body }) => importLearnt(actor, body));
