import { parseArrivalId } from "#core/shared/brand.ts";
import { refuse } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { previewFiling } from "#server/documents/file-away.ts";

export const POST = door("previewFiling", async ({ actor, params, body }) => {
  const id = parseArrivalId(params.id);
  return id ? previewFiling(actor, id, body) : refuse("not-found");
});
