/**
 * A stand-in for a business system: its own process with its own small database, record lists and screens, an HTTP API that takes drafts, and a signed
 * web hook that tells of every change. Posting makes ledger entries, paying makes payments. It does not imitate: double entry, tax returns, rights of
 * people (its pages are open to whoever reaches its port, which is on loopback), or many companies' charts of accounts.
 */
import http from "node:http";
import { parseArgs } from "node:util";
import { z } from "zod";
import { endWithParent } from "../standin.ts";
import { deliverEvents } from "./hooks.ts";
import { eventsPage, faultsPage, homePage, listPage, recordPage } from "./pages.ts";
import { draftSchema, enterDraft, faultsSchema, loadFaults, pay, post, saveFaults } from "./rules.ts";
import { openStore, saveRecord, within } from "./store.ts";

const { values } = parseArgs({ options: { port: { type: "string" }, hook: { type: "string" } } });
const port = Number(values.port);
const database = process.env["BUSINESS_DATABASE_URL"];
const key = process.env["BUSINESS_KEY"] ?? "";
if (!Number.isInteger(port) || port < 1 || database === undefined || key === "") {
  console.error(
    "--port N is needed, BUSINESS_DATABASE_URL and BUSINESS_KEY too; with --hook ADDRESS and BUSINESS_HOOK_SECRET changes are told",
  );
  process.exit(1);
}
const pool = await openStore(database);
const secret = process.env["BUSINESS_HOOK_SECRET"];
if (values.hook !== undefined && secret !== undefined) {
  await pool.query("delete from hook");
  await pool.query("insert into hook (url, secret) values ($1, $2)", [values.hook, secret]);
}

/** Bytes of one body: a load of many records is the largest. */
const BODY_MAX = 64 * 1024 * 1024;
const reference = z.object({ type: z.string(), key: z.string() });
const recordSchema = z.object({
  company: z.string(),
  type: z.string(),
  key: z.string(),
  title: z.string(),
  status: z.string().nullable(),
  fields: z.record(z.string(), z.string()),
  lines: z.array(z.record(z.string(), z.string())).nullish(),
  parent: reference.nullish(),
  follows: z.array(reference).default([]),
});

const today = (): string => new Date().toISOString().slice(0, 10);

async function bodyOf(request: http.IncomingMessage): Promise<string> {
  const pieces: Buffer[] = [];
  let bytes = 0;
  for await (const piece of request) {
    bytes += (piece as Buffer).length;
    if (bytes > BODY_MAX) throw new Error("too large");
    pieces.push(piece as Buffer);
  }
  return Buffer.concat(pieces).toString("utf8");
}

