import type pg from "pg";

/** Words that the made documents are written with; the first are common, the last are rare. */
export const words = Array.from({ length: 4000 }, (_, i) => `word${i.toString(36)}`);

/**
 * Makes documents straight in the tables, as filing would leave them: content with text, document, version, clip, placement, the row of
 * Find, and what is maintained. About 1.5 KB of text each; documents are spread over all records, one in twenty on one busy account.
 */
export async function fillMany(client: pg.Client, documents: number): Promise<void> {
  const clerk = (await client.query<{ id: string }>(`select id from "user" order by id limit 1`)).rows[0]?.id;
  const first = Number((await client.query<{ n: string }>("select coalesce(max(id), 0) + 1 as n from document")).rows[0]?.n);
  const last = first + documents - 1;
  for (let at = first; at <= last + 65_536; at += 65_536) await client.query("select ensure_search_partition($1)", [at]);
  await client.query("create temp table words (n serial, word text)");
  await client.query("insert into words (word) select unnest($1::text[])", [words]);
  await client.query("create index on words (n)");
  await client.query(
    `create temp table busy as select id from record where company = 'MF' and type = 'purchaseOrder' order by id limit 40`,
  );
  await client.query(
    `create temp table spread as select row_number() over (order by id) - 1 as n, id, company, type from record where type in ('purchaseOrder','freightBooking','supplierInvoice','salesInvoice')`,
  );
  const records = Number((await client.query<{ n: string }>("select count(*) as n from spread")).rows[0]?.n);
  const CHUNK = 10_000;
  for (let at = first; at <= last; at += CHUNK) {
    const to = Math.min(last, at + CHUNK - 1);
    await client.query("begin");
    // Squaring a chance makes the first words common and the last rare, as in any language.
    await client.query(
      `create temp table made on commit drop as
       select g.id, encode(sha256(('bench' || g.id)::bytea), 'hex') as sha, s.id as record_id, s.company, s.type, date '2019-01-01' + (g.id % 2800)::int as day,
         (select string_agg(w.word, ' ') from (select 1 + floor(power(random(), 3) * 4000)::int as n from generate_series(1, 210) where g.id > 0) k join words w using (n)) as body
       from generate_series($1::bigint, $2::bigint) g(id)
       join lateral (select * from spread where n = case when g.id % 20 = 0 then (g.id / 20) % 40 else g.id % $3 end) s on true`,
      [at, to, records],
    );
    await client.query(
      `insert into content (sha256, size_bytes, kind, media_type, state, pages, body, read_at) select sha, 4000, 'pdf', 'application/pdf', 'read', 1, body, now() from made`,
    );
    await client.query(
      `insert into access_class (company, document_type, confidential, record_types) select distinct company, 'letter', false, array[type] from made on conflict do nothing`,
    );
    await client.query(
      `insert into document (id, code, company, document_type, title, properties, confidential, acl_id, document_date, filed_at, filed_by)
       select m.id, 'AC-' || lpad(m.id::text, 6, '0'), m.company, 'letter', 'Letter ' || m.id, '{}', false, a.id, m.day, m.day + time '12:00', $1
       from made m join access_class a on a.company = m.company and a.document_type = 'letter' and a.record_types = array[m.type] and not a.confidential`,
      [clerk],
    );
    await client.query(
      `insert into document_version (document_id, number, sha256, file_name, made_at, made_by) select id, 1, sha, 'letter.pdf', now(), $1 from made`,
      [clerk],
    );
    await client.query(
      `insert into clip (document_id, record_id, position, made_at, made_by) select id, record_id, 0, now(), $1 from made`,
      [clerk],
    );
    await client.query(
      `insert into folder (record_id, connection, path, path_folded, rule_stamp) select distinct record_id, 'companyFolders', 'Bench/' || record_id, 'bench/' || record_id, ''
       from made m where not exists (select from record_folder r where r.record_id = m.record_id and r.is_own) on conflict do nothing`,
    );
    await client.query(
      `insert into placement (document_id, folder_id, name, name_folded, state, sha256, checked_at)
       select m.id, f.id, m.id || '.pdf', m.id || '.pdf', 'stored', m.sha, now() from made m join folder f on f.record_id = m.record_id and f.kind = 'record'`,
    );
    await client.query(
      `insert into beneath_document (record_id, document_id, acl_id)
       select r.id, m.id, d.acl_id from made m join document d on d.id = m.id join record c on c.id = m.record_id join record r on r.id in (c.id, c.above_id)`,
    );
    await client.query(
      `insert into search_document (document_id, acl_id, company, document_type, record_types, document_date, title, body, tsv)
       select m.id, d.acl_id, m.company, 'letter', array[m.type], m.day, 'Letter ' || m.id, m.body, to_tsvector('simple', m.body) from made m join document d on d.id = m.id`,
    );
    await client.query("commit");
  }
  await client.query("select setval('document_id_seq', $1)", [last]);
  await client.query("update record set document_count = (select count(*) from clip where clip.record_id = record.id)");
  await client.query("vacuum analyze");
}
