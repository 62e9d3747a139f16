import { allowsAnywhere } from "#core/access/grants.ts";
import { ok, refuse } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { listPeople } from "#server/people/load-me.ts";

export const GET = door("people", async ({ actor }) =>
  allowsAnywhere(actor.grants, "manage") ? ok({ items: await listPeople(), next: null }) : refuse("not-allowed"),
);
