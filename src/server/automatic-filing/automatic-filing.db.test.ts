import { sql } from "drizzle-orm";
import { actorByMail } from "#scenario/set-up/fill-set-up.ts";
import { type ArrivalId, documentCodeOf } from "#core/shared/brand.ts";
import { loadArrival } from "../arrivals/list-arrivals.ts";
import { db } from "../db/connect.ts";
import { makePaper } from "../db/test-papers.ts";
import { makeSetUpDatabase, must, putRecord, takeAndLook } from "../db/test-world.ts";
import { changeDocument } from "../documents/change-document.ts";
import { fileAway } from "../documents/file-away.ts";
import { unfile } from "../documents/unfile.ts";
import type { Actor } from "../people/load-actor.ts";
import { PROGRAM } from "../timeline/write-lines.ts";
import { checkDocument } from "./check-document.ts";
import { decideFor } from "./decide-for.ts";
import { fileAutomatically, lotOf } from "./file-automatically.ts";
import { listFiledByItself, listAutomaticFiling, loadChecked, saveAutomaticFiling, undoDay } from "./manage.ts";
import { loadExpected } from "./measure.ts";

let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
let admin: Actor;
let number = 0;
const iban = "GB80MRWK00000000450253";
beforeAll(async () => {
  world = await makeSetUpDatabase();
  admin = await actorByMail("isla.rowe@merrowick.example");
  await putRecord(admin, "MF", "supplierAccount", "S-2004", {
    title: "Tarrin Marine Fuels",
    fields: { name: "Tarrin Marine Fuels", iban },
  });
});
afterAll(() => world.end());
beforeEach(async () => {
  await db().execute(sql`delete from hands_free_paper`);
  await db().execute(sql`delete from hands_free`);
});

const which = { queue: "payables", documentType: "supplierInvoice" };
const toOrder = (key: string) => ({ company: "MF", type: "purchaseOrder", key });
/** An order, and an invoice for it that waits and was read. */
async function invoice(
  over: { readonly extra?: string; readonly total?: string } = {},
): Promise<{ id: ArrivalId; order: string; number: string }> {
  number++;
  const order = `PO-${4000 + number}`;
  const line = { text: "Rope", quantity: "2", price: "50.00", amount: "100.00" };
  const about = {
    title: `Rope ${number}`,
    status: "received",
    currency: "GBP",
    fields: { net: "100.00", total: "120.00" },
    lines: [line],
    parent: { type: "supplierAccount", key: "S-2004" },
  };
  await putRecord(admin, "MF", "purchaseOrder", order, { ...about, amount: "100.00" });
  await putRecord(admin, "MF", "goodsReceipt", `GR-${number}`, {
    title: "Received",
    fields: { orderNumber: order },
    lines: [line],
    parent: about.parent,
    follows: [{ type: "purchaseOrder", key: order }],
  });
  const own = `INV-${7000 + number}`;
  const text = [
    "Tarrin Marine Fuels",
    "INVOICE",
    `Invoice No. ${own}`,
    "Invoice date: 18 November 2026",
    "Due date: 18 December 2026",
    `Your order: ${order}`,
    over.extra ?? "",
    "Net 100.00",
    "VAT 20.00",
    `Total GBP ${over.total ?? "120.00"}`,
    `IBAN ${iban}`,
  ].join("\n");
  const id = await takeAndLook(admin, `${own}.pdf`, await makePaper(text), { queue: "payables" });
  return { id, order, number: own };
}
/** A person files it, to the order it names or another one; answers the document's id. */
async function byPerson(id: ArrivalId, order: string, properties: Record<string, unknown> = {}): Promise<number> {
  const decision = await decideFor(admin, id);
  const filed = must(
    await fileAway(admin, id, {
      documentType: "supplierInvoice",
      clips: [toOrder(order)],
      properties: { ...decision?.decided?.properties, ...properties },
    }),
  );
  const documentId = Number(filed.code.slice(3));
  await checkDocument(documentId);
  return documentId;
}
/** So many documents that the program would have filed, right or wrong, as people decided them. */
async function history(right: number, wrong = 0): Promise<void> {
  const name = `history ${++number}`;
  await db().execute(sql`insert into arrival (id, state, file_name, sha256, size_bytes, queue, source, received_at, received_by)
    select gen_random_uuid(), 'filed', ${name}, (select sha256 from arrival limit 1), 1, 'payables', 'drop', now(), ${admin.id} from generate_series(1, ${right + wrong})
    returning id`);
  await db()
    .execute(sql`insert into hands_free_paper (arrival_id, queue, document_type, how, state, would_file, decided, differences, at, checked_at)
    select id, 'payables', 'supplierInvoice', 'history', 'checked', true, '{}', case when row_number() over (order by number) <= ${right} then '[]'::jsonb else '["record"]'::jsonb end, now(), now() - interval '1 hour'
    from arrival a where file_name = ${name}`);
}
const on = (asked: number, heldBack = 0.01) => saveAutomaticFiling(admin, { ...which, isOn: true, asked, heldBack });
const stateOf = async (id: ArrivalId) =>
  (await db().execute<{ state: string; ended_by: string }>(sql`select state, ended_by from arrival where id = ${id}::uuid`)).rows[0];
