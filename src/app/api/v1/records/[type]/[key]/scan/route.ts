import { door } from "#server/api/door.ts";
import { wishScan } from "#server/ways-in/scan-wish.ts";

export const POST = door("wishScan", ({ actor, params, query, body }) =>
  wishScan(actor, { ...params, company: query.company }, body.queue),
);
