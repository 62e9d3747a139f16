import { allowsAnywhere } from "#core/access/grants.ts";
import { ok, refuse } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { loadOurNumbers, saveOurNumbers } from "#server/matching/load-ourselves.ts";

export const GET = door("ourNumbers", async ({ actor }) =>
  allowsAnywhere(actor.grants, "manage") ? ok({ items: await loadOurNumbers() }) : refuse("not-allowed"),
);
export const PUT = door("putOurNumbers", ({ actor, body }) => saveOurNumbers(actor, body.numbers));
