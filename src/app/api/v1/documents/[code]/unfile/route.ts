import { parseDocumentCode } from "#core/shared/brand.ts";
import { refuse } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { unfile } from "#server/documents/unfile.ts";

export const POST = door("unfile", async ({ actor, params }) => {
  const code = parseDocumentCode(params.code);
  return code ? unfile(actor, code) : refuse("not-found");
});
