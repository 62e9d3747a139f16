import { parseDocumentCode } from "#core/shared/brand.ts";
import { refuse } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { putOnShelf } from "#server/repository/shelves.ts";

export const POST = door("shelveDocument", async ({ actor, params, body }) => {
  const code = parseDocumentCode(params.code);
  return code ? putOnShelf(actor, code, body.shelf, body.on) : refuse("not-found");
});
