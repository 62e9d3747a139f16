import { cleanup, fireEvent, render, screen, waitFor } from "@testing-library/react";
import type { InvoiceCompared } from "#core/comparing/compare-invoice.ts";
import type { Comparison } from "#server/comparing/load-comparison.ts";
import { fakeApi, renderOnPage } from "../kit/test-page.tsx";
import { ToleranceSettings } from "../set-up/tolerance.tsx";
import { ComparisonLine } from "./comparison-line.tsx";
import { ComparisonPanel } from "./comparison-panel.tsx";

const order = { company: "MF", type: "purchaseOrder", key: "PO-6110", title: "Marine gas oil" };
const compared: InvoiceCompared = {
  kind: "invoice",
  lines: [
    {
      text: "Marine gas oil DMA",
      unit: "l",
      paper: { quantity: "5800", price: "0.80", amount: "4640.00" },
      order: { quantity: "5800", price: "0.712", amount: "4129.60" },
      received: "5800",
      invoicedBefore: null,
      difference: "510.40",
      state: "apart",
      page: 1,
      box: [50, 200, 400, 10],
    },
    {
      text: "Hose crew",
      unit: "h",
      paper: null,
      order: { quantity: "1", price: "180.00", amount: "180.00" },
      received: "0",
      invoicedBefore: null,
      difference: null,
      state: "missing",
      page: null,
      box: null,
    },
    {
      text: "Levy",
      unit: null,
      paper: { quantity: "1", price: null, amount: "5.00" },
      order: null,
      received: null,
      invoicedBefore: null,
      difference: null,
      state: "unordered",
      page: 1,
      box: null,
    },
  ],
  findings: [
    { code: "price-over", line: 0, what: "Marine gas oil DMA", paper: "0.80", record: "0.712" },
    { code: "total-over", line: null, what: "510.40", paper: "4640.00", record: "4129.60" },
  ],
  sums: { of: "net", paper: "4640.00", order: "4129.60", invoicedBefore: "100.00", difference: "510.40" },
  verdict: "differs",
};
const comparison: Comparison = {
  compared,
  beside: order,
  sentence: { text: "GBP 510.40 more than ordered", tone: "wrong" },
  currency: "GBP",
  mail: null,
};
let api: ReturnType<typeof fakeApi> | null = null;
afterEach(() => {
  cleanup();
  api?.end();
  api = null;
});

test("one sentence says what came of it; the rest is a key away", () => {
  let opened = 0;
  const { rerender } = render(<ComparisonLine comparison={comparison} isOpen={false} onToggle={() => opened++} />);
  expect(screen.getByRole("status").textContent).toContain("GBP 510.40 more than ordered");
  fireEvent.click(screen.getByRole("button", { name: /Compare/ }));
  expect(opened).toBe(1);
  rerender(<ComparisonLine comparison={{ ...comparison, compared: null, sentence: null }} isOpen={false} onToggle={() => {}} />);
  expect(screen.queryByRole("button")).toBeNull();
});

test("lines stand beside each other, with what is odd marked, and point at the page", () => {
  const pointed: unknown[] = [];
  renderOnPage(<ComparisonPanel comparison={comparison} onClose={() => {}} onPoint={(p) => pointed.push(p)} />);
  const row = screen.getByRole("row", { name: /Marine gas oil DMA/ });
  expect(row.textContent).toContain("5,800");
  expect(row.textContent).toContain("0.712");
  expect(row.textContent).toContain("+510.40");
  expect([...row.querySelectorAll(".odd")].map((c) => c.textContent)).toEqual(["0.80", "+510.40"]);
  fireEvent.mouseEnter(row);
  expect(pointed).toEqual([{ page: 1, box: [50, 200, 400, 10], words: "Marine gas oil DMA" }]);
  expect(screen.getByText("not on the document")).toBeTruthy();
  expect(screen.getByText("not ordered")).toBeTruthy();
  expect(screen.getByText(/100.00 invoiced earlier/)).toBeTruthy();
});

