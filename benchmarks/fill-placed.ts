import { lstatSync, mkdirSync, writeFileSync } from "node:fs";
import path from "node:path";
import type pg from "pg";

const FOLDERS_OF_ACCOUNT = 50;

/** Bookings beneath accounts with five placed documents each, in the tables and as files on disk, as filing would have left them. */
export async function fillPlaced(client: pg.Client, root: string, folders: number): Promise<void> {
  const accounts = Math.ceil(folders / FOLDERS_OF_ACCOUNT);
  const clerk = (await client.query<{ id: string }>(`select id from "user" order by id limit 1`)).rows[0]?.id;
  const record = "company, type, key, title, date, fields, above_id, key_folded, title_folded, lookup_text";
  await client.query(
    `insert into record (${record}) select 'MF', 'customerAccount', 'BC-' || g, 'Bench ' || g, null, jsonb_build_object('name', 'Bench ' || g), null, 'bc' || g, 'bench ' || g, 'bench ' || g
     from generate_series(1, $1::int) g`,
    [accounts],
  );
  await client.query(
    `insert into record (${record}) select 'MF', 'freightBooking', 'BB-' || g, 'Booking ' || g, date '2020-01-01' + (g % 2200), jsonb_build_object('sailingDate', to_char(date '2020-01-01' + (g % 2200), 'YYYY-MM-DD')),
       (select id from record a where a.company = 'MF' and a.type = 'customerAccount' and a.key = 'BC-' || (1 + g % $2::int)), 'bb' || g, 'booking ' || g, 'booking ' || g
     from generate_series(1, $1::int) g`,
    [folders, accounts],
  );
  await client.query(
    `insert into folder (record_id, connection, path, path_folded, rule_stamp) select id, 'companyFolders', 'Customers/' || title || ' ' || key, lower('Customers/' || title || ' ' || key), ''
     from record where key like 'BC-%'`,
  );
  await client.query(
    `insert into folder (record_id, connection, path, path_folded, rule_stamp)
     select r.id, 'companyFolders', f.path || '/Bookings/' || to_char(r.date, 'YYYY') || '/' || r.key, f.path_folded || '/bookings/' || to_char(r.date, 'YYYY') || '/' || lower(r.key), ''
     from record r join folder f on f.record_id = r.above_id where r.key like 'BB-%'`,
  );
  const rows = (
    await client.query<{ id: number; path: string }>(
      "select f.id, f.path from folder f join record r on r.id = f.record_id where r.key like 'BB-%' order by f.id",
    )
  ).rows;
  const made: { folder: number; name: string; bytes: number; modified: number }[] = [];
  for (const f of rows) {
    mkdirSync(path.join(root, f.path), { recursive: true });
    for (let n = 1; n <= 5; n++) {
      const file = path.join(root, f.path, `Letter ${n}.txt`);
      writeFileSync(file, `${f.id} ${n}`);
      const s = lstatSync(file);
      made.push({ folder: f.id, name: `Letter ${n}.txt`, bytes: s.size, modified: Math.trunc(s.mtimeMs) });
    }
  }
  await client.query(
    "create temp table made as select row_number() over () as n, (x->>'folder')::bigint as folder, x->>'name' as name, (x->>'bytes')::bigint as bytes, (x->>'modified')::bigint as modified from jsonb_array_elements($1::jsonb) x",
    [JSON.stringify(made)],
  );
  await client.query(
    "insert into access_class (company, document_type, confidential, record_types) values ('MF', 'letter', false, array['freightBooking']) on conflict do nothing",
  );
  await client.query("alter table made add id bigint");
  await client.query("update made set id = nextval('document_id_seq')");
  await client.query(
    "insert into content (sha256, size_bytes, state) select encode(sha256(('stored' || id)::bytea), 'hex'), bytes, 'read' from made",
  );
  await client.query(
    `insert into document (id, code, company, document_type, title, properties, confidential, acl_id, document_date, filed_at, filed_by)
     select id, 'AC-' || lpad(id::text, 6, '0'), 'MF', 'letter', regexp_replace(name, '\\.txt$', ''), '{}', false,
       (select a.id from access_class a where a.company = 'MF' and a.document_type = 'letter' and a.record_types = array['freightBooking'] and not a.confidential), now(), now(), $1 from made`,
    [clerk],
  );
  await client.query(
    "insert into document_version (document_id, number, sha256, file_name, made_at, made_by) select id, 1, encode(sha256(('stored' || id)::bytea), 'hex'), name, now(), $1 from made",
    [clerk],
  );
  await client.query(
    "insert into clip (document_id, record_id, position, made_at, made_by) select m.id, f.record_id, 0, now(), $1 from made m join folder f on f.id = m.folder",
    [clerk],
  );
  await client.query(
    `insert into placement (document_id, folder_id, name, name_folded, state, sha256, checked_at, seen_bytes, seen_modified_ms, seen_mark)
     select id, folder, name, lower(name), 'stored', encode(sha256(('stored' || id)::bytea), 'hex'), now(), bytes, modified, '' from made`,
  );
  await client.query("drop table made");
  await client.query("vacuum analyze");
}
