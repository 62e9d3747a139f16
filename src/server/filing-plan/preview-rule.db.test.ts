import { sql } from "drizzle-orm";
import type { FolderRule } from "#core/filing-plan/folder-rule.ts";
import { actorByMail } from "#scenario/set-up/fill-set-up.ts";
import { db } from "../db/connect.ts";
import { fileText, makeSetUpDatabase, must, putRecord } from "../db/test-world.ts";
import type { Actor } from "../people/load-actor.ts";
import { loadRules } from "./load-rules.ts";
import { previewRule, type Sample } from "./preview-rule.ts";

/** More than two portions of what is read at once. */
const MANY = 20_500;

let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
let admin: Actor;
let bookings: FolderRule;
beforeAll(async () => {
  world = await makeSetUpDatabase();
  admin = await actorByMail("isla.rowe@merrowick.example");
  bookings = (await loadRules()).get("freightBooking")?.rule as FolderRule;
  await putRecord(admin, "MF", "customerAccount", "C-1", { title: "Halven Timber", fields: { name: "Halven Timber" } });
  const booking = { type: "freightBooking", key: "A-1", company: "MF" };
  await putRecord(admin, "MF", "freightBooking", "A-1", {
    title: "First",
    date: "2026-03-02",
    fields: { sailingDate: "2026-03-02" },
    parent: { type: "customerAccount", key: "C-1" },
  });
  await fileText(admin, "booking.txt", "Booking", { documentType: "letter", clips: [booking] });
  await db().execute(sql`insert into record (company, type, key, title, date, fields, key_folded, title_folded, lookup_text)
    select 'MF', 'freightBooking', 'M-' || g, 'Booking ' || g, date '2020-01-01', jsonb_build_object('sailingDate', '2020-01-01'), 'm' || g, 'booking ' || g, ''
    from generate_series(1, ${MANY}::int) g`);
});
afterAll(async () => {
  await world.end();
});

const previewed = async (change: Partial<FolderRule>, sample: Sample = "odd", seed = 1, keys: readonly string[] = []) =>
  must(await previewRule(admin, "freightBooking", { ...bookings, ...change }, sample, seed, undefined, keys));

describe("A rule is seen on all records, however many", () => {
  test("each is counted once, and what has a folder would move with its documents", async () => {
    const unchanged = await previewed({});
    expect([unchanged.records, unchanged.moves]).toEqual([MANY + 1, { folders: 0, documents: 0 }]);
    const changed = await previewed({ rootFolder: "Elsewhere" });
    expect(changed.moves).toEqual({ folders: 1, documents: 1 });
    expect((await previewed({ rootFolder: "Elsewhere" }, "chosen", 1, ["A-1"])).samples).toMatchObject([
      {
        key: "A-1",
        papers: 1,
        unassigned: false,
        now: expect.stringContaining("A-1") as string,
        segments: expect.arrayContaining(["Elsewhere"]) as [],
      },
    ]);
  });

  test("namesakes are found however far apart they are read", async () => {
    await putRecord(admin, "MF", "freightBooking", "Z-1", {
      title: "booking 7",
      date: "2020-01-01",
      fields: { sailingDate: "2020-01-01" },
    });
    const preview = await previewed({ folderName: "{title}", tellApart: null });
    expect(preview.clashCount).toBe(1);
    expect(preview.clashes).toMatchObject([{ keys: ["M-7", "Z-1"], toldApart: false }]);
    expect(preview.samples.map((s) => s.key)).toContain("Z-1");
    const toldApart = await previewed({ folderName: "{title}", tellApart: "key" }, "chosen", 1, ["M-7", "Z-1"]);
    expect(toldApart.clashes).toMatchObject([{ toldApart: true }]);
    expect(toldApart.samples.map((s) => s.segments.at(-1))).toEqual(["Booking 7", "booking 7 Z-1"]);
  });

  test("all of one name: a few keys are shown, all are counted as one", async () => {
    const preview = await previewed({ folderName: "{company}", tellApart: null });
    expect(preview.clashCount).toBe(1);
    expect(preview.clashes[0]?.keys).toHaveLength(6);
  });

  test("names that cannot stay and paths that are too long are counted over all of them", async () => {
    await putRecord(admin, "MF", "freightBooking", "Z-2", { title: "x: y?", date: "2020-01-01" });
    expect(await previewed({ folderName: "{title}" })).toMatchObject({
      changedCount: 1,
      changed: [{ key: "Z-2", name: "x: y?", becomes: "x- y" }],
    });
    const long = Array.from({ length: 6 }, (_, n) => `${n}${"ü".repeat(90)}`).join("/");
    const preview = await previewed({ inside: null, rootFolder: long });
    expect([preview.tooLong, preview.tooLongKeys.length]).toEqual([preview.records, 20]);
  });

  test("others can be looked at, those used last, and the same come again", async () => {
    const some = (await previewed({}, "random", 5)).samples.map((s) => s.key);
    expect(some).toHaveLength(8);
    expect((await previewed({}, "random", 5)).samples.map((s) => s.key)).toEqual(some);
    expect((await previewed({}, "random", 6)).samples.map((s) => s.key)).not.toEqual(some);
    await db().execute(sql`update record set used_at = now() + interval '1 hour' where key in ('M-20500', 'M-3')`);
    expect((await previewed({}, "recent")).samples.map((s) => s.key)).toEqual(expect.arrayContaining(["M-20500", "M-3"]));
  });

  test("of a person who sees none of them none are counted", async () => {
    const nobody = { ...admin, grants: admin.grants.map((g) => ({ ...g, recordTypes: ["vessel"] })) };
    expect(must(await previewRule(nobody, "freightBooking", bookings, "odd", 1))).toMatchObject({ records: 0, samples: [] });
  });
});
