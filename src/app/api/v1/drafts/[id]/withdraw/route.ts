import { door } from "#server/api/door.ts";
import { withdrawDraft } from "#server/drafts/change-draft.ts";

export const POST = door("withdrawDraft", ({ actor, params }) => withdrawDraft(actor, params.id));
