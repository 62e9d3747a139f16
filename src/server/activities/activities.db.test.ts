import { sql } from "drizzle-orm";
import { actorByMail } from "#scenario/set-up/fill-set-up.ts";
import { activitySchema } from "#core/activities/activity.ts";
import { db } from "../db/connect.ts";
import { makeSetUpDatabase, must, putRecord } from "../db/test-world.ts";
import { placeDocument } from "../filing-plan/place-document.ts";
import type { Actor } from "../people/load-actor.ts";
import { findVisibleRecord } from "../records/find-visible-record.ts";
import { listRecordDocuments } from "../records/load-record-page.ts";
import { find } from "../search/find.ts";
import { indexDocument } from "../search/index-document.ts";
import { writeActivity } from "./write-activity.ts";

let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
let clerk: Actor;
let auditor: Actor;
beforeAll(async () => {
  world = await makeSetUpDatabase();
  clerk = await actorByMail("tam.corrigall@merrowick.example");
  auditor = await actorByMail("ferris.dunmore@merrowick.example");
  await putRecord(await actorByMail("isla.rowe@merrowick.example"), "MF", "freightBooking", "B-1", {
    title: "Orrin",
    fields: { sailingDate: "2026-11-18" },
  });
});
afterAll(() => world.end());
const booking = async (who: Actor) => {
  const row = await findVisibleRecord(who, "freightBooking", "B-1", "MF");
  if (!row) throw new Error("no booking");
  return row;
};
const call = activitySchema.parse({
  kind: "call",
  about: "trailer 3 late at gate",
  on: "2026-11-18",
  with: "Runa Skarr",
  text: "Stuck behind the langoustine lorry.",
});

describe("An activity", () => {
  test("is a document of its record: dated, in its section, placed, in the register, and found by its words", async () => {
    const filed = must(await writeActivity(clerk, await booking(clerk), call));
    const id = Number(filed.code.slice(3));
    await placeDocument(id);
    await indexDocument(id);
    const papers = (await listRecordDocuments(clerk, await booking(clerk), "own", { limit: 10, before: null })).items;
    expect(papers[0]).toMatchObject({
      title: "Call: trailer 3 late at gate",
      documentType: "activity",
      documentDate: "2026-11-18",
      section: "Letters and calls",
      source: "written",
    });
    expect(filed.path).toMatch(/B-1\/.*\.txt$/);
    const hits = await find(clerk, { q: "langoustine", limit: 10, offset: 0 } as Parameters<typeof find>[1]);
    expect(hits.items.map((h) => h.code)).toContain(filed.code);
    const register = await db().execute<{ state: string }>(sql`select state from arrival where document_id = ${id}`);
    expect(register.rows).toEqual([{ state: "filed" }]);
    const about = await db().execute<{ kind: string }>(sql`select properties->>'kindOfActivity' as kind from document where id = ${id}`);
    expect(about.rows[0]?.kind).toBe("Call");
  });

  test("written twice on one day stands there twice, and whoever may only see cannot write one", async () => {
    const before = (await listRecordDocuments(clerk, await booking(clerk), "own", { limit: 10, before: null })).items.length;
    must(await writeActivity(clerk, await booking(clerk), call));
    expect((await listRecordDocuments(clerk, await booking(clerk), "own", { limit: 10, before: null })).items).toHaveLength(before + 1);
    expect(await writeActivity(auditor, await booking(auditor), call)).toMatchObject({ refusal: { code: "not-allowed" } });
  });
});
