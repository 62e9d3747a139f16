import type pg from "pg";
import { loadChecklists } from "#server/checklists/load-rules.ts";
import { listMissing } from "#server/checklists/list-missing.ts";
import { listDocumentsOf, loadRecordPage, type Scope } from "#server/records/load-record-page.ts";
import { actorByMail } from "#scenario/set-up/fill-set-up.ts";
import { people } from "#scenario/set-up/people.ts";
import { recheckAll } from "#server/checklists/refresh-completeness.ts";
import type { Call } from "./call.ts";
import { print, seconds, short, timed, timedInTurn, sized } from "./measure.ts";

const TIMES = sized(200, 3);
/** Turns before it is measured: this process has just begun, a server has not. */
const WARM = sized(100, 1);
/** Documents beneath the busy account. */
const BENEATH = sized(5000, 50);

/**
 * A record's page, its chain, what is beneath an account, the worklist and the table of records over HTTP among many records, against the bare SQL of the
 * same question in the same run; how soon completeness follows a clip; how many records a second are looked at again.
 */
export async function benchRecordPapers(call: Call, client: pg.Client, records: number, documents: number): Promise<void> {
  console.error(`Making ${records} records and ${documents} documents`);
  const made = await fill(client, records, documents);
  const rules = (await loadChecklists()).get("freightBooking") ?? [];
  for (const what of ["first time (all rows written)", "nothing differs"]) {
    let looked = 0;
    const taken = await seconds(async () => {
      looked = await recheckAll("freightBooking", rules, async () => {});
    });
    print(`looking at records anew, ${what}`, { records: looked, perSecond: short(looked / taken) });
  }
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
  const actor = await actorByMail(people[0].email);
  const papersOf = async (type: string, key: string, scope: Scope) => {
    const found = await listDocumentsOf(actor, { type, key, company: "MF" }, scope, { limit: 100, before: null });
    if (!found) throw new Error(`no ${key}`);
    return found;
  };
  // What the answer holds, by hand: no rights, no rules, one line to the database.
  const papers = (
    which: string,
  ): string => `select d.code, d.title, d.document_type, d.document_date, d.filed_at, d.properties, u.name, d.current_version, ct.kind, ct.pages,
      p.state, mine.section, mine.note, (select a.source from arrival a where a.document_id = d.id order by a.number limit 1) as source,
      (select json_build_object('type', r.type, 'key', r.key, 'title', r.title) from clip c join record r on r.id = c.record_id where c.document_id = d.id order by c.position limit 1) as "from"
    from document d join document_version v on v.document_id = d.id and v.number = d.current_version join content ct on ct.sha256 = v.sha256
    left join clip mine on mine.document_id = d.id and mine.record_id = $1 left join placement p on p.document_id = d.id left join "user" u on u.id = d.filed_by
    where d.id in (${which}) order by d.id desc limit 101`;
  await beside(client, "record page", {
    http: (turn) => call.get(`/records/freightBooking/${at(turn).key}?company=MF`),
    server: (turn) => loadRecordPage(actor, "freightBooking", at(turn).key, "MF"),
    bare: (turn) => [
      ["select * from record where company = 'MF' and type = 'freightBooking' and key = $1", [at(turn).key]],
      ["select a.type, a.key, a.title from record r join record a on a.id = r.above_id where r.id = $1", [at(turn).id]],
      [
        `select (select count(*) from clip where record_id = $1), (select count(distinct c.document_id) from clip c join record r on r.id = c.record_id where r.chain_id = (select chain_id from record where id = $1)),
          (select count(*) from beneath_document where record_id = $1)`,
        [at(turn).id],
      ],
      [
        `select type, key, title, date, (select count(*) from clip c where c.record_id = record.id) from record where chain_id = (select chain_id from record where id = $1)`,
        [at(turn).id],
      ],
      ["select type, count(*) from record where above_id = $1 group by type", [at(turn).id]],
      ["select * from record_folder f left join placement p on p.folder_id = f.folder_id where f.record_id = $1", [at(turn).id]],
      ["select * from draft where record_id = $1", [at(turn).id]],
      ["select tree from section_template where record_type = 'freightBooking'", []],
      ["select rules from checklist where record_type = 'freightBooking'", []],
      [
        `select d.id, d.code, d.title, d.document_type, d.document_date, d.properties from clip c join document d on d.id = c.document_id
          where c.record_id in (select b.id from record b where b.chain_id = (select chain_id from record where id = $1))`,
        [at(turn).id],
      ],
      ["select * from item_decision where record_id = $1", [at(turn).id]],
      ["select * from own_item where record_id = $1", [at(turn).id]],
    ],
  });
  await beside(client, "documents of its chain", {
    http: (turn) => call.get(`/records/freightBooking/${at(turn).key}/documents?company=MF&scope=chain&limit=100`),
    server: (turn) => papersOf("freightBooking", at(turn).key, "chain"),
    bare: (turn) => [
      ["select * from record where company = 'MF' and type = 'freightBooking' and key = $1", [at(turn).key]],
      [
        papers(
          "select c.document_id from clip c join record r on r.id = c.record_id where r.chain_id = (select chain_id from record where id = $1)",
        ),
        [at(turn).id],
      ],
    ],
  });
  await beside(client, `first screen of ${BENEATH} documents beneath`, {
    http: () => call.get(`/records/customerAccount/BA-BUSY/documents?company=MF&scope=children&limit=100`),
    server: () => papersOf("customerAccount", "BA-BUSY", "children"),
    bare: () => [
      ["select * from record where company = 'MF' and type = 'customerAccount' and key = 'BA-BUSY'", []],
      [papers("select document_id from beneath_document where record_id = $1"), [made.busy]],
    ],
  });
  await beside(client, "first screen of few documents beneath", {
    http: () => call.get(`/records/customerAccount/BA-7/documents?company=MF&scope=children&limit=100`),
    server: () => papersOf("customerAccount", "BA-7", "children"),
    bare: () => [
      ["select * from record where company = 'MF' and type = 'customerAccount' and key = 'BA-7'", []],
      [papers("select document_id from beneath_document where record_id = $1"), [made.busy + 6]],
    ],
  });
  const fifty = (turn: number): number => (turn % 10) * 50;
  await beside(client, "worklist", {
    http: (turn) => call.get(`/checklists/missing?type=freightBooking&company=MF&limit=50&cursor=${fifty(turn)}`),
    server: (turn) => listMissing(actor, { view: "missing", type: "freightBooking", company: "MF", limit: 50, offset: fifty(turn) }),
    bare: (turn) => [
      ["select rules from checklist where record_type = 'freightBooking'", []],
      [
        `with first as (select * from completeness where type = 'freightBooking' and company = 'MF' and missing <> 0 order by due_on nulls last, record_id limit 51 offset $1)
          select r.*, a.title as above, u.name, (select max(m.at) from reminder m where m.record_id = r.id and m.seen_at is null) as reminded,
            (select json_agg(json_build_array(d.id, d.document_type, d.document_date, d.properties)) from clip c join document d on d.id = c.document_id where c.record_id = r.id) as papers,
            (select json_agg(json_build_array(b.type, d.id, d.document_type, d.document_date, d.properties)) from record b left join clip c on c.record_id = b.id
              left join document d on d.id = c.document_id where b.chain_id = r.chain_id and b.id <> r.id) as along
          from first c join record r on r.id = c.record_id left join record a on a.id = r.above_id left join "user" u on u.id = c.responsible_id`,
        [fifty(turn)],
      ],
    ],
  });
  const half = Math.floor(records / 2);
  for (const [what, query, order, from] of [
    ["table of records with completeness", "", "r.used_at desc, r.id desc", 0],
    ["the same, half way down", "", "r.used_at desc, r.id desc", half],
    ["the same by title, half way down", "&sort=title", "r.title_folded, r.id", half],
    ["the same by date, the latest first", "&sort=date&order=down", "r.date desc nulls last, r.id desc", 0],
    ["the same, those that lack something", "&checklist=missing", "r.used_at desc, r.id desc", 0],
  ] as const)
    await beside(client, what, {
      http: (turn) => call.get(`/records?type=freightBooking&company=MF&limit=60&cursor=${from + (turn % 10) * 60}${query}`),
      server: null,
      bare: (turn) => [
        [
          `select r.*, a.title as above, k.applies, k.missing from (select r.id from record r left join completeness k on k.record_id = r.id
              where r.type = 'freightBooking' and r.company = 'MF' ${query.includes("missing") ? "and k.missing <> 0" : ""} order by ${order} limit 60 offset $1) page
            join record r on r.id = page.id left join record a on a.id = r.above_id left join completeness k on k.record_id = r.id order by ${order}`,
          [from + (turn % 10) * 60],
        ],
      ],
    });
  const counts = await timed(20, () => call.get("/records/counts"));
  print("records and documents by type", { httpP50Ms: counts.p50, httpP95Ms: counts.p95 });
}