const paperOf = async (id: ArrivalId) =>
  (
    await db().execute<{ how: string; state: string; why: string | null; would_file: boolean; differences: string[] | null }>(
      sql`select how, state, why, would_file, differences from hands_free_paper where arrival_id = ${id}::uuid`,
    )
  ).rows[0];
/** Lets no lot fall into the sample, or every one. */
async function lots(held: boolean, ids: readonly ArrivalId[]): Promise<void> {
  for (let i = 0; ; i++) {
    if (ids.every((id) => lotOf(`secret ${i}`, id) < 0.01 === held)) {
      await db().execute(sql`update hands_free set secret = ${`secret ${i}`}`);
      return;
    }
  }
}

test("what people decide is the history: right, wrong, or none of what it would have filed", async () => {
  const [a, b, c] = [await invoice(), await invoice(), await invoice({ total: "150.00" })];
  expect(await decideFor(admin, a.id)).toMatchObject({
    why: null,
    decided: { record: { key: a.order }, properties: { documentNumber: a.number, total: "120.00" } },
  });
  await byPerson(a.id, a.order);
  await byPerson(b.id, a.order);
  await byPerson(c.id, c.order);
  expect(await paperOf(a.id)).toMatchObject({ how: "history", state: "checked", would_file: true, differences: [] });
  expect((await paperOf(b.id))?.differences).toContain("record");
  expect(await paperOf(c.id)).toMatchObject({ would_file: false });
  expect(await loadExpected(which.queue, which.documentType)).toMatchObject({ checked: 3, wouldFile: 2, right: 1 });
});

test("it is off at first, and is switched on only with enough behind it that bears out what is asked", async () => {
  const { id } = await invoice();
  await fileAutomatically(id);
  expect((await stateOf(id))?.state).toBe("ready");
  await history(29);
  expect(await on(0.6)).toMatchObject({ ok: false, refusal: { code: "not-sure" } });
  await history(1);
  expect(await on(0.98)).toMatchObject({ ok: false, refusal: { code: "not-sure" } });
  expect(must(await on(0.9))).toEqual({ isOn: true });
  const clerk = await actorByMail("tam.corrigall@merrowick.example");
  expect(await saveAutomaticFiling(clerk, { ...which, isOn: false, asked: 0.9, heldBack: 0.05 })).toMatchObject({
    ok: false,
    refusal: { code: "not-allowed" },
  });
  expect(await saveAutomaticFiling(admin, { ...which, queue: "nowhere", isOn: false, asked: 0.9, heldBack: 0.05 })).toMatchObject({
    ok: false,
    refusal: { code: "unknown-queue" },
  });
});

test("what is sure and complete is filed by the program, marked and listed; what is not waits for a person", async () => {
  await history(60);
  must(await on(0.9));
  const [good, off, other] = [await invoice(), await invoice({ total: "150.00" }), await invoice()];
  await lots(false, [good.id, off.id, other.id]);
  await Promise.all([fileAutomatically(good.id), fileAutomatically(good.id)]);
  await fileAutomatically(off.id);
  expect(await stateOf(good.id)).toEqual({ state: "filed", ended_by: PROGRAM });
  expect(await stateOf(off.id)).toMatchObject({ state: "ready" });
  const listed = must(await listFiledByItself(admin, null));
  expect(listed.items.map((i) => [i.record?.key, i.state])).toEqual([[good.order, "filed"]]);
  // What somebody has taken up is theirs.
  await db().execute(
    sql`update arrival set claimed_by = ${admin.id}, claimed_until = now() + interval '1 minute' where id = ${other.id}::uuid`,
  );
  await fileAutomatically(other.id);
  expect((await stateOf(other.id))?.state).toBe("ready");
  expect(await paperOf(other.id)).toBeUndefined();
});
const documentOf = async (id: ArrivalId): Promise<number> =>
  (await db().execute<{ document_id: number }>(sql`select document_id from arrival where id = ${id}::uuid`)).rows[0]?.document_id ?? 0;

