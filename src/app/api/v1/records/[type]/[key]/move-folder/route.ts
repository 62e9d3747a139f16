import { door } from "#server/api/door.ts";
import { moveRecordFolder } from "#server/records/move-record-folder.ts";

export const POST = door("moveRecordFolder", ({ actor, params, query }) => moveRecordFolder(actor, params.type, params.key, query.company));
