import { parseDocumentCode } from "#core/shared/brand.ts";
import { ok, refuse } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { changeDocument } from "#server/documents/change-document.ts";
import { loadDocument } from "#server/documents/load-document.ts";

export const GET = door("document", async ({ actor, params }) => {
  const code = parseDocumentCode(params.code);
  const found = code ? await loadDocument(actor, code) : null;
  return found ? ok(found) : refuse("not-found");
});
export const PATCH = door("changeDocument", async ({ actor, params, body }) => {
  const code = parseDocumentCode(params.code);
  return code ? changeDocument(actor, code, body) : refuse("not-found");
});
