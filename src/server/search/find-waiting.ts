import { sql } from "drizzle-orm";
import { openStates } from "#core/arrivals/journey.ts";
import { makeSnippet, type SnippetPart } from "#core/search/make-snippet.ts";
import { parseFind, tsqueryOf } from "#core/search/parse-find.ts";
import { arrivalFilter } from "../access/filters.ts";
import { db } from "../db/connect.ts";
import { textArray } from "../db/sql-arrays.ts";
import type { Actor } from "../people/load-actor.ts";

/** An arrival that is not filed yet and has the words that were looked for. */
export interface WaitingHit {
  readonly id: string;
  readonly fileName: string;
  readonly kind: string | null;
  readonly queue: string;
  readonly state: string;
  readonly receivedAt: string;
  readonly snippet: readonly SnippetPart[];
}

/** Arrivals listed beside the documents found; of more only the number is said. */
const SHOWN_MAX = 20;
/** Characters of a text fetched for its snippet. */
const SNIPPET_FROM = 60_000;

/** Arrivals that wait and have all the words, newest first, and how many there are. Only what the person may see; nothing without words. */
export async function findWaiting(
  actor: Actor,
  wish: { readonly q: string; readonly company?: string | undefined },
): Promise<{ readonly items: readonly WaitingHit[]; readonly total: number }> {
  const asked = parseFind(wish.q);
  const query = tsqueryOf(asked);
  if (query === "") return { items: [], total: 0 };
  const { rows } = await db().execute<{
    id: string;
    file_name: string;
    kind: string | null;
    queue: string;
    state: string;
    received_at: Date;
    body: string | null;
    total: number;
  }>(sql`select arrival.id, arrival.file_name, c.kind, arrival.queue, arrival.state, arrival.received_at, left(c.body, ${SNIPPET_FROM}) as body,
      count(*) over () as total
    from search_waiting w join arrival on arrival.id = w.arrival_id join content c on c.sha256 = arrival.sha256
    where w.tsv @@ to_tsquery('simple', ${query}) and arrival.state = any(${textArray(openStates)}::text[])
      and ${wish.company === undefined ? sql`true` : sql`(arrival.company is null or arrival.company = ${wish.company})`} and ${await arrivalFilter(actor)}
    order by arrival.received_at desc, arrival.number desc limit ${SHOWN_MAX}`);
  return {
    items: rows.map((r) => ({
      id: r.id,
      fileName: r.file_name,
      kind: r.kind,
      queue: r.queue,
      state: r.state,
      receivedAt: new Date(r.received_at).toISOString(),
      snippet: makeSnippet(r.body ?? "", asked).parts,
    })),
    total: Number(rows[0]?.total ?? 0),
  };
}
