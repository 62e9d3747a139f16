import { act, cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { NuqsTestingAdapter, type UrlUpdateEvent } from "nuqs/adapters/testing";
import type { FindHit, Found } from "#server/search/find.ts";
import type { WaitingHit } from "#server/search/find-waiting.ts";
import { TopSlotProvider } from "../frame/top-slot.tsx";
import { fakeApi, renderOnPage, testMe, went } from "../kit/test-page.tsx";
import { FindScreen } from "./find-screen.tsx";

const hit = (n: number): FindHit => ({
  code: `AC-00000${n}`,
  title: `Invoice ${n}`,
  documentType: "supplierInvoice",
  company: "MF",
  documentDate: "2026-11-18",
  kind: "text",
  state: n === 2 ? "outOfSync" : "stored",
  snippet: [
    { text: "some ", hit: false },
    { text: "heron", hit: true },
  ],
  hits: 1,
  records: [{ company: "MF", type: "purchaseOrder", key: `PO-${n}`, title: "Order" }],
});
const found = (
  items: readonly FindHit[],
  over: Partial<Found> = {},
): Found & { next: string | null; waiting: { items: readonly WaitingHit[]; total: number } } => ({
  waiting: { items: [], total: 0 },
  items,
  total: items.length,
  totalIsExact: true,
  facets: {
    documentType: [{ value: "supplierInvoice", count: items.length }],
    recordType: [
      { value: "purchaseOrder", count: 2 },
      { value: "secretType", count: 9 },
    ],
    company: [],
    year: [],
  },
  next: null,
  ...over,
});
let api: ReturnType<typeof fakeApi>;
let address = "";
beforeEach(() => {
  // The words over a page come in an observer's time; here everything is near.
  globalThis.IntersectionObserver = class {
    observe(): void {}
    disconnect(): void {}
  } as unknown as typeof IntersectionObserver;
  Element.prototype.scrollIntoView = () => {};
});
afterEach(() => {
  cleanup();
  api.end();
  went.length = 0;
});
function draw(answer: (address: string) => unknown, start = ""): void {
  address = start;
  api = fakeApi({
    "/find": (_body, asked) => answer(asked),
    "/records/lookup": (_body, asked) => ({ items: asked.includes("q=S-2004") ? [account] : [] }),
    "/documents/": () => ({
      kind: "text",
      mediaType: "text/plain",
      state: "read",
      problem: null,
      pictures: false,
      pages: [],
      outline: null,
      text: "the whole text",
    }),
  });
  renderOnPage(
    <NuqsTestingAdapter searchParams={start} onUrlUpdate={(e: UrlUpdateEvent) => void (address = e.queryString)} hasMemory>
      <TopSlotProvider>
        <FindScreen />
      </TopSlotProvider>
    </NuqsTestingAdapter>,
    {
      ...testMe,
      companies: [
        { code: "MF", name: "Merrowick Ferries Ltd" },
        { code: "QS", name: "Merrowick Quay Services Ltd" },
      ],
    },
  );
}
const account = {
  id: 1,
  company: "MF",
  type: "supplierAccount",
  key: "S-2004",
  title: "Tarrin Marine Fuels",
  status: null,
  date: null,
  amount: null,
  currency: null,
  parent: null,
  corrected: false,
};
const field = () => screen.getByLabelText("Search documents");

describe("Find", () => {
  test("shows hits with their marks, their records and how many there are; types one may not see have no filter", async () => {
    draw(() => found([hit(1), hit(2)]));
    expect(await screen.findByText("Invoice 1")).toBeTruthy();
    expect(screen.getAllByText("heron", { selector: "mark" })).toHaveLength(2);
    expect(screen.getByText("2 documents")).toBeTruthy();
    expect(screen.getByText("PO-1").closest("a")?.getAttribute("href")).toContain("/records/purchaseOrder/PO-1");
    expect(screen.queryByText(/secretType/)).toBeNull();
  });
  test("what is typed and filtered goes into the address and is asked for", async () => {
    draw(() => found([hit(1)]));
    await screen.findByText("Invoice 1");
    fireEvent.change(field(), { target: { value: "pale heron" } });
    await waitFor(() => expect(address).toContain("q=pale+heron"));
    fireEvent.click(screen.getByRole("button", { name: /Supplier invoice 1/ }));
    await waitFor(() =>
      expect(api.asked.filter((a) => a.includes("/find")).at(-1)).toMatch(
        /q=pale\+heron.*type=supplierInvoice|type=supplierInvoice.*q=pale\+heron/,
      ),
    );
    fireEvent.click(screen.getAllByLabelText("remove")[0] as Element);
    await waitFor(() => expect(address).not.toContain("type="));
  });
  test("the address says what is looked for", async () => {
    draw(() => found([hit(3)]), "?q=toner&from=2026-01-01");
    expect(await screen.findByDisplayValue("toner")).toBeTruthy();
    expect(screen.getByText(/from 1 Jan 2026/)).toBeTruthy();
    expect(api.asked.some((a) => a.includes("/find") && a.includes("from=2026-01-01"))).toBe(true);
  });
  test("an account's number offers everything of it; arrivals with the words and documents out of sync say so", async () => {
    draw(
      () => ({
        ...found([hit(2)]),
        waiting: {
          items: [
            {
              id: "a7",
              fileName: "rope.pdf",
              kind: "pdf",
              queue: "payables",
              state: "ready",
              receivedAt: "2026-11-19T09:00:00Z",
              snippet: [{ text: "S-2004", hit: true }],
            },
          ],
          total: 1,
        },
      }),
      "?q=S-2004",
    );
    expect(await screen.findByText("out of sync")).toBeTruthy();
    expect(screen.getByRole("link", { name: /rope.pdf/ }).getAttribute("href")).toBe("/arrivals?at=a7");
    expect(screen.getByText("waiting")).toBeTruthy();
    expect(screen.getByRole("link", { name: "Invoice 2" }).getAttribute("href")).toBe("/documents/AC-000002?q=S-2004");
    fireEvent.click(await screen.findByRole("button", { name: /Everything of S-2004/ }));
    await waitFor(() => expect(address).toContain("within=supplierAccount:S-2004"));
    expect(address).not.toContain("q=");
    expect(screen.getByText(/everything of S-2004/)).toBeTruthy();
  });
  test("says when the counts are of the newest only", async () => {
    draw(() => found([hit(1)], { total: 10_000, totalIsExact: false }));
    expect(await screen.findByText(/more than 10,000 documents; counts cover the newest/)).toBeTruthy();
  });
  test("nothing found offers wider words, and taking filters off", async () => {
    draw(
      (asked) => (asked.includes("bunker*") || asked.includes("bunker%2A") ? found([hit(5)]) : found([])),
      "?q=bunkering&type=supplierInvoice",
    );
    fireEvent.click(await screen.findByText("bunker*"));
    expect(await screen.findByText("Invoice 5")).toBeTruthy();
    expect(screen.getByDisplayValue("bunker*")).toBeTruthy();
  });
  test("j and k go through the hits with the document beside them, Enter opens it, Escape closes it", async () => {
    draw(() => found([hit(1), hit(2)]));
    await screen.findByText("Invoice 1");
    fireEvent.keyDown(document.body, { key: "j" });
    expect(await screen.findByText("the whole text")).toBeTruthy();
    await waitFor(() => expect(address).toContain("open=AC-000001"));
    fireEvent.keyDown(document.body, { key: "j" });
    await waitFor(() => expect(address).toContain("open=AC-000002"));
    fireEvent.keyDown(document.body, { key: "Enter" });
    expect(went).toEqual(["/documents/AC-000002"]);
    fireEvent.keyDown(document.body, { key: "Escape" });
    await waitFor(() => expect(address).not.toContain("open="));
  });
  test("more are asked for while one scrolls", async () => {
    draw((asked) => (asked.includes("cursor=1") ? found([hit(2)], { total: 2 }) : { ...found([hit(1)], { total: 2 }), next: "1" }));
    await screen.findByText("Invoice 1");
    await act(async () => void fireEvent.scroll(screen.getByRole("region", { name: "Documents found" })));
    expect(await screen.findByText("Invoice 2")).toBeTruthy();
  });
  test("an outage is said where the documents would be, and can be tried again", async () => {
    draw(() => Response.json({ title: "Part of the program is not answering", status: 400 }, { status: 400 }));
    expect(await screen.findByText("Part of the program is not answering")).toBeTruthy();
    expect(screen.getByText("Try again")).toBeTruthy();
  });
});
