import { door } from "#server/api/door.ts";
import { endScanWish } from "#server/ways-in/scan-wish.ts";

export const POST = door("endScanWish", ({ actor, params }) => endScanWish(actor, params.id));
