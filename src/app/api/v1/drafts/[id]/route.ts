import { ok, refuse } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { loadDraft } from "#server/drafts/list-drafts.ts";

export const GET = door("draft", async ({ actor, params }) => {
  const found = await loadDraft(actor, params.id);
  return found ? ok(found) : refuse("not-found");
});
