import { door } from "#server/api/door.ts";
import { listJunkSenders } from "#server/arrivals/junk.ts";

export const GET = door("junkSenders", ({ actor }) => listJunkSenders(actor));
