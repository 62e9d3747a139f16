import type pg from "pg";
import { loadChecklists } from "#server/checklists/load-rules.ts";
import { idsAfter } from "#server/checklists/manage-rules.ts";
import { recheck } from "#server/checklists/refresh-completeness.ts";
import type { Call } from "./call.ts";
import { print, seconds, short, timed } from "./measure.ts";

const TIMES = 100;
/** Papers beneath the busy account. */
const BENEATH = 5000;
/** Records looked at in one go, as the job does it. */
const CHUNK = 2000;

/**
 * A record's page, its chain, what is beneath an account, the worklist and the table of records over HTTP among many records, against the bare SQL of the
 * same question in the same run; how soon completeness follows a clip; how many records a second are looked at anew.
 */
export async function benchRecordPapers(call: Call, client: pg.Client, records: number, documents: number): Promise<void> {
  console.error(`Making ${records} records and ${documents} documents`);
  const made = await fill(client, records, documents);
  const rules = await loadChecklists();
  let looked = 0;
  const taken = await seconds(async () => {
    for (let after = made.first - 1; ;) {
      const ids = await idsAfter("freightBooking", after, CHUNK);
      const last = ids.at(-1);
      if (last === undefined) break;
      looked += await recheck(ids, rules);
      after = last;
    }
  });
  print("looking at records anew, first time (all rows written)", { records: looked, perSecond: short(looked / taken) });
  looked = 0;
  const again = await seconds(async () => {
    for (let after = made.first - 1; ;) {
      const ids = await idsAfter("freightBooking", after, CHUNK);
      const last = ids.at(-1);
      if (last === undefined) break;
      looked += await recheck(ids, rules);
      after = last;
    }
  });
  print("looking at records anew, nothing differs", { records: looked, perSecond: short(looked / again) });
  await client.query("vacuum analyze completeness; ");
  await client.query("analyze record; ");
  const followed: number[] = [];
  // Those that lack the temperature log, the third item: a clip of one changes how they stand.
  const lacking = await client.query<{ record_id: string }>(
    "select record_id from completeness where record_id >= $1 and missing & 4 <> 0 order by record_id limit 60",
    [made.first],
  );
  for (const [i, { record_id }] of lacking.rows.entries()) {
    const id = Number(record_id);
    const before = (await client.query<{ missing: string }>("select missing from completeness where record_id = $1", [id])).rows[0]
      ?.missing;
    const began = performance.now();
    await client.query(
      `with d as (insert into document (code, company, document_type, title, properties, acl_id, document_date, filed_at, filed_by)
        select 'BX-' || $1::bigint || '-' || $2::text, company, 'temperatureLog', 'x', '{}', acl_id, document_date, now(), filed_by from document where id = $3::bigint returning id)
      insert into clip (document_id, record_id, position, made_at, made_by) select id, $1::bigint, 0, now(), 'bench' from d`,
      [id, i, made.firstDocument],
    );
    for (;;) {
      const now = (
        await client.query<{ missing: string; in_hand: string }>("select missing, in_hand from completeness where record_id = $1", [id])
      ).rows[0];
      if (now && (now.missing !== before || now.in_hand !== "0")) break;
      if (performance.now() - began > 5000) throw new Error("completeness did not follow a clip");
    }
    followed.push(performance.now() - began);
  }
  const sorted = [...followed].sort((a, b) => a - b);
  print("completeness after a clip", { p50Ms: short(sorted[30] ?? 0), p95Ms: short(sorted[57] ?? 0) });
  const at = (turn: number): { id: number; key: string } => {
    const id = made.first + ((turn * 104_729) % records);
    return { id, key: `BB-${id}` };
  };
  const papers = (which: string): string => `select d.code, d.title, d.document_type, d.document_date, v.sha256 from document d
    join document_version v on v.document_id = d.id and v.number = d.current_version where d.id in (${which}) order by d.id desc limit 100`;
  await beside("record page", (turn) => call.get(`/records/freightBooking/${at(turn).key}?company=MF`), [
    client,
    (turn) => [
      ["select * from record where id = $1", [at(turn).id]],
      [
        `select (select count(*) from clip where record_id = $1), (select count(*) from clip c join record r on r.id = c.record_id where r.chain_id = (select chain_id from record where id = $1)),
          (select count(*) from beneath_document where record_id = $1)`,
        [at(turn).id],
      ],
      ["select type, key, title, date from record where chain_id = (select chain_id from record where id = $1)", [at(turn).id]],
      ["select * from completeness where record_id = $1", [at(turn).id]],
      ["select * from folder where record_id = $1", [at(turn).id]],
    ],
  ]);
  await beside(
    "papers of its chain",
    (turn) => call.get(`/records/freightBooking/${at(turn).key}/documents?company=MF&scope=chain&limit=100`),
    [
      client,
      (turn) => [
        [
          papers(
            "select c.document_id from clip c join record r on r.id = c.record_id where r.chain_id = (select chain_id from record where id = $1)",
          ),
          [at(turn).id],
        ],
      ],
    ],
  );
  await beside(
    `first screen of ${BENEATH} papers beneath`,
    () => call.get(`/records/customerAccount/BA-BUSY/documents?company=MF&scope=beneath&limit=100`),
    [client, () => [[papers("select document_id from beneath_document where record_id = $1"), [made.busy]]]],
  );
  await beside("worklist", (turn) => call.get(`/checklists/missing?type=freightBooking&company=MF&limit=50&cursor=${(turn % 10) * 50}`), [
    client,
    (turn) => [
      [
        `select r.key, r.title, a.title as above, c.* from (select * from completeness where type = 'freightBooking' and company = 'MF' and missing <> 0
          order by due_on nulls last, record_id limit 50 offset $1) c join record r on r.id = c.record_id left join record a on a.id = r.above_id`,
        [(turn % 10) * 50],
      ],
    ],
  ]);
  await beside(
    "table of records with completeness",
    (turn) => call.get(`/records?type=freightBooking&company=MF&limit=60&cursor=${(turn % 10) * 60}`),
    [
      client,
      (turn) => [
        [
          `select r.*, a.title as above, k.applies, k.missing from record r left join record a on a.id = r.above_id left join completeness k on k.record_id = r.id
          where r.type = 'freightBooking' and r.company = 'MF' order by r.used_at desc limit 60 offset $1`,
          [(turn % 10) * 60],
        ],
        ["select count(*) from record where type = 'freightBooking' and company = 'MF'", []],
      ],
    ],
  );
}

