import { door } from "#server/api/door.ts";
import { suggestPiles } from "#server/bench/suggest-piles.ts";

export const POST = door("suggestPiles", ({ actor, body }) => suggestPiles(actor, body));
