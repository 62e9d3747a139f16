import { sql } from "drizzle-orm";
import { actorByMail } from "#scenario/set-up/fill-set-up.ts";
import type { ArrivalId } from "#core/shared/brand.ts";
import { listArrivals, loadArrival } from "../arrivals/list-arrivals.ts";
import { changeMany } from "../arrivals/change-many.ts";
import { db } from "../db/connect.ts";
import { makePaper } from "../db/test-papers.ts";
import { makeSetUpDatabase, must, putRecord, takeAndLook, takeText } from "../db/test-world.ts";
import { fileAway } from "../documents/file-away.ts";
import type { Actor } from "../people/load-actor.ts";
import { enterMissing } from "../records/enter-references.ts";
import { fileAsSuggested } from "./file-as-suggested.ts";
import { learnFromFiling } from "./learn-from-filing.ts";
import { exportLearnt, forgetLearnt, importLearnt, learntFileSchema, listLearnt, loadLearnt } from "./learnt.ts";
import { relearn } from "./relearn.ts";
import { pointOut } from "./point-out.ts";
import { suggestFor } from "./suggest-for.ts";
import { forgetTypeModel } from "./type-model.ts";
import { changeWeights, loadWeightsAnswer } from "./weights.ts";

let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
let admin: Actor;
const iban = "GB80MRWK00000000450253";
beforeAll(async () => {
  world = await makeSetUpDatabase();
  admin = await actorByMail("isla.rowe@merrowick.example");
  await putRecord(admin, "MF", "supplierAccount", "S-2004", {
    title: "Tarrin Marine Fuels",
    fields: { name: "Tarrin Marine Fuels", iban, email: "accounts@tarrin-fuels.example" },
  });
  await putRecord(admin, "MF", "crewMember", "E-730", { title: "Yorick Larch", fields: { name: "Yorick Larch" } });
});
afterAll(() => world.end());

const order = (key: string, total = "120.00") =>
  putRecord(admin, "MF", "purchaseOrder", key, {
    title: `Rope for ${key}`,
    status: "received",
    date: "2026-11-01",
    amount: "100.00",
    currency: "GBP",
    fields: { total, net: "100.00" },
    parent: { type: "supplierAccount", key: "S-2004" },
  });
const lines = (number: string, orderKey: string, more: readonly string[] = []): string =>
  [
    "Tarrin Marine Fuels",
    "INVOICE",
    `Invoice No. ${number}`,
    "Invoice date: 18 November 2026",
    `Your order: ${orderKey}`,
    ...more,
    "Net 100.00",
    "VAT 20.00",
    "Total GBP 120.00",
    `IBAN ${iban}`,
  ].join("\n");
const paper = (number: string, orderKey: string, more: readonly string[] = []) => makePaper(lines(number, orderKey, more));
const seen = async (id: ArrivalId, who = admin) => {
  const found = await loadArrival(who, id);
  if (!found) throw new Error("not seen");
  return found;
};
const jobs = async (stage: string): Promise<readonly string[]> =>
  (
    await db().execute<{ id: string }>(sql`select j.payload ->> 'arrivalId' as id from graphile_worker._private_jobs j
      join graphile_worker._private_tasks t on t.id = j.task_id where t.identifier = ${stage}`)
  ).rows.map((r) => r.id);

