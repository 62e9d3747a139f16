import { createHash } from "node:crypto";
import { makePdf, pdfFile } from "./support/papers.ts";
import { api, expect, readArrival, test } from "./support/world.ts";

test("nobody is anonymous except on health and the description", async ({ request }) => {
  const health = await request.get("/api/v1/health");
  expect(health.status()).toBe(200);
  expect(await health.json()).toMatchObject({
    status: "ok",
    checks: { database: expect.anything(), worker: expect.anything(), repository: expect.anything() },
  });
  for (const address of [
    "/arrivals",
    "/records/lookup?q=a",
    "/register",
    "/find?q=a",
    "/me",
    "/people",
    "/folder-rules",
    "/documents/AC-000001",
  ]) {
    const answer = await request.get(`/api/v1${address}`);
    expect(answer.status(), address).toBe(401);
    expect(answer.headers()["content-type"]).toContain("application/problem+json");
  }
  expect((await request.get("/api/v1/me", { headers: { authorization: "Bearer ac_wrong" } })).status()).toBe(401);
});

test("a session alone changes nothing when another site asks", async ({ page, request }) => {
  const { credentials } = await import("./support/world.ts");
  const person = credentials().people[0];
  const signed = await request.post("/api/auth/sign-in/email", {
    data: { email: person?.email, password: person?.password },
    headers: { origin: new URL(page.url() === "about:blank" ? credentials().url : page.url()).origin },
  });
  expect(signed.ok()).toBe(true);
  const other = await request.put("/api/v1/settings/limits", { data: {}, headers: { origin: "https://elsewhere.example" } });
  expect(other.status()).toBe(403);
});

test("a record is put, changed, read and looked up; wrong fields are named", async ({ request }) => {
  const call = api(request);
  const put = await call.put("/records/purchaseOrder/PO-API-1?company=MF", {
    title: "Created by a program",
    fields: { orderDate: "2026-11-01", total: "120.50", currency: "GBP" },
    parent: { type: "supplierAccount", key: "S-2004" },
  });
  expect(put.ok()).toBe(true);
  await call.put("/records/purchaseOrder/PO-API-1?company=MF", { title: "Created by a program, changed" });
  const record = await (await call.get("/records/purchaseOrder/PO-API-1?company=MF")).json();
  expect(record).toMatchObject({ title: "Created by a program, changed", fields: { orderDate: "2026-11-01" }, parent: { key: "S-2004" } });
  const found = await (await call.get("/records/lookup?q=created%20by%20a%20program&type=purchaseOrder")).json();
  expect(found.items[0]).toMatchObject({ key: "PO-API-1" });
  const wrong = await call.put("/records/purchaseOrder/PO-API-2?company=MF", { title: "x", fields: { orderDate: "soon", nothing: 1 } });
  expect(wrong.status()).toBe(400);
  const problem = await wrong.json();
  expect(problem).toMatchObject({ type: expect.any(String), title: expect.any(String), status: 400 });
  expect(problem.errors.map((e: { path: string }) => e.path).sort()).toEqual(["fields.nothing", "fields.orderDate"]);
  expect((await call.get("/records/purchaseOrder/PO-API-2?company=MF")).status()).toBe(404);
});

test("an upload with the same key is the same arrival; the whole way to a placed document goes over the API", async ({ request }) => {
  const call = api(request, "clerk");
  const file = await pdfFile("api.pdf", ["Invoice A-77", "Walrus-proof paint"]);
  const key = { "idempotency-key": "e2e-api-1" };
  const first = await call.upload(file, { record: "purchaseOrder:PO-6127", documentType: "supplierInvoice" }, key);
  expect(first.status()).toBe(201);
  const made = await first.json();
  expect(made).toMatchObject({
    bytes: file.buffer.length,
    sha256: createHash("sha256").update(file.buffer).digest("hex"),
    state: expect.any(String),
  });
  expect(await (await call.upload(file, { record: "purchaseOrder:PO-6127" }, key)).json()).toMatchObject({ id: made.id });
  expect((await call.upload(await pdfFile("other.pdf", ["other"]), {}, key)).status()).toBe(409);
  const arrival = await readArrival(request, made.id);
  expect(arrival).toMatchObject({
    state: "ready",
    pages: 1,
    barcodes: [],
    duplicates: [],
    proposedCuts: [],
    children: [],
    proposedType: { type: "supplierInvoice", certainty: 1 },
  });
  // What was said on the way in is a suggestion like any other, and says so.
  expect(arrival.suggestions).toMatchObject([{ type: "purchaseOrder", key: "PO-6127", reasons: [{ kind: "said" }] }]);

  const filing = {
    documentType: "supplierInvoice",
    clips: [{ company: "MF", type: "purchaseOrder", key: "PO-6127" }],
    properties: { documentNumber: "A-77" },
  };
  const filed = await call.post(`/arrivals/${made.id}/file`, filing, { "idempotency-key": "e2e-api-2" });
  expect(filed.status()).toBe(200);
  const document = await filed.json();
  expect(document.path).toContain("PO-6127/Supplier invoice A-77");
  expect(await (await call.post(`/arrivals/${made.id}/file`, filing, { "idempotency-key": "e2e-api-2" })).json()).toEqual(document);
  expect((await call.post(`/arrivals/${made.id}/file`, filing)).status()).toBe(409);

  await expect.poll(async () => (await (await call.get(`/documents/${document.code}`)).json()).location.state).toBe("stored");
  const whole = await call.get(`/documents/${document.code}/content`);
  expect(Buffer.compare(await whole.body(), file.buffer)).toBe(0);
  const etag = whole.headers()["etag"] ?? "";
  expect((await call.get(`/documents/${document.code}/content`, { "if-none-match": etag })).status()).toBe(304);
  const part = await call.get(`/documents/${document.code}/content`, { range: "bytes=0-4" });
  expect(part.status()).toBe(206);
  expect((await part.body()).toString()).toBe("%PDF-");
  expect(await (await call.get(`/documents/${document.code}/text`)).text()).toContain("Walrus-proof");
  const picture = await call.get(`/documents/${document.code}/pages/1.png?width=300`);
  expect(picture.headers()["content-type"]).toBe("image/png");
  expect((await picture.body()).readUInt32BE(16)).toBe(300);
  await expect.poll(async () => (await (await call.get("/find?q=walrus")).json()).total).toBe(1);
  const papers = await (await call.get("/records/purchaseOrder/PO-6127/documents?company=MF&scope=own&limit=200")).json();
  expect(papers.items.map((d: { code: string }) => d.code)).toContain(document.code);
});

