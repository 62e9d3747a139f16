import { parseArrivalId } from "#core/shared/brand.ts";
import { refuse } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { fileAsVersion } from "#server/documents/add-version.ts";

export const POST = door("fileAsVersion", async ({ actor, params, body }) => {
  const id = parseArrivalId(params.id);
  return id ? fileAsVersion(actor, id, body.document) : refuse("not-found");
});