async function handle(request: http.IncomingMessage, response: http.ServerResponse): Promise<void> {
  const url = new URL(request.url ?? "/", "http://stand.in");
  const parts = url.pathname.split("/").filter(Boolean).map(decodeURIComponent);
  const json = (status: number, value: unknown): void => {
    response.writeHead(status, { "content-type": "application/json" });
    response.end(JSON.stringify(value));
  };
  const html = (text: string | null): void => {
    response.writeHead(text === null ? 404 : 200, {
      "content-type": "text/html; charset=utf-8",
      "content-security-policy": "default-src 'none'; style-src 'unsafe-inline'; form-action 'self'",
    });
    response.end(text ?? "Not found.");
  };
  const goTo = (to: string): void => {
    response.writeHead(303, { location: to });
    response.end();
  };
  const company = url.searchParams.get("company") ?? "MF";
  if (parts[0] === "api") {
    if (request.headers.authorization !== `Bearer ${key}`) return json(401, { error: "not signed in" });
    if (parts[1] === "faults") {
      if (request.method === "PUT") await saveFaults(pool, faultsSchema.parse(JSON.parse(await bodyOf(request))));
      return json(200, await loadFaults(pool));
    }
    const faults = await loadFaults(pool);
    if (faults.down) return void request.socket.destroy();
    if (faults.slowMs > 0) await new Promise((resolve) => setTimeout(resolve, faults.slowMs));
    if (request.method === "PUT" && parts[1] === "drafts" && parts[2] !== undefined) {
      const id = z.uuid().safeParse(parts[2]);
      const draft = draftSchema.safeParse(JSON.parse(await bodyOf(request)));
      if (!id.success || !draft.success) return json(400, { error: "this is not a draft" });
      if (faults.refuses)
        return json(422, { state: "refused", errors: [{ path: "", message: "no entries today: the books are being closed" }] });
      const entered = await within(pool, (client) => enterDraft(client, id.data, draft.data));
      if (faults.drops) return void request.socket.destroy();
      if ("refused" in entered) return json(422, { state: "refused", errors: entered.refused });
      return json(200, { state: "accepted", number: entered.record.key, status: entered.record.status });
    }
    if (request.method === "POST" && parts[1] === "load") {
      const records = z.array(recordSchema).parse(JSON.parse(await bodyOf(request)));
      await within(pool, async (client) => {
        for (const r of records)
          await saveRecord(client, { ...r, lines: r.lines ?? null, parent: r.parent ?? null, draft: null }, { quiet: true });
      });
      return json(200, { loaded: records.length });
    }
    if (request.method === "POST" && parts[1] === "records" && parts[2] !== undefined && parts[3] !== undefined) {
      const wrong = await act(parts[4] ?? "", company, parts[2], parts[3]);
      return wrong === null ? json(200, { done: true }) : json(409, { error: wrong });
    }
    return json(404, { error: "not found" });
  }
  if (request.method === "POST") {
    // Its pages change things only when its own page asks.
    const origin = request.headers.origin;
    if (origin !== undefined && origin !== `http://${request.headers.host ?? ""}`) return json(403, { error: "from another page" });
    if (parts[0] === "faults") {
      const form = new URLSearchParams(await bodyOf(request));
      const set = faultsSchema.safeParse({
        slowMs: form.get("slowMs") || 0,
        refuses: form.has("refuses"),
        down: form.has("down"),
        drops: form.has("drops"),
      });
      if (set.success) await saveFaults(pool, set.data);
      return goTo("/faults");
    }
    if (parts[0] === "records" && parts[1] !== undefined && parts[2] !== undefined) {
      const wrong = await act(parts[3] ?? "", company, parts[1], parts[2]);
      return goTo(
        `/records/${parts[1]}/${encodeURIComponent(parts[2])}?company=${encodeURIComponent(company)}${wrong ? `&said=${encodeURIComponent(wrong)}` : ""}`,
      );
    }
  }
  if (parts.length === 0) return html(await homePage(pool));
  if (parts[0] === "faults") return html(faultsPage(await loadFaults(pool)));
  if (parts[0] === "events") return html(await eventsPage(pool));
  if (parts[0] === "records" && parts[1] !== undefined && parts[2] !== undefined)
    return html(await recordPage(pool, company, parts[1], parts[2], url.searchParams.get("said") ?? ""));
  if (parts[0] === "records" && parts[1] !== undefined) return html(await listPage(pool, parts[1], url.searchParams.get("q") ?? ""));
  html(null);
}

const act = (what: string, company: string, type: string, recordKey: string): Promise<string | null> =>
  within(pool, async (client) => {
    if (what === "post") return post(client, company, type, recordKey, today());
    if (what === "pay" && type === "supplierInvoice") return pay(client, company, recordKey, today());
    return "that cannot be done here";
  });

const server = http.createServer((request, response) => {
  handle(request, response).catch((error: unknown) => {
    console.error(error instanceof Error ? error.message : String(error));
    if (!response.headersSent)
      response.writeHead(error instanceof z.ZodError || error instanceof SyntaxError ? 400 : 500, { "content-type": "application/json" });
    response.end(JSON.stringify({ error: "this could not be done" }));
  });
});
server.listen(port, "127.0.0.1", () => console.log(`ready http://127.0.0.1:${port}`));
const telling = deliverEvents(pool);
process.on("exit", () => telling.stop());
endWithParent();
