import { parseArrivalId } from "#core/shared/brand.ts";
import { refuse } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { makeDraft } from "#server/drafts/make-draft.ts";

export const POST = door("makeDraft", async ({ actor, params, body }) => {
  const id = parseArrivalId(params.id);
  const made = id ? await makeDraft(actor, id, body) : refuse("not-found");
  return made.ok ? Response.json(made.value, { status: 201 }) : made;
});
