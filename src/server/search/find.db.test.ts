import { sql } from "drizzle-orm";
import { actorByMail } from "#scenario/set-up/fill-set-up.ts";
import { db } from "../db/connect.ts";
import { fileText, makeSetUpDatabase, putRecord } from "../db/test-world.ts";
import type { Actor } from "../people/load-actor.ts";
import { find } from "./find.ts";
import { indexDocument, indexText } from "./index-document.ts";

let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
let admin: Actor;
const vessel = (key: string, company = "MF") => ({ company, type: "vessel", key });
const file = (
  name: string,
  text: string,
  documentType: string,
  clips: { company: string; type: string; key: string }[],
  properties: Record<string, unknown> = {},
) => fileText(admin, name, text, { documentType, title: name, clips, properties }, clips[0]?.company);
beforeAll(async () => {
  world = await makeSetUpDatabase();
  admin = await actorByMail("isla.rowe@merrowick.example");
  await putRecord(admin, "MF", "vessel", "V-1", { title: "MV Pale Heron" });
  await putRecord(admin, "QS", "vessel", "V-2", { title: "Workboat Limpet" });
  await putRecord(admin, "MF", "crewMember", "E-1", { title: "Rona Firth" });
  await file("Anchor certificate", "The anchor and its chain. Anchor anchor anchor. Ref. 0077/3108", "certificate", [vessel("V-1")], {
    documentDate: "2025-03-01",
  });
  await file(
    "Paint letter",
    "Oxide red paint for the hull; one anchor was seen. Crème brûlée for the crew.",
    "letter",
    [vessel("V-1"), { company: "MF", type: "crewMember", key: "E-1" }],
    { documentDate: "2026-05-01" },
  );
  await file("Limpet letter", "The workboat needs an engine. INV-2026-0042", "letter", [vessel("V-2", "QS")], {
    documentDate: "2026-06-30",
  });
});
afterAll(async () => {
  await world.end();
});
const titles = async (q: string, more: Partial<Parameters<typeof find>[1]> = {}): Promise<readonly string[]> =>
  (await find(admin, { q, limit: 25, offset: 0, ...more })).items.map((d) => d.title);

describe("Find", () => {
  const asked: readonly (readonly [string, string, readonly string[]])[] = [
    ["by a word, what speaks of it most first", "anchor", ["Anchor certificate", "Paint letter"]],
    ["all words have to be there", "anchor paint", ["Paint letter"]],
    ["exact words in their order", '"oxide red"', ["Paint letter"]],
    ["not in another order", '"red oxide"', []],
    ["without a word", "anchor -paint", ["Anchor certificate"]],
    ["the beginning of a word", "certif*", ["Anchor certificate"]],
    ["whatever the accents and capitals", "CREME brulee", ["Paint letter"]],
    ["a number without its punctuation", "00773108", ["Anchor certificate"]],
    ["a number without its leading zeros", "77/3108", ["Anchor certificate"]],
    ["a number with other punctuation", "INV/2026/0042", ["Limpet letter"]],
    ["a word of the title", "limpet", ["Limpet letter"]],
    ["the key of a record it is clipped to", "E-1", ["Paint letter"]],
    ["the name of a record it is clipped to", "heron paint", ["Paint letter"]],
    [
      "nothing when only exclusions are asked for … lists what the filters leave",
      "-nothing",
      ["Limpet letter", "Paint letter", "Anchor certificate"],
    ],
    ["no document with a word that is nowhere", "submarine", []],
  ];
  test.each(asked)("%s", async (_, q, expected) => expect(await titles(q)).toEqual(expected));

  test("filters narrow it, all together", async () => {
    expect(await titles("", { type: "letter" })).toEqual(["Limpet letter", "Paint letter"]);
    expect(await titles("", { company: "QS" })).toEqual(["Limpet letter"]);
    expect(await titles("", { recordType: "crewMember" })).toEqual(["Paint letter"]);
    expect(await titles("", { from: "2026-05-01", to: "2026-06-29" })).toEqual(["Paint letter"]);
    expect(await titles("anchor", { type: "letter", company: "MF", from: "2026-01-01" })).toEqual(["Paint letter"]);
  });
  test("facets count what the words and filters leave", async () => {
    const { facets, total, totalIsExact } = await find(admin, { q: "", limit: 1, offset: 0 });
    expect({ total, totalIsExact }).toEqual({ total: 3, totalIsExact: true });
    expect(facets.documentType).toEqual([
      { value: "letter", count: 2 },
      { value: "certificate", count: 1 },
    ]);
    expect(facets.recordType).toEqual([
      { value: "vessel", count: 3 },
      { value: "crewMember", count: 1 },
    ]);
    expect(facets.year.map((f) => f.value)).toEqual(["2026", "2025"]);
  });
  test("shows the hits in their place", async () => {
    const [hit] = (await find(admin, { q: "oxide paint", limit: 1, offset: 0 })).items;
    expect(hit?.snippet.filter((p) => p.hit).map((p) => p.text.replace(/\W/g, ""))).toEqual(["Oxide", "paint"]);
    expect(hit?.records.map((r) => r.key)).toEqual(["V-1", "E-1"]);
  });
  test("pages go on where they stopped", async () => {
    expect(await titles("", { limit: 2, offset: 2 })).toEqual(["Anchor certificate"]);
  });
});

describe("The index", () => {
  test("made again is the same row", async () => {
    const { rows } = await db().execute<{ id: number }>(sql`select document_id as id from search_document order by 1 limit 1`);
    const before = await db().execute(sql`select * from search_document where document_id = ${rows[0]?.id}`);
    await indexDocument(rows[0]?.id ?? 0);
    expect((await db().execute(sql`select * from search_document where document_id = ${rows[0]?.id}`)).rows).toEqual(before.rows);
  });
  test("holds as much of a text with endless different words as there is room for", async () => {
    const words = Array.from({ length: 60_000 }, (_, i) => `w${i.toString(36)}x${(i * 7919).toString(36)}`).join(" ");
    const made = await file("Endless", `firstword ${words}`, "letter", [vessel("V-1")]);
    expect(await titles("firstword")).toEqual(["Endless"]);
    expect(made.id).toBeGreaterThan(0);
  });
  test("a new range of documents gets its partition, also when many ask for it at once", async () => {
    await Promise.all(Array.from({ length: 8 }, () => db().execute(sql`select ensure_search_partition(${5 * 65_536 + 3}::bigint)`)));
    const parts = await db().execute<{ name: string }>(
      sql`select inhrelid::regclass::text as name from pg_inherits where inhparent = 'search_document'::regclass order by 1`,
    );
    expect(parts.rows.map((r) => r.name)).toContain("search_document_5");
  });
  test("words are folded and references stand beside them", () =>
    expect(indexText("Crème PO-6127").split(" ").sort()).toEqual(["6127", "creme", "po", "po6127"]));
});