type Statements = readonly (readonly [text: string, values: readonly unknown[]])[];
/** One question three ways: over HTTP, by the server's own function in this process, and by hand; ratios are to the last. */
async function beside(
  client: pg.Client,
  what: string,
  ways: {
    readonly http: (turn: number) => Promise<unknown>;
    readonly server: ((turn: number) => Promise<unknown>) | null;
    readonly bare: (turn: number) => Statements;
  },
): Promise<void> {
  const byHand = async (turn: number): Promise<void> => {
    for (const [i, [text, values]] of ways.bare(turn).entries()) await client.query({ name: `${what} ${i}`, text, values: [...values] });
  };
  const [http, bare, server] = await timedInTurn(WARM, TIMES, [ways.http, byHand, ...(ways.server ? [ways.server] : [])]);
  if (!http || !bare) throw new Error("nothing was measured");
  print(what, {
    httpP50Ms: http.p50,
    httpP95Ms: http.p95,
    ...(server ? { serverP50Ms: server.p50, serverP95Ms: server.p95 } : {}),
    bareP50Ms: bare.p50,
    bareP95Ms: bare.p95,
    httpTimesBare: short(http.p50 / bare.p50),
    ...(server ? { serverTimesBare: short(server.p50 / bare.p50) } : {}),
  });
}

/** Bookings beneath accounts, three in a chain, with two documents each, straight in the tables; one account with many documents. */
async function fill(
  client: pg.Client,
  records: number,
  documents: number,
): Promise<{ readonly first: number; readonly firstDocument: number; readonly busy: number }> {
  // Without the marks that each row would leave: the worker would work them off while the rows are made, and the measurement does it itself.
  await client.query("set session_replication_role = replica");
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
  await client.query(
    "insert into record_tally (company, type, count) values ('MF', 'customerAccount', 5000), ('MF', 'freightBooking', $1::bigint)",
    [records],
  );
  await client.query("drop table made");
  await client.query("set session_replication_role = origin");
  await client.query("vacuum analyze");
  return { first, firstDocument, busy: accounts };
}
