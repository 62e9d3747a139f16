import { door } from "#server/api/door.ts";
import { listHandsFree, saveHandsFree } from "#server/hands-free/manage.ts";

export const GET = door("handsFree", ({ actor }) => listHandsFree(actor));
export const PUT = door("putHandsFree", ({ actor, body }) => saveHandsFree(actor, body));