describe("A document that was taken in", () => {
  test("is read, its type told, its order suggested, before anybody opens it", async () => {
    await order("PO-7001");
    const arrival = await seen(await takeAndLook(admin, "invoice.pdf", await paper("77-1", "PO-7001"), { queue: "payables" }));
    expect(arrival.state).toBe("ready");
    expect(Object.fromEntries(arrival.readings.map((r) => [r.field, r.value]))).toMatchObject({
      documentNumber: "77-1",
      documentDate: "2026-11-18",
      total: "120.00",
      iban,
    });
    expect(arrival.proposedType).toMatchObject({ type: "supplierInvoice" });
    expect(arrival.suggestions[0]).toMatchObject({ type: "purchaseOrder", key: "PO-7001", verdict: "sure" });
  });
  test("finds the order that is entered only afterwards", async () => {
    const id = await takeAndLook(admin, "early.pdf", await paper("77-2", "PO-7002"), { queue: "payables" });
    expect((await seen(id)).suggestions[0]?.key).not.toBe("PO-7002");
    await db().execute(sql`delete from graphile_worker._private_jobs`);
    await order("PO-7002");
    expect(await jobs("suggest")).toEqual([id]);
    await suggestFor(id);
    expect((await seen(id)).suggestions[0]).toMatchObject({ key: "PO-7002", verdict: "sure" });
  });
  test("from another bank account is a warning that cannot be overlooked, and is not filed by itself", async () => {
    await order("PO-7003");
    const text = lines("77-3", "PO-7003").replace(iban, "GB47MRWK00000001392814");
    const id = await takeAndLook(admin, "fraud.pdf", await makePaper(text), { queue: "payables" });
    const [best] = (await seen(id)).suggestions;
    expect(best).toMatchObject({ key: "PO-7003", verdict: "warning" });
    expect(best?.clashes[0]?.words).toContain("GB47MRWK00000001392814");
    expect(await fileAsSuggested(admin, id)).toMatchObject({ ok: false, refusal: { code: "not-sure" } });
  });
  test("that is an e-invoice is read exactly", async () => {
    await order("PO-7004");
    const xml = `<?xml version="1.0"?><Invoice xmlns:cbc="u"><cbc:ID>E-9</cbc:ID><cbc:IssueDate>2026-11-18</cbc:IssueDate><cbc:DocumentCurrencyCode>GBP</cbc:DocumentCurrencyCode>
      <OrderReference><cbc:ID>PO-7004</cbc:ID></OrderReference><LegalMonetaryTotal><TaxExclusiveAmount>100</TaxExclusiveAmount><TaxInclusiveAmount>120</TaxInclusiveAmount></LegalMonetaryTotal></Invoice>`;
    const arrival = await seen(await takeText(admin, "e.xml", xml, { queue: "payables" }));
    expect(arrival.readings.find((r) => r.field === "documentNumber")).toMatchObject({
      value: "E-9",
      from: "structured",
      certainty: 0.999,
    });
    expect(arrival.suggestions[0]).toMatchObject({ key: "PO-7004" });
  });
  test.each([
    ["entities that swell", '<!DOCTYPE x [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;">]><Invoice><ID>&b;</ID></Invoice>'],
    ["tags that do not close", "<Invoice><ID>1"],
    ["elements without end", `${"<a>".repeat(5000)}${"</a>".repeat(5000)}`],
  ])("as XML with %s is kept as text and stops nothing", async (_, xml) => {
    const arrival = await seen(await takeText(admin, "odd.xml", xml));
    expect(arrival.state).toBe("ready");
    expect(arrival.readings.filter((r) => r.from === "structured")).toEqual([]);
  });
});

test("an invoice that comes again in another scan is told with the document that is filed, and never sure", async () => {
  await order("PO-7050");
  const first = await takeAndLook(admin, "once.pdf", await paper("97-1", "PO-7050"), { queue: "payables" });
  const filed = must(
    await fileAway(admin, first, {
      documentType: "supplierInvoice",
      clips: [{ type: "purchaseOrder", key: "PO-7050" }],
      properties: { documentNumber: "97-1" },
    }),
  );
  const again = await takeAndLook(
    admin,
    "again.pdf",
    await paper("97-1", "PO-7050", ["a copy for your files", "with some more words of its own that the first had not"]),
    { queue: "payables" },
  );
  const [best] = (await seen(again)).suggestions;
  expect(best?.verdict).not.toBe("sure");
  expect(best?.clashes.find((c) => c.code === "double")?.words).toContain(filed.code);
});

