import { type RecordsWish, listRecords } from "../records/list-records.ts";
import type { Actor } from "../people/load-actor.ts";
import type { SQL } from "drizzle-orm";
import { csvOf } from "./csv.ts";

const columns = [
  "company",
  "type",
  "key",
  "title",
  "status",
  "date",
  "amount",
  "currency",
  "account",
  "papers",
  "checklistDone",
  "checklistOf",
  "missing",
] as const;
/** Records fetched in one go. */
const PAGE = 500;

/** Records of a filter as CSV, streamed page by page. */
export function recordsCsv(actor: Actor, wish: Omit<RecordsWish, "limit" | "offset">, seenDocuments: SQL): Response {
  return csvOf(`${wish.type}.csv`, columns, rows(actor, wish, seenDocuments));
}

async function* rows(
  actor: Actor,
  wish: Omit<RecordsWish, "limit" | "offset">,
  seenDocuments: SQL,
): AsyncGenerator<Readonly<Record<(typeof columns)[number], unknown>>> {
  for (let offset = 0; ; offset += PAGE) {
    const page = await listRecords(actor, { ...wish, limit: PAGE, offset }, seenDocuments);
    for (const { parent, documents, checklist, ...r } of page.items)
      yield {
        ...r,
        account: parent?.title ?? "",
        papers: documents,
        checklistDone: checklist?.done ?? "",
        checklistOf: checklist?.of ?? "",
        missing: checklist?.missing ?? "",
      };
    if (page.items.length < PAGE) return;
  }
}
