import { sql } from "drizzle-orm";
import { actorByMail } from "#scenario/set-up/fill-set-up.ts";
import { registerCsv } from "../api/register-csv.ts";
import { db } from "../db/connect.ts";
import { makeSetUpDatabase, must, putRecord, takeText } from "../db/test-world.ts";
import type { Actor } from "../people/load-actor.ts";
import { atTime } from "../ports/clock.ts";
import { readAgain, renameArrival, restore, setAside } from "./change-state.ts";
import { countArrivals, eachRegisterPage, listArrivals, loadArrival } from "./list-arrivals.ts";
import { tidyFileName } from "./receive.ts";

let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
let admin: Actor;
let auditor: Actor;
const take = (name: string, body: string, day: string, about: Parameters<typeof takeText>[3] = {}) =>
  atTime(
    () => new Date(`${day}T10:00:00Z`),
    () => takeText(admin, name, body, about),
  );
beforeAll(async () => {
  world = await makeSetUpDatabase();
  admin = await actorByMail("isla.rowe@merrowick.example");
  auditor = await actorByMail("ferris.dunmore@merrowick.example");
  await putRecord(admin, "MF", "vessel", "V-1", { title: "MV One" });
  await take("beta.txt", "b", "2026-11-02", { queue: "payables" });
  await take("Alpha.csv", "a,b,c\n1,2,3\n4,5,6\n", "2026-11-03", { queue: "payables", record: "vessel:V-1" });
  await take("gamma 100%_done.txt", "a longer text than the others", "2026-11-04", { queue: "sales-desk", company: "QS" });
  await take("=cmd.txt", "formula", "2026-11-05");
  await take("empty.pdf", "", "2026-11-06");
});
afterAll(async () => {
  await world.end();
});

const names = async (
  wish: Omit<Parameters<typeof listArrivals>[1], "limit" | "offset">,
  actor: Actor = admin,
): Promise<readonly string[]> => (await listArrivals(actor, { ...wish, limit: 50, offset: 0 })).items.map((a) => a.fileName);

describe("The list of arrivals", () => {
  const wishes: readonly (readonly [string, Parameters<typeof names>[0], readonly string[]])[] = [
    ["newest first unless said otherwise", {}, ["empty.pdf", "=cmd.txt", "gamma 100%_done.txt", "Alpha.csv", "beta.txt"]],
    ["oldest first", { sort: "oldest" }, ["beta.txt", "Alpha.csv", "gamma 100%_done.txt", "=cmd.txt", "empty.pdf"]],
    ["by name, whatever the capitals", { sort: "name" }, ["=cmd.txt", "Alpha.csv", "beta.txt", "empty.pdf", "gamma 100%_done.txt"]],
    ["largest first", { sort: "largest" }, ["gamma 100%_done.txt", "Alpha.csv", "=cmd.txt", "beta.txt", "empty.pdf"]],
    ["one queue", { queue: "payables", sort: "name" }, ["Alpha.csv", "beta.txt"]],
    ["one company", { company: "QS" }, ["gamma 100%_done.txt"]],
    ["those of one record", { record: "vessel:V-1" }, ["Alpha.csv"]],
    ["a record that is not there", { record: "vessel:V-2" }, []],
    ["only problems", { problem: true }, ["empty.pdf"]],
    ["only what failed", { states: ["failed"] }, ["empty.pdf"]],
    ["a kind, by content", { kind: "csv" }, ["Alpha.csv"]],
    ["between two days, both included", { from: "2026-11-03", to: "2026-11-04" }, ["gamma 100%_done.txt", "Alpha.csv"]],
    ["part of a name", { q: "ALPH" }, ["Alpha.csv"]],
    ["characters special to the database as themselves", { q: "100%_d" }, ["gamma 100%_done.txt"]],
    ["nothing that fits", { q: "\\" }, []],
  ];
  test.each(wishes)("%s", async (_, wish, expected) => expect(await names(wish)).toEqual(expected));

  test("pages without gaps or repeats, with the number of all", async () => {
    const seen: string[] = [];
    for (let offset = 0; offset < 5; offset += 2) {
      const page = await listArrivals(admin, { limit: 2, offset });
      expect(page.total).toBe(5);
      seen.push(...page.items.map((a) => a.id));
    }
    expect(new Set(seen).size).toBe(5);
  });
  test("counts what waits by queue, in the order of the queues, with what cannot be read", async () => {
    expect(await countArrivals(admin)).toEqual([
      { queue: "payables", open: 2, ready: 2, failed: 0 },
      { queue: "sales-desk", open: 1, ready: 1, failed: 0 },
      { queue: "general", open: 2, ready: 1, failed: 1 },
    ]);
    expect(await countArrivals({ ...admin, queues: [], id: "x" as Actor["id"], grants: [] })).toEqual([]);
  });
  test("one arrival has all that the API promises, empty where nothing is known, and what was said as its suggestion", async () => {
    const [first] = (await listArrivals(admin, { q: "alpha", limit: 1, offset: 0 })).items;
    expect(first && (await loadArrival(admin, first.id as Parameters<typeof loadArrival>[1]))).toMatchObject({
      state: "ready",
      mediaType: "text/csv",
      tied: { type: "vessel", key: "V-1" },
      barcodes: [],
      readings: [],
      suggestions: [{ type: "vessel", key: "V-1", verdict: "sure" }],
      duplicates: [],
      twin: null,
      proposedCuts: [],
      children: [],
    });
  });
});

