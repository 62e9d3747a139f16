import { parseDocumentCode } from "#core/shared/brand.ts";
import { refuse } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { placeAgain } from "#server/documents/place-again.ts";

export const POST = door("placeAgain", async ({ actor, params }) => {
  const code = parseDocumentCode(params.code);
  return code ? placeAgain(actor, code) : refuse("not-found");
});
