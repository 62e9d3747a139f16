import type pg from "pg";
import type { Faults } from "./rules.ts";
import { type BusinessRecord, findRecord } from "./store.ts";

const labels: Readonly<Record<string, string>> = {
  customerAccount: "Customers",
  supplierAccount: "Suppliers",
  contact: "Contacts",
  freightBooking: "Freight bookings",
  loadingConfirmation: "Loading confirmations",
  charterAgreement: "Charters",
  salesInvoice: "Sales invoices",
  creditNote: "Credit notes",
  damageClaim: "Claims",
  purchaseOrder: "Purchase orders",
  goodsReceipt: "Goods receipts",
  supplierInvoice: "Supplier invoices",
  payment: "Payments",
  ledgerEntry: "Ledger entries",
  journal: "Journals",
  bankAccount: "Bank accounts",
  bankReconciliation: "Reconciliations",
  vessel: "Vessels",
  refit: "Refits",
  crewMember: "Crew",
  stockItem: "Stock items",
};

const escape = (text: string): string => text.replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`);
const address = (r: { readonly company: string; readonly type: string; readonly key: string }): string =>
  `/records/${r.type}/${encodeURIComponent(r.key)}?company=${encodeURIComponent(r.company)}`;

/** A page of the stand-in around its content. */
function page(title: string, body: string): string {
  return `<!doctype html><html lang="en-GB"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>${escape(title)} · stand-in business system</title>