describe("The register", () => {
  test("goes through every arrival, page by page", async () => {
    const seen: string[] = [];
    for await (const page of eachRegisterPage(
      auditor,
      { states: ["waiting", "reading", "ready", "failed", "filed", "setAside", "split", "joined"], limit: 1, offset: 0 },
      2,
    ))
      seen.push(...page.map((a) => a.fileName));
    expect(seen).toHaveLength(5);
  });
  test("as CSV is whole, and no value in it is run by a spreadsheet", async () => {
    const text = await registerCsv(auditor, { limit: 1, offset: 0 }).text();
    const lines = text.trim().split("\n");
    expect(lines).toHaveLength(6);
    expect(lines[0]).toMatch(/^number,receivedAt,.*,sha256,state/);
    expect(text).toContain("'=cmd.txt");
    expect(text).not.toMatch(/,=cmd/);
  });
});

describe("Changing an arrival", () => {
  test("its name; the bytes stay, and the timeline tells", async () => {
    const id = await takeText(admin, "old name.txt", "named");
    must(await renameArrival(admin, id, "new name.txt"));
    expect((await loadArrival(admin, id))?.fileName).toBe("new name.txt");
    const lines = await db().execute<{ n: number }>(
      sql`select count(*)::int as n from timeline_line where arrival_id = ${id} and verb = 'renamed'`,
    );
    expect(lines.rows[0]?.n).toBe(1);
  });
  test("needs a role that adds or files; an auditor only reads", async () => {
    const id = await takeText(admin, "for the auditor.txt", "audited");
    expect(await setAside(auditor, id, "x")).toMatchObject({ ok: false, refusal: { code: "not-allowed" } });
    expect(await restore(auditor, id, "x")).toMatchObject({ ok: false });
    expect(await readAgain(auditor, id)).toMatchObject({ ok: false });
  });
  test("restoring gives back the state that its content has: ready, failed, or waiting to be read", async () => {
    const good = await takeText(admin, "good.txt", "good one");
    const bad = await takeText(admin, "bad.pdf", "%PDF-1.4 broken");
    for (const id of [good, bad]) must(await setAside(admin, id, "trial"));
    expect(must(await restore(admin, good, "")).state).toBe("ready");
    expect(must(await restore(admin, bad, "")).state).toBe("failed");
    must(await setAside(admin, good, "trial"));
    await db().execute(sql`update content set state = 'unread' where sha256 = (select sha256 from arrival where id = ${good})`);
    expect(must(await restore(admin, good, "")).state).toBe("waiting");
  });
});

test.each([
  ["C:\\fakepath\\a.pdf", "a.pdf"],
  ["../../etc/passwd", "passwd"],
  ["a\u0000\u202Eb.pdf", "ab.pdf"],
  ["   ", "unnamed"],
  ["/", "unnamed"],
  [`${"x".repeat(300)}.pdf`, `${"x".repeat(228)}${"x".repeat(8)}.pdf`],
])("a file's own name is tidied: %j", (name, tidy) => expect(tidyFileName(name)).toBe(tidy));
