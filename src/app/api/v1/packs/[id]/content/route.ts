import { door } from "#server/api/door.ts";
import { servePack } from "#server/api/serve-pack.ts";

export const GET = door("packContent", ({ actor, params }) => servePack(actor, params.id));
