import { randomUUID } from "node:crypto";
import http from "node:http";
import type { AddressInfo } from "node:net";
import { type BusinessStandIn, startBusiness } from "../../../standins/start-business.ts";
import { freeLoopbackPort } from "../../../standins/standin.ts";
import { makeEmptyDatabase } from "../db/test-world.ts";
import { isSigned } from "./take-event.ts";

const KEY = "a key for tests";
const SECRET = "a secret of sixteen";
interface Heard {
  readonly id: string;
  readonly record: {
    readonly type: string;
    readonly key: string;
    readonly title: string;
    readonly status: string;
    readonly follows: readonly { readonly key: string }[];
  };
  readonly isSigned: boolean;
}
let business: BusinessStandIn;
let heard: Heard[] = [];
let tries = 0;
/** What the listener answers next; 200 when nothing is said. */
let answers: number[] = [];
const listener = http.createServer((request, response) => {
  void (async () => {
    const pieces: Buffer[] = [];
    for await (const piece of request) pieces.push(piece as Buffer);
    const body = Buffer.concat(pieces).toString("utf8");
    const head = (name: string): string => String(request.headers[name] ?? "");
    const status = answers.shift() ?? 200;
    tries++;
    if (status === 200)
      heard.push({
        ...(JSON.parse(body) as Omit<Heard, "isSigned">),
        isSigned: isSigned(SECRET, head("x-event-time"), body, head("x-event-signature"), Math.floor(Date.now() / 1000)),
      });
    response.writeHead(status).end();
  })();
});
beforeAll(async () => {
  await new Promise<void>((ready) => listener.listen(0, "127.0.0.1", ready));
  const { port } = listener.address() as AddressInfo;
  business = await startBusiness({
    port: await freeLoopbackPort(),
    databaseUrl: (await makeEmptyDatabase()).url,
    key: KEY,
    hook: { url: `http://127.0.0.1:${port}/events`, secret: SECRET },
  });
  const account = {
    company: "MF",
    type: "supplierAccount",
    key: "S-1",
    title: "Brae <b>& Holm</b>",
    status: "active",
    fields: { iban: "GB00" },
    follows: [],
  };
  await business.call("POST", "/load", [account]);
});
afterAll(async () => {
  await business.stop();
  await new Promise((done) => listener.close(done));
});
beforeEach(() => {
  heard = [];
  tries = 0;
  answers = [];
});

const draft = (number: string, over: Record<string, unknown> = {}) => ({
  company: "MF",
  type: "supplierInvoice",
  title: `Brae ${number}`,
  fields: { documentNumber: number, documentDate: "2026-11-18", net: "100.00", tax: "20.00", total: "120.00", currency: "GBP" },
  lines: [{ text: "Toner", quantity: "2", price: "50.00", amount: "100.00" }],
  parent: { type: "supplierAccount", key: "S-1" },
  follows: [],
  ...over,
});
const enter = async (number: string, over: Record<string, unknown> = {}, id: string = randomUUID()) =>
  business.call("PUT", `/drafts/${id}`, draft(number, over));
const until = async (what: () => boolean): Promise<void> => {
  const ends = Date.now() + 15_000;
  while (!what() && Date.now() < ends) await new Promise((go) => setTimeout(go, 30));
  expect(what()).toBe(true);
};

test("nobody is answered without the key", async () => {
  expect((await fetch(`${business.url}/api/faults`)).status).toBe(401);
  expect((await fetch(`${business.url}/api/drafts/${randomUUID()}`, { method: "PUT", body: "{}" })).status).toBe(401);
});

test("a draft is entered once, under a number of its own; what is wrong is said by field", async () => {
  const id = randomUUID();
  const first = await enter("N-1", {}, id);
  expect(first).toMatchObject({ status: 200, value: { state: "accepted", status: "entered", number: expect.stringMatching(/^SI-\d+$/) } });
  expect(await enter("N-1", {}, id)).toEqual(first);
  const refusals: readonly (readonly [Record<string, unknown>, string])[] = [
    [{ fields: { documentNumber: "N 1", documentDate: "2026-11-18", total: "1.00" } }, "fields.documentNumber"],
    [{ fields: { documentNumber: "N-2", documentDate: "2026-11-18", net: "1.00", tax: "1.00", total: "3.00" } }, "fields.total"],
    [{ fields: { documentNumber: "N-2", documentDate: "2025-12-31", total: "3.00" } }, "fields.documentDate"],
    [{ fields: { documentNumber: "N-2", documentDate: "2026-12-31", total: "3.00", currency: "XXX" } }, "fields.currency"],
    [{ fields: {} }, "fields.total"],
    [{ parent: { type: "supplierAccount", key: "S-9" } }, "parent"],
    [{ parent: null }, "parent"],
    [{ follows: [{ type: "purchaseOrder", key: "PO-none" }] }, "follows"],
    [{ type: "vessel" }, "type"],
  ];
  for (const [over, path] of refusals) {
    const refused = await enter("N-2", over);
    expect(refused.status).toBe(422);
    expect((refused.value as { errors: { path: string }[] }).errors.map((e) => e.path)).toContain(path);
  }
  expect((await business.call("PUT", "/drafts/no-id", draft("N-3"))).status).toBe(400);
  expect((await business.call("PUT", `/drafts/${randomUUID()}`, { company: 7 })).status).toBe(400);
});

