import { parseArrivalId } from "#core/shared/brand.ts";
import { refuse } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { fileWithoutSheets } from "#server/codes/file-without-sheets.ts";
import { fileAway } from "#server/documents/file-away.ts";

export const POST = door("fileArrival", async ({ actor, params, body, mayBeRepeat }) => {
  const id = parseArrivalId(params.id);
  return id ? fileWithoutSheets(actor, id, (pages) => fileAway(actor, pages, body, { mayBeRepeat })) : refuse("not-found");
});
