import { sql } from "drizzle-orm";
import { learnTypes, tellingWords, type TypeModel } from "#core/reading/judge-type.ts";
import { db } from "../db/connect.ts";
import { keptInMemory } from "../settings/kept.ts";

/** Documents of each type that are learnt from, the latest. */
const PAPERS_EACH = 40;
/** The model is made again after this, ms: what was filed meanwhile counts from then on. */
const STALE_MS = 5 * 60_000;

let kept: { readonly at: number; readonly model: Promise<TypeModel> } | null = null;
keptInMemory(forgetTypeModel);

/** What the latest documents of each document type look like; kept in the process for a while. Documents whose type nobody said are left out. */
export function loadTypeModel(): Promise<TypeModel> {
  const at = performance.now();
  if (kept === null || at - kept.at > STALE_MS) {
    const model = makeModel();
    kept = { at, model };
    // A failure is tried again at the next document.
    model.catch(() => (kept = null));
  }
  return kept.model;
}

/** Forgets the model, so that the next document is judged by what is filed now. */
export function forgetTypeModel(): void {
  kept = null;
}

async function makeModel(): Promise<TypeModel> {
  const rows = await db().execute<{ type: string; body: string | null; sender: string | null; queue: string | null }>(sql`
    select d.document_type as type, left(c.body, 4000) as body, a.sender, a.queue
    from document_type t
    cross join lateral (select id, document_type, current_version from document where document_type = t.key and type_said and unfiled_at is null order by id desc limit ${PAPERS_EACH}) d
    join document_version v on v.document_id = d.id and v.number = d.current_version
    join content c on c.sha256 = v.sha256
    left join lateral (select sender, queue from arrival where document_id = d.id order by number desc limit 1) a on true
    order by d.id`);
  return learnTypes(
    rows.rows
      .filter((r) => r.body !== null && r.body !== "")
      .map((r) => ({ type: r.type, words: tellingWords(r.body ?? "", r.sender, r.queue) })),
  );
}