test("CSV of 2,000 rows streams in as a job that can be watched", async ({ request }) => {
  const rows = Array.from({ length: 2000 }, (_, i) => `E2E-${i},Stock ${i},Item ${i}`).join("\n");
  const { credentials } = await import("./support/world.ts");
  const answer = await request.post("/api/v1/records/import?type=stockItem&company=MF", {
    headers: { authorization: `Bearer ${credentials().keys.administrator}`, "content-type": "text/csv" },
    data: `key,title,name\n${rows}\n`,
  });
  const { job } = (await answer.json()) as { job: string };
  await expect.poll(async () => (await (await api(request).get(`/jobs/${job}`)).json()).state, { timeout: 60_000 }).toBe("done");
  expect(await (await api(request).get(`/jobs/${job}`)).json()).toMatchObject({ done: 2000, total: 2000, failures: [] });
});

test("lists go on by their cursor without gaps or repeats", async ({ request }) => {
  const seen: string[] = [];
  for (let cursor = ""; ;) {
    const page = await (await api(request).get(`/register?limit=200${cursor ? `&cursor=${cursor}` : ""}`)).json();
    seen.push(...page.items.map((a: { id: string }) => a.id));
    if (!page.next) break;
    cursor = page.next;
  }
  expect(seen.length).toBeGreaterThan(700);
  expect(new Set(seen).size).toBe(seen.length);
  expect((await api(request).get("/register?limit=201")).status()).toBe(400);
});

test("the description names every call, made from the schemas that check the input", async ({ request }) => {
  const description = await (await request.get("/api/v1/openapi.json")).json();
  expect(description.openapi).toMatch(/^3\.1/);
  for (const address of [
    "/health",
    "/records/{type}/{key}",
    "/records/import",
    "/records/lookup",
    "/arrivals",
    "/arrivals/{id}",
    "/arrivals/{id}/file",
    "/documents/{code}",
    "/documents/{code}/content",
    "/find",
    "/register",
    "/jobs/{id}",
  ])
    expect(Object.keys(description.paths), address).toContain(address);
  expect(JSON.stringify(description.paths["/arrivals/{id}/file"])).toContain("onSameName");
});

test("hostile requests get a clear answer", async ({ request }) => {
  const call = api(request);
  expect((await call.get("/arrivals/not-an-id")).status()).toBe(404);
  expect((await call.get("/documents/AC-000001'%20or%201=1")).status()).toBe(404);
  expect((await call.get("/documents/..%2F..%2Fetc/content")).status()).toBe(404);
  expect((await call.get("/arrivals?state=nonsense")).status()).toBe(400);
  expect((await call.get("/records/lookup?q=%00%27%3B--")).status()).toBe(400);
  expect((await call.put("/records/vessel/V-nul?company=MF", { title: "nul \u0000 nul" })).status()).toBe(400);
  expect((await call.get(`/find?q=${encodeURIComponent("((((& | ! :* <->")}`)).status()).toBe(200);
  const { credentials } = await import("./support/world.ts");
  const headers = { authorization: `Bearer ${credentials().keys.administrator}` };
  expect(
    (
      await request.post("/api/v1/arrivals", {
        headers: { ...headers, "content-type": "multipart/form-data; boundary=x" },
        data: "--x\r\nbroken",
      })
    ).status(),
  ).toBe(400);
  expect((await request.post("/api/v1/arrivals", { headers, data: { not: "a form" } })).status()).toBe(400);
  expect((await call.post("/arrivals/bulk", "not json at all")).status()).toBe(400);
  const escape = await call.upload({ name: "../../../../tmp/escape.pdf", mimeType: "application/pdf", buffer: await makePdf(["x"]) });
  const arrival = await readArrival(request, (await escape.json()).id);
  expect(arrival["fileName"]).toBe("escape.pdf");
});
