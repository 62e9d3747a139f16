import { door } from "#server/api/door.ts";
import { sendDraftAgain } from "#server/drafts/change-draft.ts";

export const POST = door("sendDraft", ({ actor, params, body }) => sendDraftAgain(actor, params.id, body));