describe("What people confirm", () => {
  test("by pointing stands when it is read again, and the next document of that sender is read by it", async () => {
    await order("PO-7010");
    const odd = (n: string) => paper(n, "PO-7010", [`Kennung ${n}x`]).then((b) => b);
    const first = await takeAndLook(admin, "one.pdf", await odd("80-1"), { queue: "payables" });
    const kennung = { property: "documentNumber", value: "80-1x", page: 1, box: [100, 130, 80, 14] as [number, number, number, number] };
    // The fifth line of the page: y = 842 − 780 + 4 · 20 − 12 points from the top.
    const at = await db().execute<{ box: number[] }>(
      sql`select jsonb_path_query_array(w, '$[1 to 4]') as box from arrival a join content_page p on p.sha256 = a.sha256, jsonb_array_elements(p.words) w where a.id = ${first} and w ->> 0 = '80-1x'`,
    );
    const box = at.rows[0]?.box as [number, number, number, number];
    expect(must(await pointOut(admin, first, { places: [{ ...kennung, box }] }))).toEqual({ learnt: 1 });
    await suggestFor(first);
    expect((await seen(first)).readings.filter((r) => r.field === "documentNumber")).toMatchObject([
      { value: "80-1x", from: "person", certainty: 1 },
    ]);
    const places = await db().execute(sql`select field, label, relation from field_place where arrival_id = ${first}`);
    expect(places.rows).toEqual([{ field: "documentNumber", label: "kennung", relation: "same" }]);
    const second = await takeAndLook(admin, "two.pdf", await odd("80-2"), { queue: "payables" });
    const read = (await seen(second)).readings.find((r) => r.field === "documentNumber");
    expect([read?.value, ...(read?.others ?? []).map((o) => o.value)]).toContain("80-2x");
  });
  test("by filing is learnt once, however often the job runs", async () => {
    await order("PO-7011");
    const id = await takeAndLook(admin, "learn.pdf", await paper("81-1", "PO-7011"), { queue: "payables" });
    const filed = must(
      await fileAway(admin, id, {
        documentType: "supplierInvoice",
        clips: [{ type: "purchaseOrder", key: "PO-7011" }],
        properties: { documentNumber: "81-1", total: "120.00" },
      }),
    );
    const documentId = Number(filed.code.slice(3));
    expect(await learnFromFiling(documentId)).toBe(2);
    await learnFromFiling(documentId);
    const rows = await db().execute<{ n: number; right: boolean }>(
      sql`select count(*)::int as n, bool_and(was_right) as right from field_place where arrival_id = ${id}`,
    );
    expect(rows.rows[0]).toEqual({ n: 2, right: true });
  });
});

describe("Those the program is sure of", () => {
  test("are filed in one go; the others stay and are told", async () => {
    await order("PO-7020");
    forgetTypeModel();
    const sure = await takeAndLook(admin, "sure.pdf", await paper("90-1", "PO-7020"), { queue: "payables" });
    const unsure = await takeAndLook(admin, "unsure.pdf", await makePaper("Dear all\nnothing here names anything of ours"), {
      queue: "payables",
    });
    expect((await seen(sure)).proposedType).toMatchObject({ type: "supplierInvoice" });
    expect((await seen(sure)).suggestions[0]).toMatchObject({ key: "PO-7020", verdict: "sure", clashes: [] });
    expect((await seen(sure)).proposedType?.certainty).toBeGreaterThan(0.8);
    const answer = await changeMany(admin, { ids: [sure, unsure], action: "fileSure", reason: "", junk: false, documentType: "" });
    expect(answer).toEqual({
      done: 1,
      filed: [expect.stringMatching(/^AC-/)],
      failures: [{ what: unsure, why: "Not certain enough" }],
    });
    expect((await seen(sure)).state).toBe("filed");
    const properties = await db().execute<{ properties: Record<string, unknown> }>(
      sql`select properties from document d join arrival a on a.document_id = d.id where a.id = ${sure}`,
    );
    expect(properties.rows[0]?.properties).toMatchObject({
      documentNumber: "90-1",
      documentDate: "2026-11-18",
      total: "120.00",
      currency: "GBP",
    });
    expect((await seen(unsure)).state).toBe("ready");
  });
});

test("a record that a person may not see is not suggested to them, in any list (promise 6)", async () => {
  const id = await takeAndLook(
    admin,
    "medical.pdf",
    await makePaper("Medical certificate\nThis is to certify that Yorick Larch was examined"),
    { queue: "payables" },
  );
  expect((await seen(id)).suggestions.map((s) => s.key)).toContain("E-730");
  const clerk = await actorByMail("tam.corrigall@merrowick.example");
  expect((await seen(id, clerk)).suggestions.map((s) => s.key)).not.toContain("E-730");
  const list = await listArrivals(clerk, { limit: 200, offset: 0 });
  expect(JSON.stringify(list.items)).not.toContain("E-730");
});

