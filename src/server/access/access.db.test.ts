import fc from "fast-check";
import { sql } from "drizzle-orm";
import { actions, allowsDocument, allowsRecord, type Grant } from "#core/access/grants.ts";
import { actorByMail } from "#scenario/set-up/fill-set-up.ts";
import { type ArrivalId, type DocumentCode, parseDocumentCode } from "#core/shared/brand.ts";
import { listArrivals, loadArrivalFile } from "../arrivals/list-arrivals.ts";
import { loadDocumentFile } from "../documents/load-document.ts";
import { fileText, makeSetUpDatabase, putRecord, takeText } from "../db/test-world.ts";
import type { Actor } from "../people/load-actor.ts";
import { loadMe } from "../people/load-me.ts";
import { countRecords, listRecords } from "../records/list-records.ts";
import { findVisibleRecord } from "../records/find-visible-record.ts";
import { listRecordDocuments, loadRecordPage } from "../records/load-record-page.ts";
import { lookUp } from "../records/look-up.ts";
import { find } from "../search/find.ts";
import { listLines } from "../timeline/list-lines.ts";
import { db } from "../db/connect.ts";
import { classBits, internClass } from "./class-bits.ts";
import { documentFilter } from "./filters.ts";

const types = ["vessel", "crewMember", "customerAccount", "freightBooking"] as const;
const papers = ["certificate", "medicalCertificate", "letter", "photo"] as const;
interface Filed {
  readonly code: string;
  readonly id: number;
  readonly company: string;
  readonly documentType: string;
  readonly confidential: boolean;
  readonly recordTypes: readonly string[];
  readonly keys: readonly string[];
}
let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
let admin: Actor;
const filed: Filed[] = [];

beforeAll(async () => {
  world = await makeSetUpDatabase();
  admin = await actorByMail("isla.rowe@merrowick.example");
  for (const company of ["MF", "QS"])
    for (const type of types) {
      await putRecord(admin, company, type, `${type}-${company}`, { title: `${type} of ${company}` });
    }
  for (const company of ["MF", "QS"])
    for (const documentType of papers)
      for (const clips of [["vessel"], ["crewMember"], ["freightBooking", "customerAccount"]]) {
        const keys = clips.map((type) => `${type}-${company}`);
        const text = `commonword ${documentType} ${keys.join(" ")}`;
        const made = await fileText(
          admin,
          `${documentType}.txt`,
          text,
          { documentType, clips: clips.map((type, i) => ({ company, type, key: keys[i] ?? "" })) },
          company,
        );
        filed.push({ ...made, company, documentType, confidential: documentType === "medicalCertificate", recordTypes: clips, keys });
      }
});
afterAll(async () => {
  await world.end();
});

const set = <T extends string>(values: readonly T[]) => fc.oneof(fc.constant("all" as const), fc.subarray([...values]));
const grant: fc.Arbitrary<Grant> = fc.record({
  company: fc.constantFrom("MF", "QS"),
  recordTypes: set(types),
  documentTypes: set(papers),
  confidential: fc.boolean(),
  actions: fc.subarray([...actions], { minLength: 1 }).map((list) => [...new Set(["see" as const, ...list])]),
});
const person = fc
  .array(grant, { maxLength: 3 })
  .map((grants): Actor => ({ ...admin, id: "nobody-in-particular" as Actor["id"], queues: [], grants }));

test("every way to see documents gives exactly what the grants cover: lists, counts, facets, hits, timelines (promise 6)", async () => {
  await fc.assert(
    fc.asyncProperty(person, async (actor) => {
      const mine = filed.filter((d) => allowsDocument(actor.grants, "see", d));
      const codes = mine.map((d) => d.code).sort();

      const found = await find(actor, { q: "commonword", limit: 100, offset: 0 });
      expect(found.items.map((d) => d.code).sort()).toEqual(codes);
      expect(found.total).toBe(mine.length);
      expect(found.facets.documentType.reduce((sum, f) => sum + f.count, 0)).toBe(mine.length);
      expect(found.facets.company.map((f) => f.value).sort()).toEqual([...new Set(mine.map((d) => d.company))].sort());
      for (const d of filed.filter((_, i) => i % 5 === 0))
        expect((await loadDocumentFile(actor, parseDocumentCode(d.code) as DocumentCode)) !== null).toBe(codes.includes(d.code));
      for (const hit of found.items) for (const r of hit.records) expect(allowsRecord(actor.grants, "see", r.company, r.type)).toBe(true);

      for (const company of ["MF", "QS"])
        for (const type of types) {
          const row = await findVisibleRecord(actor, type, `${type}-${company}`, company);
          expect(row !== null).toBe(allowsRecord(actor.grants, "see", company, type));
          const page = await loadRecordPage(actor, type, `${type}-${company}`, company);
          expect(page !== null).toBe(row !== null);
          if (!row || !page) continue;
          const own = mine
            .filter((d) => d.keys.includes(row.key))
            .map((d) => d.code)
            .sort();
          expect(page.counts.own).toBe(own.length);
          const listed = await listRecordDocuments(actor, row, "own", { limit: 100, before: null });
          expect(listed.items.map((d) => d.code).sort()).toEqual(own);
          const lines = await listLines(actor, { recordId: row.id });
          for (const line of lines) if (line.document !== null) expect(codes).toContain(line.document);
        }
    }),
    { numRuns: 60 },
  );
});