type Statements = readonly (readonly [text: string, values: readonly unknown[]])[];
async function beside(
  what: string,
  ours: (turn: number) => Promise<unknown>,
  [client, bare]: readonly [pg.Client, (turn: number) => Statements],
): Promise<void> {
  const took = await timed(TIMES, ours);
  const took2 = await timed(TIMES, async (turn) => {
    for (const [i, [text, values]] of bare(turn).entries()) await client.query({ name: `${what} ${i}`, text, values: [...values] });
  });
  print(what, { p50Ms: took.p50, p95Ms: took.p95, bareP50Ms: took2.p50, bareP95Ms: took2.p95, timesBareP50: short(took.p50 / took2.p50) });
}

/** Bookings beneath accounts, three in a chain, with two papers each, straight in the tables; one account with many papers. */
async function fill(
  client: pg.Client,
  records: number,
  documents: number,
): Promise<{ readonly first: number; readonly firstDocument: number; readonly busy: number }> {
  const person = (await client.query<{ id: string }>(`select id from "user" order by id limit 1`)).rows[0]?.id;
  const common = "key_folded, title_folded, lookup_text, used_at, references_version";
  await client.query(
    `insert into record (company, type, key, title, fields, ${common}) select 'MF', 'customerAccount', case g when 1 then 'BA-BUSY' else 'BA-' || g end, 'Account ' || g, '{"currency":"GBP"}', 'ba' || g, 'account ' || g, 'ba' || g, now(), 9 from generate_series(1, 5000) g`,
  );
  const first = Number((await client.query<{ n: string }>("select max(id) + 1 as n from record")).rows[0]?.n);
  const accounts = first - 5000;
  await client.query(
    `insert into record (id, company, type, key, title, status, date, fields, above_id, chain_id, ${common})
     select g, 'MF', 'freightBooking', 'BB-' || g, 'Account booking ' || g || case when g % 10 = 0 then ', chilled' else '' end, 'sailed', date '2026-10-20' + (g % 60)::int,
       jsonb_build_object('sailingDate', to_char(date '2026-10-20' + (g % 60)::int, 'YYYY-MM-DD'), 'vessel', 'MV Bench', 'total', (g % 9000) || '.00', 'description', case when g % 10 = 0 then 'chilled trailers' else 'timber' end),
       $1::bigint + 1 + g % 4999, g - g % 3, 'bb' || g, 'account booking ' || g, 'bb' || g || ' account booking', now() - g * interval '1 second', 9
     from generate_series($2::bigint, $3::bigint) g`,
    [accounts, first, first + records - 1],
  );
  await client.query("select setval(pg_get_serial_sequence('record', 'id'), $1)", [first + records]);
  // Thirty files that all of them share: what is measured does not look into them.
  const hashes = (await client.query<{ sha256: string }>("select sha256 from content where kind = 'pdf' limit 30")).rows.map(
    (r) => r.sha256,
  );
  const firstDocument = Number((await client.query<{ n: string }>("select coalesce(max(id), 0) + 1 as n from document")).rows[0]?.n);
  await client.query(
    `insert into access_class (company, document_type, confidential, record_types) select 'MF', t, false, array['freightBooking'] from unnest(array['bookingRequest','packingList','loadingList']) t on conflict do nothing`,
  );
  await client.query(
    "create temp table made as select g as id, (array['bookingRequest','packingList','loadingList'])[1 + g % 3] as type, case when g - $1::bigint < $4::bigint then $5::bigint + ((g - $1) * 4999) % $3::bigint else $5::bigint + (g * 7919) % $3::bigint end as record_id from generate_series($1::bigint, $1::bigint + $2::bigint - 1) g",
    [firstDocument, documents, records, BENEATH, first],
  );
  await client.query(
    `insert into document (id, code, company, document_type, title, properties, acl_id, document_date, filed_at, filed_by)
     select m.id, 'BN-' || m.id, 'MF', m.type, m.type || ' ' || m.id, case m.type when 'loadingList' then '{"signed":true}'::jsonb else '{}' end, a.id, date '2026-11-01', now(), $1
     from made m join access_class a on a.company = 'MF' and a.document_type = m.type and a.record_types = array['freightBooking'] and not a.confidential`,
    [person],
  );
  await client.query("select setval('document_id_seq', $1)", [firstDocument + documents]);
  await client.query(
    "insert into document_version (document_id, number, sha256, file_name, made_at, made_by) select id, 1, ($1::text[])[1 + id % $2], 'x.pdf', now(), $3 from made",
    [hashes, hashes.length, person],
  );
  await client.query("insert into clip (document_id, record_id, position, made_at, made_by) select id, record_id, 0, now(), $1 from made", [
    person,
  ]);
  await client.query(
    `insert into beneath_document (record_id, document_id, acl_id) select x.id, m.id, d.acl_id from made m join document d on d.id = m.id join record r on r.id = m.record_id
       cross join lateral (values (r.id), (r.above_id)) x(id)`,
  );
  await client.query(
    `insert into beneath_document (record_id, document_id, acl_id) select $1, m.id, d.acl_id from made m join document d on d.id = m.id where m.id < $2 on conflict do nothing`,
    [accounts, firstDocument + BENEATH],
  );
  // Marks that this left are worked off by the measurement itself.
  await client.query("truncate completeness_due");
  await client.query("vacuum analyze");
  return { first, firstDocument, busy: accounts };
}