test("posting makes a ledger entry, paying a payment, each once; all of it is told, signed and in order", async () => {
  const { number } = (await enter("P-1")).value as { number: string };
  const act = (what: string) => business.call("POST", `/records/supplierInvoice/${number}/${what}?company=MF`);
  expect((await act("pay")).status).toBe(409);
  expect((await act("post")).status).toBe(200);
  expect((await act("post")).status).toBe(200);
  expect((await act("pay")).status).toBe(200);
  expect((await act("pay")).status).toBe(200);
  expect((await act("burn")).status).toBe(409);
  const mine = () => heard.filter((h) => h.record.key === number || h.record.follows.some((f) => f.key === number));
  await until(() => mine().length >= 5);
  expect(mine().map((h) => [h.record.type, h.record.status])).toEqual([
    ["supplierInvoice", "entered"],
    ["supplierInvoice", "posted"],
    ["ledgerEntry", "posted"],
    ["supplierInvoice", "paid"],
    ["payment", "sent"],
  ]);
  expect(mine().every((h) => h.isSigned)).toBe(true);
  expect(new Set(heard.map((h) => h.id)).size).toBe(heard.length);
});

test("what is not taken is told again, before anything that came later; what is refused for good is given up on", async () => {
  // What earlier tests left to be told goes first.
  const told = (title: string): boolean => heard.some((h) => h.record.title === title);
  await enter("T-0");
  await until(() => told("Brae T-0"));
  heard = [];
  tries = 0;
  answers = [503];
  await enter("T-1");
  await enter("T-2");
  await until(() => told("Brae T-2"));
  expect(tries).toBe(3);
  expect(heard.map((h) => h.record.title)).toEqual(["Brae T-1", "Brae T-2"]);
  answers = [400];
  await enter("T-3");
  await enter("T-4");
  await until(() => told("Brae T-4"));
  expect(told("Brae T-3")).toBe(false);
});

test("its faults: slow, refusing, down, and dropping the line after entering", async () => {
  await business.setFaults({ refuses: true });
  expect(await enter("F-1")).toMatchObject({ status: 422, value: { errors: [{ message: expect.stringContaining("books") }] } });
  await business.setFaults({ down: true });
  await expect(enter("F-1")).rejects.toThrow();
  await business.setFaults({ drops: true });
  const id = randomUUID();
  await expect(enter("F-1", {}, id)).rejects.toThrow();
  await business.setFaults({ slowMs: 120 });
  const began = Date.now();
  expect((await enter("F-1", {}, id)).status).toBe(200);
  expect(Date.now() - began).toBeGreaterThanOrEqual(115);
  await business.setFaults({});
});

test("its pages show lists, records with their neighbours, events and faults, and what is foreign as text", async () => {
  const page = async (at: string) => (await fetch(`${business.url}${at}`)).text();
  const { number } = (await enter("V-1")).value as { number: string };
  expect(await page("/")).toContain("Supplier invoices");
  expect(await page("/records/supplierInvoice?q=V-1")).toContain(number);
  const record = await page(`/records/supplierInvoice/${number}?company=MF`);
  expect(record).toContain("Toner");
  expect(record).toContain("Post");
  const account = await page("/records/supplierAccount/S-1?company=MF");
  expect(account).not.toContain("<b>& Holm");
  expect(await page("/events")).toContain(number);
  expect(await page("/faults")).toContain("Simulated faults");
  expect((await fetch(`${business.url}/records/supplierInvoice/none?company=MF`)).status).toBe(404);
  // Another page cannot make it do anything.
  const foreign = await fetch(`${business.url}/faults`, {
    method: "POST",
    headers: { origin: "http://elsewhere.example" },
    body: "down=on",
  });
  expect(foreign.status).toBe(403);
});
