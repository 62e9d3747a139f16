import { Readable } from "node:stream";
import type { ReadableStream } from "node:stream/web";
import { refuse } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { beginImport } from "#server/records/import-records.ts";

export const POST = door("importRecords", async ({ actor, query, request }) => {
  if (!request.body) return refuse("no-file");
  return beginImport(actor, query.company, query.type, Readable.fromWeb(request.body as ReadableStream));
});
