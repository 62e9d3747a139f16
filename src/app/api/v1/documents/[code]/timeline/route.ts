import { parseDocumentCode } from "#core/shared/brand.ts";
import { ok, refuse } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { loadDocument } from "#server/documents/load-document.ts";
import { listLines } from "#server/timeline/list-lines.ts";

export const GET = door("documentTimeline", async ({ actor, params }) => {
  const code = parseDocumentCode(params.code);
  const found = code ? await loadDocument(actor, code) : null;
  return found ? ok({ items: await listLines(actor, { documentId: found.id }), next: null }) : refuse("not-found");
});
