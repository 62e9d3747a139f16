import { writeFile } from "node:fs/promises";
import path from "node:path";
import { setTimeout as pause } from "node:timers/promises";
import type pg from "pg";
import type { PageText } from "#core/pages/page-text.ts";
import { linesOfPage } from "#core/reading/page-lines.ts";
import { readPaper } from "#core/reading/read-paper.ts";
import { foreignPaper } from "#scenario/papers/foreign-layouts.ts";
import { makeWorld } from "#scenario/world.ts";
import { db } from "#server/db/connect.ts";
import { readPdf } from "#server/reading/read-pdf.ts";
import { loadPaper } from "#server/matching/load-paper.ts";
import { rememberFor } from "#server/matching/remembered.ts";
import { suggestAll } from "#server/matching/suggest-all.ts";
import { readAndMatch, suggestFor, suggestForSome } from "#server/matching/suggest-for.ts";
import { percentile, print, seconds, short, sideBySide, sized } from "./measure.ts";

/** Pages read in the measurement, and times each is read. */
const PAPERS = sized(60, 4);
const TIMES = sized(5, 1);
/** Arrivals that wait while all are looked at again. */
const WAITING = sized(10_000, 40);

/** Reading fields off pages, and suggesting records among many: how many a second, how long one takes, and all that wait looked at again. */
export async function benchSuggest(client: pg.Client, folder: string, records: number): Promise<void> {
  const world = makeWorld();
  const papers: (readonly PageText[])[] = [];
  for (let seed = 5000; seed < 5000 + PAPERS; seed++) {
    const file = path.join(folder, "one.pdf");
    await writeFile(file, (await foreignPaper(world, seed)).pdf);
    papers.push((await readPdf(file, { pagesMax: 20, fileName: "one.pdf", kind: "pdf" })).pageTexts);
  }
  const pages = papers.reduce((s, p) => s + p.length, 0);
  const context = { receivedOn: "2026-11-20", ourselves: [], fileName: "one.pdf", seen: [] };
  const taken = await seconds(async () => {
    for (let i = 0; i < TIMES; i++) for (const p of papers) readPaper(p.map(linesOfPage), context);
  });
  print("reading fields", { pagesPerSecondACore: short((pages * TIMES) / taken) });
  await fillRecords(client, records);
  const ids = (
    await client.query<{ id: string }>(
      "select a.id from arrival a join content c on c.sha256 = a.sha256 where a.state = 'ready' and c.kind = 'pdf'",
    )
  ).rows.map((r) => r.id);
  // As the worker does it.
  rememberFor(2000);
  for (const id of ids.slice(0, 10)) await suggestFor(id);
  await oneAfterTheOther("suggesting, one after the other", records, ids, async (id) => {
    const paper = await loadPaper(db(), id);
    if (paper) await readAndMatch(paper);
  });
  await client.query(
    `insert into arrival (id, company, queue, source, file_name, sha256, size_bytes, state, received_at)
     select gen_random_uuid(), company, queue, source, 'bench ' || g || ' ' || file_name, sha256, size_bytes, 'ready', received_at
     from generate_series(1, 1 + $1::int / $2::int) g cross join (select * from arrival where id = any($3::uuid[])) a limit $1::int`,
    [WAITING, ids.length, ids],
  );
  // In no order, so that documents of one sender do not stand together.
  const waiting = (await client.query<{ id: string }>("select id from arrival where file_name like 'bench %' order by id")).rows.map(
    (r) => r.id,
  );
  const lots = (some: readonly string[]) =>
    Array.from({ length: Math.ceil(some.length / 20) }, (_, i) => () => suggestForSome(some.slice(i * 20, (i + 1) * 20)));
  const first = await seconds(() => sideBySide(lots(waiting), 2));
  print("all that wait read and looked at for the first time", {
    waiting: waiting.length,
    seconds: short(first),
    perSecond: short(waiting.length / first),
  });
  await oneAfterTheOther("suggesting for what was read, one after the other", records, waiting.slice(0, 300), suggestFor);
  // As after other weights were learnt: the upkeep looks at all that waits.
  await client.query(
    "insert into match_weights (version, weights, papers, before, after, is_used, made_at, made_by) select 1 + coalesce(max(version), 1), '{}', 60, 0.5, 0.4, true, now(), 'program' from match_weights",
  );
  await pause(6000);
  let looked = 0;
  const all = await seconds(async () => {
    looked = await suggestAll();
  });
  print("all that wait looked at again", { waiting: looked, seconds: short(all), perSecond: short(looked / all) });
}

async function oneAfterTheOther(
  what: string,
  records: number,
  ids: readonly string[],
  act: (id: string) => Promise<unknown>,
): Promise<void> {
  const times: number[] = [];
  for (const id of ids) {
    const began = performance.now();
    await act(id);
    times.push(performance.now() - began);
  }
  print(what, {
    records,
    p50Ms: short(percentile(times, 0.5)),
    p95Ms: short(percentile(times, 0.95)),
    perSecond: short(1000 / (times.reduce((s, t) => s + t, 0) / times.length)),
  });
}

/** Orders beneath accounts, with their references, as importing would have left them. */
async function fillRecords(client: pg.Client, records: number): Promise<void> {
  const columns =
    "company, type, key, title, date, amount, currency, fields, above_id, key_folded, title_folded, lookup_text, references_version";
  const accounts = Math.ceil(records / 50);
  await client.query(
    `insert into record (${columns}) select 'MF', 'supplierAccount', 'BS-' || g, 'Bench Supplies ' || g, null, null, null, jsonb_build_object('name', 'Bench Supplies ' || g), null, 'bs' || g, 'bench supplies ' || g, 'bs-' || g, 1
     from generate_series(1, $1::int) g`,
    [accounts],
  );
  await client.query(
    `insert into record (${columns}) select 'MF', 'purchaseOrder', 'BO-' || g, 'Bench order ' || g, date '2026-01-01' + (g % 300), (g % 90000)::numeric / 10, 'GBP',
       jsonb_build_object('total', to_char((g % 90000)::numeric / 8, 'FM99999990.00')), (select id from record a where a.type = 'supplierAccount' and a.company = 'MF' and a.key = 'BS-' || (1 + g % $2::int)),
       'bo' || g, 'bench order ' || g, 'bo-' || g, 1 from generate_series(1, $1::int) g`,
    [records, accounts],
  );
  await client.query(
    `insert into record_reference (record_id, kind, reference) select id, k.kind, case k.kind when 'key' then key_folded when 'shape' then translate(key_folded, 'bos', '805') when 'digits' then regexp_replace(key_folded, '^[a-z]+', '') else replace(title_folded, ' ', '') end
     from record r cross join (values ('key'), ('shape'), ('digits'), ('name')) k (kind) where (r.key like 'BO-%' and k.kind <> 'name') or (r.key like 'BS-%' and k.kind <> 'digits') on conflict do nothing`,
  );
  await client.query("analyze record");
  await client.query("analyze record_reference");
}