test("a delivery beside its order, and a booking of which only facts are compared", () => {
  const line = {
    text: "Toner",
    unit: "each",
    delivered: "8",
    ordered: "10",
    receivedBefore: null,
    difference: "-2",
    state: "short" as const,
    page: null,
    box: null,
  };
  const { unmount } = renderOnPage(
    <ComparisonPanel
      comparison={{ ...comparison, compared: { kind: "delivery", lines: [line], fields: [], verdict: "differs" } }}
      onClose={() => {}}
      onPoint={() => {}}
    />,
  );
  expect(screen.getByRole("row", { name: /Toner/ }).textContent).toContain("−2");
  expect(screen.getByText("short")).toBeTruthy();
  unmount();
  renderOnPage(
    <ComparisonPanel
      comparison={{
        ...comparison,
        compared: {
          kind: "delivery",
          lines: [],
          fields: [{ field: "Vessel", paper: "MV Sandling", record: "MV Pale Heron", isSame: false }],
          verdict: "differs",
        },
      }}
      onClose={() => {}}
      onPoint={() => {}}
    />,
  );
  expect(screen.getByText("Vessel: MV Sandling on the document, MV Pale Heron on the record")).toBeTruthy();
});

test("a statement: each invoice with what we have of it, what is open and not on it, and the mail", () => {
  const known = { at: "supplierInvoice:SI-1", as: "record" as const, label: "SI-1", total: "33.00", hasPaper: false };
  const stated = { date: "2026-10-04", page: null, box: null };
  renderOnPage(
    <ComparisonPanel
      comparison={{
        ...comparison,
        beside: { company: "MF", type: "supplierAccount", key: "S-2010", title: "Brae" },
        compared: {
          kind: "statement",
          lines: [
            { ...stated, number: "BH-303", amount: "30.00", state: "other-amount", known, difference: "-3.00" },
            {
              ...stated,
              number: "BH-304",
              amount: "40.00",
              state: "waiting",
              known: { ...known, at: "a1", as: "arrival", label: "scan.pdf", hasPaper: true },
              difference: null,
            },
            { ...stated, number: "BH-305", amount: "50.00", state: "missing", known: null, difference: null },
          ],
          counts: { paid: 0, "on-file": 0, waiting: 1, "other-amount": 1, missing: 1 },
          sum: "120.00",
          stated: "121.00",
          unstated: [{ at: "AC-000007", as: "document", label: "AC-000007", total: "9.00", date: null }],
          verdict: "differs",
        },
        mail: { to: null, subject: "Copy of invoice BH-305", body: "Good day" },
      }}
      onClose={() => {}}
      onPoint={() => {}}
    />,
  );
  expect(screen.getByRole("link", { name: "SI-1" }).getAttribute("href")).toBe("/records/supplierInvoice/SI-1?company=MF");
  expect(screen.getByText("no document")).toBeTruthy();
  expect(screen.getByRole("link", { name: "scan.pdf" }).getAttribute("href")).toBe("/arrivals?at=a1");
  expect(screen.getByText("its balance is 121.00")).toBeTruthy();
  expect(screen.getByRole("link", { name: "AC-000007" })).toBeTruthy();
  expect(screen.getByText("the account has no mail address")).toBeTruthy();
  expect(screen.getByRole("link", { name: /Open in the mail program/ }).getAttribute("href")).toBe(
    "mailto:?subject=Copy%20of%20invoice%20BH-305&body=Good%20day",
  );
});

test("tolerance is typed in per cent; what is none cannot be saved", async () => {
  const saved: unknown[] = [];
  api = fakeApi({
    "/settings/tolerance": (body) => (body ? (saved.push(body), body) : { share: 0.02, amount: "5.00", quantityShare: 0.005 }),
  });
  renderOnPage(<ToleranceSettings />);
  const share = await screen.findByLabelText<HTMLInputElement>("Prices and totals");
  expect(share.value).toBe("2");
  fireEvent.change(share, { target: { value: "much" } });
  expect(screen.getByRole<HTMLButtonElement>("button", { name: "Save" }).disabled).toBe(true);
  fireEvent.change(share, { target: { value: "1.5" } });
  fireEvent.click(screen.getByRole("button", { name: "Save" }));
  await waitFor(() => expect(saved).toEqual([{ share: 0.015, amount: "5.00", quantityShare: 0.005 }]));
});
