import { sql } from "drizzle-orm";
import { referencesIn } from "#core/search/references.ts";
import { wordsOf } from "#core/search/parse-find.ts";
import { db } from "../db/connect.ts";
import { pgCode } from "../db/describe-error.ts";

/** Characters of running text that are searched; a text vector has room for about a megabyte. */
const INDEXED_MAX = 400_000;

type Facts = {
  id: number;
  acl_id: number;
  company: string;
  document_type: string;
  title: string;
  code: string;
  properties: Record<string, unknown>;
  document_date: string | null;
  record_types: string[];
  records: string;
  body: string | null;
} & Record<string, unknown>;

/** Enters a document into Find (or takes it out when it was unfiled). Words are folded by the core, references stand beside them whole. Safe to repeat. */
export async function indexDocument(documentId: number): Promise<void> {
  const found = await db()
    .execute<Facts>(sql`select d.id, d.acl_id, d.company, d.document_type, d.title, d.code, d.properties, d.document_date, a.record_types,
      coalesce((select string_agg(r.key || ' ' || r.title, ' ') from clip c join record r on r.id = c.record_id where c.document_id = d.id), '') as records, left(ct.body, ${INDEXED_MAX}) as body
    from document d join access_class a on a.id = d.acl_id
    join document_version v on v.document_id = d.id and v.number = d.current_version join content ct on ct.sha256 = v.sha256
    where d.id = ${documentId} and d.unfiled_at is null`);
  const row = found.rows[0];
  if (!row) {
    await db().execute(sql`delete from search_document where document_id = ${documentId}`);
    return;
  }
  const values = Object.values(row.properties)
    .filter((v): v is string => typeof v === "string")
    .join(" ");
  const head = `${row.title} ${row.code} ${values}`;
  await db().execute(sql`select ensure_search_partition(${documentId}::bigint)`);
  for (let room = INDEXED_MAX; ; room = Math.floor(room / 2)) {
    const body = (row.body ?? "").slice(0, room);
    try {
      // The document is held while its row is entered: one that is unfiled in this moment must not come back into Find.
      await db().execute(sql`with held as (select id from document where id = ${row.id} and unfiled_at is null for share)
        insert into search_document (document_id, acl_id, company, document_type, record_types, document_date, title, body, tsv)
        select held.id, ${row.acl_id}::int, ${row.company}::text, ${row.document_type}::text, (select record_types from access_class where id = ${row.acl_id}), ${row.document_date}::date, ${row.title}::text, ${body}::text,
          setweight(to_tsvector('simple', ${indexText(head)}), 'A') || setweight(to_tsvector('simple', ${indexText(row.records)}), 'B') || to_tsvector('simple', ${indexText(body)}) from held
        on conflict (document_id) do update set acl_id = excluded.acl_id, company = excluded.company, document_type = excluded.document_type, record_types = excluded.record_types,
          document_date = excluded.document_date, title = excluded.title, body = excluded.body, tsv = excluded.tsv`);
      return;
    } catch (error) {
      // 54000: more different words than a text vector holds. Half of them is better than none.
      if (pgCode(error) !== "54000" || room < 1000) throw error;
    }
  }
}

/** A text as it is indexed: its words folded, and its references whole. */
export function indexText(text: string): string {
  return [...wordsOf(text), ...referencesIn(text)].join(" ");
}
