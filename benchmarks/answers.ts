import type pg from "pg";
import type { Call } from "./call.ts";
import { words } from "./fill-many.ts";
import { print, short, timed, sized } from "./measure.ts";

const TIMES = sized(120, 3);

/**
 * How long the server takes to answer a record's page and Find, over HTTP with access, counts, snippets and all, against the bare SQL of
 * the same question on one connection in the same run: the record with its newest documents, the newest 25 hits with their count.
 */
export async function benchAnswers(call: Call, client: pg.Client, size: string): Promise<void> {
  const busy = (
    await client.query<{ type: string; key: string; company: string; id: string }>(
      "select type, key, company, id from record order by document_count desc, id limit 40",
    )
  ).rows;
  const at = (turn: number) => busy[turn % busy.length] ?? { type: "", key: "", company: "", id: "0" };
  const recordPage = await timed(TIMES, async (turn) => {
    const r = at(turn);
    await Promise.all([
      call.get(`/records/${r.type}/${encodeURIComponent(r.key)}?company=${r.company}`),
      call.get(`/records/${r.type}/${encodeURIComponent(r.key)}/documents?company=${r.company}&limit=100`),
    ]);
  });
  const bareRecord = await timed(TIMES, async (turn) => {
    await client.query({ name: "record", text: "select * from record where id = $1", values: [at(turn).id] });
    await client.query({
      name: "papers",
      text: `select d.code, d.title, d.document_type, d.document_date, v.sha256, p.path, p.state from clip c join document d on d.id = c.document_id
        join document_version v on v.document_id = d.id and v.number = d.current_version join place p on p.document_id = d.id where c.record_id = $1 order by d.id desc limit 100`,
      values: [at(turn).id],
    });
  });
  print("record page", {
    size,
    p50Ms: recordPage.p50,
    p95Ms: recordPage.p95,
    bareP50Ms: bareRecord.p50,
    bareP95Ms: bareRecord.p95,
    timesBareP50: short(recordPage.p50 / bareRecord.p50),
  });

  const rare = (turn: number): string => words[3000 + ((turn * 37) % 900)] ?? "";
  const common = (turn: number): string => words[2 + (turn % 20)] ?? "";
  const asked: readonly (readonly [string, (turn: number) => string])[] =
    size === "demo"
      ? [["word", (turn) => ["toner", "invoice", "rope", "trailers", "heron", "signed"][turn % 6] ?? ""]]
      : [
          ["rare word", rare],
          ["common word", common],
        ];
  for (const [what, word] of asked) {
    const find = await timed(TIMES, (turn) => call.get(`/find?q=${word(turn)}`));
    const bare = await timed(TIMES, async (turn) => {
      await client.query({
        name: "count",
        text: "select count(*) from search_document where tsv @@ to_tsquery('simple', $1)",
        values: [word(turn)],
      });
      await client.query({
        name: "hits",
        text: "select d.code, d.title from search_document s join document d on d.id = s.document_id where s.tsv @@ to_tsquery('simple', $1) order by s.document_id desc limit 25",
        values: [word(turn)],
      });
    });
    print("find", {
      size,
      what,
      p50Ms: find.p50,
      p95Ms: find.p95,
      bareP50Ms: bare.p50,
      bareP95Ms: bare.p95,
      timesBareP50: short(find.p50 / bare.p50),
    });
  }
}
