import fc from "fast-check";
import { sql } from "drizzle-orm";
import { actorByMail } from "#scenario/set-up/fill-set-up.ts";
import { db } from "../db/connect.ts";
import { fileText, makeSetUpDatabase, putRecord } from "../db/test-world.ts";
import { unfile } from "../documents/unfile.ts";
import { parseDocumentCode } from "#core/shared/brand.ts";
import type { Actor } from "../people/load-actor.ts";
import { loadRecordPage } from "../records/load-record-page.ts";
import { recordInputSchema, upsertRecord } from "../records/upsert-record.ts";
import { checkSeals, sealLines } from "../timeline/seal-lines.ts";
import { checkKept } from "./check-kept.ts";

let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
let admin: Actor;
beforeAll(async () => {
  world = await makeSetUpDatabase();
  admin = await actorByMail("isla.rowe@merrowick.example");
});
afterAll(async () => {
  await world.end();
});

type Step =
  | { readonly kind: "file"; readonly order: number; readonly also: number | null }
  | { readonly kind: "move"; readonly order: number; readonly account: number | null }
  | { readonly kind: "unfile"; readonly which: number }
  | { readonly kind: "follow"; readonly later: number; readonly earlier: number };
const small = fc.integer({ min: 0, max: 4 });
const step: fc.Arbitrary<Step> = fc.oneof(
  fc.record({ kind: fc.constant("file" as const), order: small, also: fc.option(small) }),
  fc.record({ kind: fc.constant("move" as const), order: small, account: fc.option(fc.integer({ min: 0, max: 2 })) }),
  fc.record({ kind: fc.constant("unfile" as const), which: fc.nat({ max: 20 }) }),
  fc.record({ kind: fc.constant("follow" as const), later: small, earlier: small }),
);

test("whatever is filed, taken back, moved to another account or chained, what is kept equals a fresh computation (promise 9)", async () => {
  let round = 0;
  await fc.assert(
    fc.asyncProperty(fc.array(step, { minLength: 4, maxLength: 18 }), async (steps) => {
      round++;
      const order = (n: number): string => `PO-${round}-${n}`;
      const account = (n: number): string => `S-${round}-${n}`;
      for (let n = 0; n < 3; n++) await putRecord(admin, "MF", "supplierAccount", account(n), { title: `Account ${round} ${n}` });
      for (let n = 0; n < 5; n++)
        await putRecord(admin, "MF", "purchaseOrder", order(n), {
          title: `Order ${round} ${n}`,
          parent: { type: "supplierAccount", key: account(n % 3) },
        });
      const filed: string[] = [];
      for (const [i, s] of steps.entries()) {
        if (s.kind === "file") {
          const keys = [...new Set([order(s.order), ...(s.also === null ? [] : [order(s.also)])])];
          const made = await fileText(admin, `${round}-${i}.txt`, `text ${round} ${i}`, {
            documentType: "letter",
            title: `Document ${i}`,
            clips: keys.map((key) => ({ company: "MF", type: "purchaseOrder", key })),
          });
          filed.push(made.code);
        } else if (s.kind === "move")
          await putRecord(admin, "MF", "purchaseOrder", order(s.order), {
            title: `Order ${round} ${s.order}`,
            parent: s.account === null ? null : { type: "supplierAccount", key: account(s.account) },
          });
        else if (s.kind === "unfile") {
          const code = parseDocumentCode(filed[s.which % Math.max(1, filed.length)] ?? "");
          if (code) await unfile(admin, code);
        } else if (s.later !== s.earlier)
          await upsertRecord(
            admin,
            "MF",
            "purchaseOrder",
            order(s.later),
            recordInputSchema.parse({ title: `Order ${round} ${s.later}`, follows: [{ type: "purchaseOrder", key: order(s.earlier) }] }),
          );
      }
      expect((await checkKept({ repair: false })).map((c) => `${c.what}: ${c.differences}`)).toEqual([
        "document counts of records: 0",
        "documents of child records: 0",
        "search index: 0",
        "timeline seals: 0",
        "record references: 0",
        "record completeness: 0",
        "record counts by type: 0",
        "record folders: 0",
      ]);
      // Two that are joined by any way of following share a chain, and nobody else does.
      const joined = Array.from({ length: 5 }, (_, n) => n);
      const find = (n: number): number => (joined[n] === n ? n : find(joined[n] ?? n));
      for (const s of steps) if (s.kind === "follow" && s.later !== s.earlier) joined[find(s.later)] = find(s.earlier);
      const pages = await Promise.all([0, 1, 2, 3, 4].map((n) => loadRecordPage(admin, "purchaseOrder", order(n), "MF")));
      for (let a = 0; a < 5; a++)
        for (let b = 0; b < 5; b++) if (a !== b) expect(pages[a]?.chain.some((r) => r.key === order(b)) ?? false).toBe(find(a) === find(b));
    }),
    { numRuns: 12 },
  );
}, 240_000);

test("sealing by several at once seals every line once, in one unbroken chain (promise 10)", async () => {
  await Promise.all(Array.from({ length: 5 }, () => sealLines()));
  const counts = await db().execute<{
    lines: number;
    sealed: number;
    unsealed: number;
  }>(sql`select (select count(*)::int from timeline_line) as lines,
    (select coalesce(sum(line_count), 0)::int from timeline_seal) as sealed, (select count(*)::int from timeline_line l
      where not exists (select from timeline_seal s where s.lines @> l.id)) as unsealed`);
  expect(counts.rows[0]).toMatchObject({ unsealed: 0, sealed: counts.rows[0]?.lines });
  expect(await checkSeals()).toEqual([]);
  expect(await sealLines()).toBe(0);
});