<style>body{font:14px/1.5 system-ui,sans-serif;margin:0;color:#222;background:#eef0f2}header{background:#34404c;color:#fff;padding:10px 20px;display:flex;gap:20px;align-items:baseline}
header a{color:#cfe0ee}main{max-width:1080px;margin:16px auto;background:#fff;border:1px solid #ccd2d8;padding:18px 22px}h1{font-size:19px;margin:0 0 12px}h2{font-size:15px}
table{border-collapse:collapse;width:100%}td,th{padding:4px 8px;border-bottom:1px solid #e3e7ea;text-align:left;vertical-align:top}.n{text-align:right;font-variant-numeric:tabular-nums}
form{display:inline-block;margin-right:8px}button,input{font:inherit;padding:4px 10px}dl{display:grid;grid-template-columns:160px 1fr;gap:2px 12px}dt{color:#666}dd{margin:0}.bad{color:#a12}ul{padding-left:18px}</style></head>
<body><header><strong>Stand-in business system</strong><a href="/">Records</a><a href="/events">Events</a><a href="/faults">Faults</a></header><main>${body}</main></body></html>`;
}

/** All record types with their counts. */
export async function homePage(pool: pg.Pool): Promise<string> {
  const counts = await pool.query<{ type: string; n: string }>("select type, count(*) as n from record group by type");
  const by = new Map(counts.rows.map((r) => [r.type, r.n]));
  return page(
    "Records",
    `<h1>Records</h1><table>${Object.entries(labels)
      .map(([type, label]) => `<tr><td><a href="/records/${type}">${label}</a></td><td class="n">${by.get(type) ?? 0}</td></tr>`)
      .join("")}</table>`,
  );
}

/** Records shown in one list. */
const LISTED = 100;

/** The records of one type, those changed last first. */
export async function listPage(pool: pg.Pool, type: string, q: string): Promise<string> {
  const rows = await pool.query<BusinessRecord>(
    "select * from record where type = $1 and ($2 = '' or key ilike '%' || $2 || '%' or title ilike '%' || $2 || '%') order by changed_at desc, key desc limit $3",
    [type, q, LISTED],
  );
  return page(
    labels[type] ?? type,
    `<h1>${escape(labels[type] ?? type)}</h1><form><input name="q" value="${escape(q)}" aria-label="Number or title"> <button>Search</button></form>
<table><tr><th>Number</th><th>Title</th><th>Company</th><th>Status</th><th class="n">Total</th></tr>${rows.rows
      .map(
        (r) =>
          `<tr><td><a href="${address(r)}">${escape(r.key)}</a></td><td>${escape(r.title)}</td><td>${escape(r.company)}</td><td>${escape(r.status ?? "")}</td><td class="n">${escape(r.fields["total"] ?? "")}</td></tr>`,
      )
      .join("")}</table>`,
  );
}

/** One record with what it follows and what follows it; null when there is none. */
export async function recordPage(pool: pg.Pool, company: string, type: string, key: string, said: string): Promise<string | null> {
  const r = await findRecord(pool, company, type, key);
  if (!r) return null;
  const after = await pool.query<BusinessRecord>(
    "select * from record where company = $1 and follows @> $2::jsonb order by type, key limit 50",
    [company, JSON.stringify([{ type, key }])],
  );
  const link = (x: { readonly type: string; readonly key: string }): string =>
    `<a href="${address({ company, ...x })}">${escape(`${labels[x.type] ?? x.type}: ${x.key}`)}</a>`;
  const button = (act: string, label: string): string =>
    `<form method="post" action="/records/${type}/${encodeURIComponent(key)}/${act}?company=${encodeURIComponent(company)}"><button>${label}</button></form>`;
  const buttons =
    r.status === "entered" ? button("post", "Post") : r.type === "supplierInvoice" && r.status === "posted" ? button("pay", "Pay") : "";
  return page(
    key,
    `<h1>${escape(key)} ${escape(r.title)}</h1>${said ? `<p class="bad">${escape(said)}</p>` : ""}<p>Status: <strong>${escape(r.status ?? "none")}</strong></p><p>${buttons}</p>
<dl>${Object.entries(r.fields)
      .map(([k, v]) => `<dt>${escape(k)}</dt><dd>${escape(v)}</dd>`)
      .join(
        "",
      )}${r.parent ? `<dt>parent</dt><dd>${link(r.parent)}</dd>` : ""}${r.draft ? `<dt>from draft</dt><dd>${escape(r.draft)}</dd>` : ""}</dl>
${r.lines?.length ? `<h2>Lines</h2><table>${r.lines.map((l) => `<tr><td>${escape(l["text"] ?? "")}</td><td class="n">${escape(l["quantity"] ?? "")} ${escape(l["unit"] ?? "")}</td><td class="n">${escape(l["price"] ?? "")}</td><td class="n">${escape(l["amount"] ?? "")}</td></tr>`).join("")}</table>` : ""}
<h2>Follows</h2><ul>${r.follows.map((x) => `<li>${link(x)}</li>`).join("") || "<li>none</li>"}</ul><h2>Followed by</h2><ul>${after.rows.map((x) => `<li>${link(x)} (${escape(x.status ?? "")})</li>`).join("") || "<li>none</li>"}</ul>`,
  );
}

/** What was told to the web hook, the latest first. */
export async function eventsPage(pool: pg.Pool): Promise<string> {
  const rows = await pool.query<{
    at: Date;
    payload: { record?: { type: string; key: string } };
    attempts: number;
    delivered_at: Date | null;
    problem: string | null;
  }>("select at, payload, attempts, delivered_at, problem from event order by number desc limit 100");
  return page(
    "Events",
    `<h1>Webhook calls</h1><table><tr><th>When</th><th>What</th><th class="n">Tries</th><th>State</th></tr>${rows.rows
      .map(
        (e) =>
          `<tr><td>${e.at.toISOString()}</td><td>${escape(`${e.payload.record?.type ?? ""} ${e.payload.record?.key ?? ""}`)}</td><td class="n">${e.attempts}</td><td>${e.problem ? `<span class="bad">${escape(e.problem)}</span>` : e.delivered_at ? "taken" : "waits"}</td></tr>`,
      )
      .join("")}</table>`,
  );
}

/** The switch for what goes wrong. */
export function faultsPage(f: Faults): string {
  const box = (name: keyof Faults, label: string): string =>
    `<p><label><input type="checkbox" name="${name}" value="on"${f[name] ? " checked" : ""}> ${label}</label></p>`;
  return page(
    "Faults",
    `<h1>Simulated faults</h1><form method="post" action="/faults"><p><label>Delay every answer by <input name="slowMs" size="6" value="${f.slowMs}"> ms</label></p>
${box("refuses", "Drafts are refused")}${box("down", "No answers")}${box("drops", "Drafts are entered, but the connection drops before the answer")}<button>Set</button></form>`,
  );
}
