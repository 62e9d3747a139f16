import { listMissing, type MissingWish } from "../checklists/list-missing.ts";
import type { Actor } from "../people/load-actor.ts";
import { csvOf } from "./csv.ts";

const columns = ["company", "type", "key", "title", "account", "answers", "item", "state", "dueOn", "expiresOn"] as const;
/** Records fetched in one go. */
const PAGE = 200;

/** What is missing as CSV, a line for each item, streamed page by page. */
export function missingCsv(actor: Actor, wish: Omit<MissingWish, "limit" | "offset">): Response {
  return csvOf(`${wish.view}.csv`, columns, rows(actor, wish));
}

async function* rows(
  actor: Actor,
  wish: Omit<MissingWish, "limit" | "offset">,
): AsyncGenerator<Readonly<Record<(typeof columns)[number], unknown>>> {
  for (let offset = 0; ;) {
    const page = await listMissing(actor, { ...wish, limit: PAGE, offset });
    for (const r of page.items)
      for (const i of r.items)
        yield {
          company: r.company,
          type: r.type,
          key: r.key,
          title: r.title,
          account: r.parent?.title ?? "",
          answers: r.responsible?.name ?? "",
          item: i.label,
          state: i.state,
          dueOn: i.dueOn ?? "",
          expiresOn: i.expiresOn ?? "",
        };
    if (page.next === null) return;
    offset = Number(page.next);
  }
}