test("every way to see records gives exactly what the grants cover: look-up, lists, counts, set-up", async () => {
  await fc.assert(
    fc.asyncProperty(person, async (actor) => {
      const covered = ["MF", "QS"]
        .flatMap((company) => types.filter((type) => allowsRecord(actor.grants, "see", company, type)).map((type) => `${type}-${company}`))
        .sort();
      expect((await lookUp(actor, { q: "", limit: 50 })).map((r) => r.key).sort()).toEqual(covered);
      expect((await lookUp(actor, { q: "of", limit: 50 })).map((r) => r.key).sort()).toEqual(covered);
      const counts = await countRecords(actor, undefined, await documentFilter(actor, "see", sql`d.acl_id`));
      expect(counts.reduce((sum, c) => sum + c.records, 0)).toBe(covered.length);
      const mine = filed.filter((d) => allowsDocument(actor.grants, "see", d));
      for (const count of counts) {
        const clips = mine.filter((d) => d.recordTypes.includes(count.type) && allowsRecord(actor.grants, "see", d.company, count.type));
        expect(count.papers).toBe(clips.length);
        const listed = await listRecords(
          actor,
          { type: count.type, limit: 50, offset: 0 },
          await documentFilter(actor, "see", sql`d.acl_id`),
        );
        expect(listed.total).toBe(covered.filter((key) => key.startsWith(`${count.type}-`)).length);
        expect(listed.items.reduce((sum, r) => sum + r.documents, 0)).toBe(clips.length);
      }
      const me = await loadMe(actor);
      expect(me.companies.map((c) => c.code).sort()).toEqual(
        [...new Set(actor.grants.filter((g) => g.actions.includes("see")).map((g) => g.company))].sort(),
      );
    }),
    { numRuns: 60 },
  );
});

test("an arrival is seen by its queue's members, by whoever sent it and by the register, in companies they know; once filed only with its document", async () => {
  const waiting = await takeText(admin, "for payables.txt", "payables words", { queue: "payables", company: "QS" });
  const sees = async (actor: Actor, q: string): Promise<boolean> => {
    const { rows } = await db().execute<{ id: ArrivalId; file_name: string }>(
      sql`select id, file_name from arrival where file_name like ${`${q}%`}`,
    );
    const { total } = await listArrivals(actor, { states: ["waiting", "reading", "ready", "filed"], q, limit: 10, offset: 0 });
    for (const { id, file_name: fileName } of rows)
      expect(await loadArrivalFile(actor, id)).toEqual(total > 0 ? { fileName, sha256: expect.stringMatching(/^[0-9a-f]{64}$/) } : null);
    expect(rows).toHaveLength(1);
    return total > 0;
  };
  const actor = (queues: readonly string[], grants: readonly Grant[]): Actor => ({ ...admin, id: "other" as Actor["id"], queues, grants });
  const see = (company: string, more: Partial<Grant> = {}): Grant => ({
    company,
    recordTypes: "all",
    documentTypes: "all",
    confidential: false,
    actions: ["see"],
    ...more,
  });
  expect(await sees(actor(["payables"], [see("QS")]), "for payables")).toBe(true);
  expect(await sees(actor(["payables"], [see("MF")]), "for payables")).toBe(false);
  expect(await sees(actor(["general"], [see("QS")]), "for payables")).toBe(false);
  expect(await sees(actor([], [see("QS", { actions: ["see", "register"] })]), "for payables")).toBe(true);
  expect(await sees(actor([], [see("MF", { actions: ["see", "register"] })]), "for payables")).toBe(false);
  expect(await sees(admin, "for payables")).toBe(true);
  await fileText(admin, "secret medical.txt", "medical words", {
    documentType: "medicalCertificate",
    clips: [{ company: "MF", type: "crewMember", key: "crewMember-MF" }],
  });
  expect(await sees(actor(["general"], [see("MF")]), "secret medical")).toBe(false);
  expect(await sees(actor(["general"], [see("MF", { confidential: true })]), "secret medical")).toBe(true);
  expect(waiting).toMatch(/-/);
});

test("a class is covered as soon as it is committed, also after one that came into being later", async () => {
  const cls = (recordTypes: readonly string[]) => ({ company: "MF", documentType: "letter", confidential: false, recordTypes });
  const isCovered = async (id: number): Promise<boolean> => (((await classBits(admin, "see"))[id >> 3] ?? 0) & (1 << (id & 7))) !== 0;
  let late = 0;
  await db().transaction(async (tx) => {
    late = await internClass(tx, cls(["crewMember", "vessel"]));
    const early = await db().transaction((other) => internClass(other, cls(["customerAccount", "vessel"])));
    expect(early).toBeGreaterThan(late);
    expect(await isCovered(early)).toBe(true);
    expect(await isCovered(late)).toBe(false);
  });
  expect(await isCovered(late)).toBe(true);
});