test("records that came in before references were kept are entered by the upkeep, and found from then on", async () => {
  await order("PO-7030");
  await db().execute(sql`delete from record_reference`);
  await db().execute(sql`update record set references_version = 0`);
  const id = await takeAndLook(admin, "old.pdf", await paper("95-1", "PO-7030"), { queue: "payables" });
  expect((await seen(id)).suggestions).toEqual([]);
  while ((await enterMissing()) > 0);
  await suggestFor(id);
  expect((await seen(id)).suggestions[0]).toMatchObject({ key: "PO-7030" });
  const missing = await db().execute(
    sql`select id from record r where not exists (select from record_reference f where f.record_id = r.id)`,
  );
  expect(missing.rows).toEqual([]);
});

describe("What was learnt", () => {
  const rowsOf = async () =>
    (
      await db().execute(
        sql`select sender_key, arrival_id, field, value, page, label, relation, x, y, right_edge, shape, was_right, made_at, made_by from field_place order by arrival_id, field, value`,
      )
    ).rows;
  test("is learnt anew from the confirmed history to the same result", async () => {
    // As the worker would have.
    for (const d of (await db().execute<{ id: number }>(sql`select id from document order by id`)).rows) await learnFromFiling(d.id);
    const before = await rowsOf();
    expect(before.length).toBeGreaterThan(2);
    expect(await relearn()).toEqual({ before: before.length, after: before.length });
    expect(await rowsOf()).toEqual(before);
  });
  test("is shown with the documents it comes from, taken out and in again as an open file, and forgotten for good", async () => {
    const { items } = must(await listLearnt(admin, "tarrin"));
    expect(items).toHaveLength(1);
    const sender = items[0]?.sender ?? "";
    const detail = must(await loadLearnt(admin, sender));
    expect(detail.places).toContainEqual(expect.objectContaining({ field: "total", label: "total" }));
    expect(detail.from.length).toBeGreaterThan(0);
    const file = learntFileSchema.parse(JSON.parse(JSON.stringify(must(await exportLearnt(admin)))));
    expect(must(await importLearnt(admin, file)).taken).toBe(0);
    await db().execute(sql`delete from field_place`);
    const all = file.senders.reduce((s, x) => s + x.places.length, 0);
    expect(must(await importLearnt(admin, file))).toEqual({ taken: all, passedOver: 0 });
    expect(must(await forgetLearnt(admin, sender)).forgotten).toBeGreaterThan(0);
    // What was confirmed before it was forgotten does not come back.
    await relearn();
    expect(must(await listLearnt(admin, "tarrin")).items).toEqual([]);
    await order("PO-7040");
    const id = await takeAndLook(admin, "after.pdf", await paper("99-1", "PO-7040"), { queue: "payables" });
    const filed = must(
      await fileAway(admin, id, {
        documentType: "supplierInvoice",
        clips: [{ type: "purchaseOrder", key: "PO-7040" }],
        properties: { documentNumber: "99-1" },
      }),
    );
    await learnFromFiling(Number(filed.code.slice(3)));
    expect(must(await listLearnt(admin, "tarrin")).items).toMatchObject([{ papers: 1, fields: 1 }]);
  });
  test("is only for those who manage", async () => {
    const clerk = await actorByMail("tam.corrigall@merrowick.example");
    for (const answer of [await listLearnt(clerk, ""), await exportLearnt(clerk), await forgetLearnt(clerk, "account:1")])
      expect(answer).toMatchObject({ ok: false, refusal: { code: "not-allowed" } });
    expect(await loadLearnt(admin, "account:1 or 1=1")).toMatchObject({ ok: false, refusal: { code: "not-found" } });
  });
});

test("a mail that answers one that was filed is found to belong there, with what came with it", async () => {
  const key = "E-730";
  const mail = (head: string, body: string): string =>
    [`From: Yorick Larch <yorick@larch.example>`, "To: crew@merrowick.example", head, "Content-Type: text/plain", "", body].join("\r\n");
  const first = await takeText(admin, "first.eml", mail("Subject: My leave\r\nMessage-ID: <leave-1@larch.example>", "May I have a week?"));
  must(await fileAway(admin, first, { documentType: "mail", clips: [{ company: "MF", type: "crewMember", key }] }));
  const answer = await takeText(
    admin,
    "answer.eml",
    mail(
      "Subject: Re: something\r\nIn-Reply-To: <leave-1@larch.example>\r\nReferences: <other@x.example> <leave-1@larch.example>",
      "Thank you.",
    ),
  );
  const found = await seen(answer);
  expect(found?.suggestions[0]).toMatchObject({ type: "crewMember", key });
  expect(found?.suggestions[0]?.reasons.map((r) => r.words)).toContain("replies to a mail filed there");
  const stranger = await takeText(admin, "stranger.eml", mail("Subject: Re: something\r\nIn-Reply-To: <never@seen.example>", "Thanks."));
  expect((await seen(stranger))?.suggestions.some((s) => s.reasons.some((r) => r.kind === "thread"))).toBe(false);
});

