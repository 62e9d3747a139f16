import { ok } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { listDrafts } from "#server/drafts/list-drafts.ts";

export const GET = door("drafts", async ({ actor, query }) =>
  ok({ items: await listDrafts(actor, { states: query.state, mine: query.mine === "1", limit: query.limit }), next: null }),
);