test("of the sample nobody is told what the program decided, until they did", async () => {
  await history(60);
  must(await on(0.9));
  const { id, order } = await invoice();
  await lots(true, [id]);
  expect((await loadArrival(admin, id))?.suggestions[0]?.key).toBe(order);
  await fileAutomatically(id);
  const seen = await loadArrival(admin, id);
  expect(seen).toMatchObject({ state: "ready", isHeldBack: true, suggestions: [], readings: [], proposedType: null });
  // Nor is it filed by itself at the next occasion.
  await fileAutomatically(id);
  expect((await stateOf(id))?.state).toBe("ready");
  const documentId = await byPerson(id, order);
  expect(await paperOf(id)).toMatchObject({ how: "sample", state: "checked", differences: [] });
  expect(must(await loadChecked(admin, documentCodeOf(documentId)))).toMatchObject({ isSample: true, differences: [] });
});

test("when what people decide about the sample no longer bears it out, it switches itself off and says so", async () => {
  await history(60);
  must(await on(0.94));
  const [a, b] = [await invoice(), await invoice()];
  await lots(true, [a.id, b.id]);
  await fileAutomatically(a.id);
  await fileAutomatically(b.id);
  await byPerson(a.id, a.order);
  expect(must(await listAutomaticFiling(admin)).items[0]?.isOn).toBe(true);
  await byPerson(b.id, a.order);
  const rule = must(await listAutomaticFiling(admin)).items[0];
  expect(rule).toMatchObject({ isOn: false, offWhy: { wrong: 1, of: 62, asked: expect.closeTo(0.94) } });
  const lines = await db().execute<{ verb: string }>(sql`select verb from timeline_line where verb = 'handsFreeOff'`);
  expect(lines.rows).toHaveLength(1);
  // Nothing is filed by itself from here on.
  const { id } = await invoice();
  await fileAutomatically(id);
  expect((await stateOf(id))?.state).toBe("ready");
});

test("what is put right or taken back later counts as wrong; it stays so, and is not filed by itself again", async () => {
  await history(200);
  must(await on(0.9));
  const [a, b] = [await invoice(), await invoice()];
  await lots(false, [a.id, b.id]);
  await fileAutomatically(a.id);
  await fileAutomatically(b.id);
  const [first, second] = [await documentOf(a.id), await documentOf(b.id)];
  await checkDocument(first);
  await checkDocument(second);
  expect((await loadExpected(which.queue, which.documentType)).wouldFile).toBe(200);
  must(await changeDocument(admin, documentCodeOf(first), { dryRun: false, clips: [{ ...toOrder(b.order) }] }));
  await checkDocument(first);
  expect(await paperOf(a.id)).toMatchObject({ state: "corrected", differences: ["record"] });
  must(await unfile(admin, documentCodeOf(second)));
  await checkDocument(second);
  expect(await paperOf(b.id)).toMatchObject({ state: "corrected", differences: ["takenBack"] });
  expect(await loadExpected(which.queue, which.documentType)).toMatchObject({ wouldFile: 202, right: 200 });
  await fileAutomatically(b.id);
  expect((await stateOf(b.id))?.state).toBe("ready");
});

test("a day is taken back in one go; what somebody changed since stays", async () => {
  await history(60);
  must(await on(0.9));
  const all = [await invoice(), await invoice(), await invoice()];
  await lots(
    false,
    all.map((i) => i.id),
  );
  // Listed, and taken back, before any of them was checked.
  for (const { id } of all) await fileAutomatically(id);
  const third = await documentOf(all[2]?.id ?? ("" as ArrivalId));
  must(
    await changeDocument(admin, documentCodeOf(third), {
      dryRun: false,
      properties: { documentNumber: "another", documentDate: "2026-11-18", total: "120.00" },
    }),
  );
  await checkDocument(third);
  const day = must(await listFiledByItself(admin, null)).days[0];
  expect(day).toMatchObject({ filed: 2, corrected: 1, undone: 0 });
  const undone = must(await undoDay(admin, { day: day?.day ?? "" }));
  expect(undone).toEqual({ done: 2, failures: [] });
  expect(must(await undoDay(admin, { day: day?.day ?? "" }))).toEqual({ done: 0, failures: [] });
  for (const { id } of all) await checkDocument(await documentOf(id)).catch(() => {});
  expect(must(await listFiledByItself(admin, null)).days[0]).toMatchObject({ filed: 0, corrected: 1, undone: 2 });
  expect(await Promise.all(all.map(async ({ id }) => (await stateOf(id))?.state))).toEqual(["ready", "ready", "filed"]);
  // Taken back as a whole says nothing of the single document.
  expect((await loadExpected(which.queue, which.documentType)).wouldFile).toBe(61);
});

test("documents that a person may not see are neither listed nor counted", async () => {
  await history(60);
  must(await on(0.9));
  const { id } = await invoice();
  await lots(false, [id]);
  await fileAutomatically(id);
  await checkDocument(await documentOf(id));
  const crew = await actorByMail("maren.holt@merrowick.example");
  expect(must(await listFiledByItself(crew, null))).toEqual({ days: [], items: [] });
  expect(await listAutomaticFiling(crew)).toMatchObject({ ok: false, refusal: { code: "not-allowed" } });
});