describe("what evidence weighs", () => {
  test("is learnt from what people filed, versioned, can be inspected and taken back", async () => {
    const start = must(await loadWeightsAnswer(admin));
    expect(start).toMatchObject({ version: 1, versions: [] });
    expect(start.weights.find((w) => w.kind === "orderNamed")).toMatchObject({ words: "order number", starting: 6.5, now: 6.5 });
    expect(await changeWeights(admin, { act: "learn" })).toMatchObject({ ok: false, refusal: { code: "not-sure" } });
    // Sixty documents of twelve senders that people filed to the record whose total fits, whatever name was on the document.
    const first = await order("PO-7001");
    const second = await order("PO-7002");
    const reason = (kind: string, weight: number) => ({
      kind,
      about: "",
      text: "",
      page: null,
      box: null,
      where: "record",
      against: false,
      weight,
    });
    const suggestions = JSON.stringify([
      { recordId: first, certainty: 0.5, reasons: [reason("senderName", 2)], clashes: [] },
      { recordId: second, certainty: 0.4, reasons: [reason("totalFits", 2.8)], clashes: [] },
    ]);
    const some = await takeText(admin, "some.txt", "some text");
    await db()
      .execute(sql`with made as (insert into arrival (id, state, file_name, sha256, size_bytes, queue, source, received_at, received_by)
        select gen_random_uuid(), 'reading', 'weights', (select sha256 from arrival where id = ${some}::uuid), 1, 'payables', 'drop', now(), ${admin.id} from generate_series(1, 60) returning id, number)
      insert into arrival_reading (arrival_id, suggestions, sender_key, weights_version, made_at) select id, ${suggestions}::jsonb, 'domain:s' || (number % 12), 1, now() from made`);
    await db()
      .execute(sql`with papers as (insert into document (code, company, document_type, title, properties, confidential, acl_id, filed_at, filed_by, changed_at)
        select 'AC-W' || n, 'MF', 'letter', 'w' || n, '{}', false, (select acl_id from document limit 1), now(), ${admin.id}, now() from generate_series(1, 60) n returning id),
      clips as (insert into clip (document_id, record_id, position, made_at, made_by) select id, ${second}, 0, now(), ${admin.id} from papers)
      update arrival a set state = 'filed', document_id = p.id from (select id, row_number() over (order by id) as n from papers) p, (select id, row_number() over (order by number) as n from arrival where file_name = 'weights') w
      where w.n = p.n and a.id = w.id`);
    const learnt = must(await changeWeights(admin, { act: "learn" }));
    expect(learnt).toMatchObject({ version: 2, isTaken: true });
    expect(learnt.papers).toBeGreaterThanOrEqual(60);
    const now = must(await loadWeightsAnswer(admin));
    expect(now.version).toBe(2);
    expect(now.weights.find((w) => w.kind === "totalFits")?.now).toBeGreaterThan(2.8);
    expect(now.versions[0]?.after).toBeLessThan(now.versions[0]?.before ?? 0);
    const id = await takeText(admin, "then.txt", lines("77-9901", "PO-7001"));
    await suggestFor(id);
    const kept = await db().execute<{ weights_version: number }>(
      sql`select weights_version from arrival_reading where arrival_id = ${id}::uuid`,
    );
    expect(kept.rows[0]?.weights_version).toBe(2);
    must(await changeWeights(admin, { act: "use", version: 0 }));
    expect(must(await loadWeightsAnswer(admin)).version).toBe(1);
    must(await changeWeights(admin, { act: "use", version: 2 }));
    expect(await changeWeights(admin, { act: "use", version: 9 })).toMatchObject({ ok: false, refusal: { code: "not-found" } });
    const clerk = await actorByMail("tam.corrigall@merrowick.example");
    expect(await loadWeightsAnswer(clerk)).toMatchObject({ ok: false, refusal: { code: "not-allowed" } });
    expect(await changeWeights(clerk, { act: "learn" })).toMatchObject({ ok: false, refusal: { code: "not-allowed" } });
  });
});
