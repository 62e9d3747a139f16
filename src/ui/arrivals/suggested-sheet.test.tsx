import { act, cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { createRef } from "react";
import type { Reading } from "#core/reading/reading.ts";
import type { ArrivalAnswer } from "#server/arrivals/list-arrivals.ts";
import type { SuggestionAnswer } from "#server/matching/load-suggestions.ts";
import { fakeApi, renderOnPage, testMe } from "../kit/test-page.tsx";
import { numberPlaces, type PageMark, type PickedWords } from "../pages/marks.ts";
import { suggestionChip } from "./arrival-row.tsx";
import { FilingSheet, type SheetHandle } from "./filing-sheet.tsx";

const reading = (field: Reading["field"], value: string, over: Partial<Reading> = {}): Reading => ({
  field,
  value,
  certainty: 0.98,
  page: 1,
  box: [400, 80, 60, 10],
  text: value,
  label: "No.",
  others: [],
  from: "page",
  ...over,
});
const suggestion = (key: string, over: Partial<SuggestionAnswer> = {}): SuggestionAnswer => ({
  company: "MF",
  type: "purchaseOrder",
  key,
  title: "Bunkering",
  status: "received",
  date: "2026-11-14",
  amount: "4862.50",
  currency: "GBP",
  parent: null,
  certainty: 0.98,
  verdict: "sure",
  reasons: [
    { kind: "orderNamed", words: "order number", text: key, page: 1, box: [100, 160, 50, 10], against: false },
    { kind: "totalFits", words: "total fits", text: "5,835.00", page: 1, box: [500, 332, 60, 10], against: false },
    { kind: "recent", words: "names MV Pale Heron", text: "MV Pale Heron", against: false },
  ],
  clashes: [],
  apart: null,
  ...over,
});
const arrival = (over: Partial<ArrivalAnswer> = {}): ArrivalAnswer =>
  ({
    id: "a1",
    state: "ready",
    fileName: "invoice.pdf",
    queue: "payables",
    company: "MF",
    problem: null,
    children: [],
    tied: null,
    proposedType: { type: "supplierInvoice", certainty: 0.97 },
    readings: [reading("documentNumber", "77-3108"), reading("total", "5835.00", { box: [501, 332, 60, 10], text: "5,835.00" })],
    doubts: [],
    suggestions: [suggestion("PO-6127"), suggestion("PO-6126", { certainty: 0.02, verdict: "none" })],
    none: 0,
    ...over,
  }) as ArrivalAnswer;

let api: ReturnType<typeof fakeApi>;
const handle = createRef<SheetHandle>();
let sent: { to: string; body: unknown }[] = [];
let marks: readonly PageMark[] = [];
afterEach(() => {
  cleanup();
  api.end();
  sent = [];
  marks = [];
});
const order = (key: string) => ({ ...suggestion(key), fields: { total: "1.00", documentNumber: "of the record" }, parent: null });
function sheet(over: Partial<ArrivalAnswer>, picked: PickedWords | null = null) {
  return (
    <FilingSheet
      arrival={arrival(over)}
      handle={handle}
      actions={null}
      onFiled={() => {}}
      picked={picked}
      onMarks={(m) => {
        marks = m;
      }}
    />
  );
}
function draw(over: Partial<ArrivalAnswer> = {}, picked: PickedWords | null = null) {
  const keep = (to: string) => (body: unknown) => {
    sent.push({ to, body });
    return { code: "AC-000001", title: "x", path: "x", location: {} };
  };
  api = fakeApi({
    "/records/purchaseOrder/PO-6127": () => order("PO-6127"),
    "/records/purchaseOrder/PO-6126": () => order("PO-6126"),
    "/records/lookup": () => ({ items: [order("PO-6126")] }),
    "/arrivals/a1/preview": () => ({
      title: "Supplier invoice",
      place: { folder: ["Suppliers"], fileName: "x.pdf", unassigned: false },
      sameName: false,
    }),
    "/arrivals/a1/file": keep("file"),
    "/arrivals/a1/readings": keep("readings"),
  });
  return renderOnPage(sheet(over, picked));
}
const main = (key: string) => screen.findByText(key, { selector: ".clip-card.is-main .mono" });

describe("Beside what is proposed", () => {
  test.each([
    [
      { own: ["order number", "total fits"], others: ["names the route"], isAsLikely: false },
      "Only this record, not PO-6126: order number, total fits. Only PO-6126: names the route.",
    ],
    [{ own: [], others: [], isAsLikely: true }, "PO-6126 is equally likely. The same reasons apply to PO-6126."],
  ])("it stands how it differs from the next one", async (apart, words) => {
    const suggestions = (certainty: number) => [
      suggestion("PO-6127", { apart: { key: "PO-6126", ...apart } }),
      suggestion("PO-6126", { certainty, verdict: "none" }),
    ];
    const said = () => document.querySelector(".told-apart")?.textContent?.trim();
    const { unmount } = draw({ suggestions: suggestions(0.06) });
    await main("PO-6127");
    expect(said()).toBe(words);
    unmount();
    // Beside one that is sure and far ahead only when asked.
    draw({ suggestions: suggestions(0.02) });
    await main("PO-6127");
    expect(said()).toBeUndefined();
    fireEvent.click(screen.getByRole("button", { name: "not for PO-6126" }));
    expect(said()).toBe(words);
  });
  test("records along its chain are offered, but for those that are suggested anyway", async () => {
    const along = (type: string, key: string) => ({ company: "MF", type, key, title: key, date: null, documents: 0 });
    api = fakeApi({
      "/records/purchaseOrder/PO-6127": () => ({
        ...order("PO-6127"),
        chain: [along("purchaseOrder", "PO-6127"), along("goodsReceipt", "GR-1"), along("purchaseOrder", "PO-6126")],
      }),
      "/records/goodsReceipt/GR-1": () => ({ ...order("GR-1"), type: "goodsReceipt" }),
    });
    renderOnPage(sheet({}));
    await main("PO-6127");
    const offered = screen.getByRole("group", { name: "Along the chain of PO-6127" });
    expect(offered.textContent).toBe(" goodsReceipt GR-1");
    fireEvent.click(screen.getByRole("button", { name: /GR-1/ }));
    await waitFor(() => expect(document.querySelectorAll(".clip-card .loop").length).toBeGreaterThan(1));
  });
  test("where nothing was found a new record is offered; nobody who may not make one is told of it", async () => {
    let begun: unknown[] = [];
    api = fakeApi({});
    const { unmount } = renderOnPage(
      <FilingSheet
        arrival={arrival({ suggestions: [] })}
        handle={handle}
        actions={null}
        onFiled={() => {}}
        onDraft={(start, type) => {
          begun = [start, type];
        }}
      />,
      {
        ...testMe,
        recordTypes: testMe.recordTypes.map((t) => ({ ...t, draft: { needs: [], papers: [], titleFrom: [], lines: false } })),
      },
    );
    expect(screen.getByText("No matching record found.")).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: /New record/ }));
    expect(begun).toEqual([null, "supplierInvoice"]);
    unmount();
    renderOnPage(sheet({ suggestions: [] }));
    expect(screen.queryByText("No matching record found.")).toBeNull();
  });
  test("what the program decided of a document that is held back is not told", () => {
    api = fakeApi({});
    renderOnPage(sheet({ suggestions: [], readings: [], proposedType: null, isHeldBack: true }));
    expect(screen.queryByRole("list", { name: "Reasons" })).toBeNull();
    expect(screen.getByLabelText<HTMLSelectElement>("Document type").value).toBe("");
    expect(suggestionChip(arrival({ suggestions: [], isHeldBack: true }))?.words ?? null).toBeNull();
  });
});

describe("A document whose record was found", () => {
  test("has it chosen, with its reasons, its type and what was read; one key files it", async () => {
    draw();
    await main("PO-6127");
    expect(screen.getByText("98 %").className).toContain("is-sure");
    expect(screen.getByRole("list", { name: "Reasons" }).textContent).toContain("order number");
    expect(screen.getByLabelText<HTMLSelectElement>("Document type").value).toBe("supplierInvoice");
    // What the document says of itself goes before what the record says.
    expect(screen.getByLabelText<HTMLInputElement>("Number").value).toBe("77-3108");
    expect(screen.getByLabelText<HTMLInputElement>("Total").value).toBe("5835.00");
    await screen.findByText("x.pdf");
    act(() => handle.current?.file());
    await waitFor(() => expect(sent).toHaveLength(1));
    expect(sent[0]?.body).toMatchObject({ clips: [{ key: "PO-6127" }], properties: { documentNumber: "77-3108", total: "5835.00" } });
  });
  test("says which words on it decided its type, until a person says another", async () => {
    draw({ proposedType: { type: "supplierInvoice", certainty: 0.7, words: [{ text: "TAX INVOICE", page: 1, box: null }] } });
    await main("PO-6127");
    expect(screen.getByText("read: “TAX INVOICE”")).toBeTruthy();
    fireEvent.change(screen.getByLabelText("Document type"), { target: { value: "" } });
    fireEvent.change(screen.getByLabelText("Document type"), { target: { value: "supplierInvoice" } });
    expect(screen.queryByText("read: “TAX INVOICE”")).toBeNull();
  });
  test("has the same numbers beside it and on the page", async () => {
    draw();
    await main("PO-6127");
    await waitFor(() =>
      expect(marks.map((m) => [m.number, m.words])).toEqual([
        [1, "order number"],
        [2, "total fits"],
        [3, "Number"],
      ]),
    );
    expect(screen.getByLabelText("Total").closest(".numbered")?.querySelector(".place-number")?.textContent).toBe("2");
    fireEvent.focus(screen.getByLabelText("Number"));
    await waitFor(() => expect(marks.find((m) => m.now)?.number).toBe(3));
  });
  test("another suggestion is taken by its number or a click", async () => {
    draw();
    await main("PO-6127");
    act(() => handle.current?.suggest(2));
    await main("PO-6126");
    fireEvent.click(screen.getByRole("list", { name: "Other suggestions" }).querySelector("button") as HTMLElement);
    await main("PO-6127");
    act(() => handle.current?.suggest(5));
    await main("PO-6127");
  });
  test("gives way to what a person looks up, and is joined by what they add", async () => {
    draw();
    await main("PO-6127");
    expect(screen.getByText(/find another/)).toBeTruthy();
    const field = screen.getByRole("combobox", { name: "Look up a record" });
    fireEvent.focus(field);
    fireEvent.change(field, { target: { value: "PO-6126" } });
    fireEvent.keyDown(field, { key: "Enter" });
    await main("PO-6126");
    expect(document.querySelectorAll(".clip-card.is-main")).toHaveLength(1);
    expect(screen.queryByText("PO-6127", { selector: ".clip-card .mono" })).toBeNull();
  });
  test("that asks for money elsewhere says so where nobody overlooks it", async () => {
    draw({
      suggestions: [
        suggestion("PO-6127", {
          verdict: "warning",
          clashes: [{ code: "iban-differs", words: "The document names the bank account GB47." }],
        }),
      ],
    });
    await main("PO-6127");
    expect(screen.getByRole("alert").textContent).toContain("GB47");
  });
});

describe("A document that could belong to two", () => {
  test("has none of them chosen, and both offered", async () => {
    draw({
      suggestions: [
        suggestion("PO-6127", { verdict: "alike", certainty: 0.5 }),
        suggestion("PO-6126", { verdict: "alike", certainty: 0.48 }),
      ],
    });
    expect(await screen.findByRole("list", { name: "Suggestions" })).toBeTruthy();
    expect(document.querySelector(".clip-card.is-main")).toBeNull();
    act(() => handle.current?.suggest(2));
    await main("PO-6126");
  });
});

describe("A reading that is not sure", () => {
  test("is marked, and what else it could be is one click away", async () => {
    draw({
      readings: [
        reading("documentNumber", "77-3108", {
          certainty: 0.6,
          others: [{ value: "77-3180", certainty: 0.3, page: 1, box: null, text: "77-3180" }],
        }),
      ],
      doubts: [{ code: "sums-differ", fields: ["total"], detail: "100.00 + 20.00 ≠ 130.00" }],
    });
    await main("PO-6127");
    expect(screen.getByText("check")).toBeTruthy();
    expect(screen.getByText("100.00 + 20.00 ≠ 130.00")).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "77-3180" }));
    expect(screen.getByLabelText<HTMLInputElement>("Number").value).toBe("77-3180");
  });
});

test("words that are pointed at go to the field one is in, and are taught before it is filed", async () => {
  const page = draw();
  await main("PO-6127");
  fireEvent.focus(screen.getByLabelText("Number"));
  page.rerender(sheet({}, { page: 1, box: [10, 20, 30, 10], text: "No: 99-1" }));
  await waitFor(() => expect(screen.getByLabelText<HTMLInputElement>("Number").value).toBe("No: 99-1"));
  await screen.findByText("x.pdf");
  act(() => handle.current?.file());
  await waitFor(() => expect(sent.map((s) => s.to)).toEqual(["readings", "file"]));
  expect(sent[0]?.body).toEqual({ places: [{ property: "documentNumber", value: "No: 99-1", page: 1, box: [10, 20, 30, 10] }] });
});

test.each([
  ["sure", "PO-6127 · certain", "moss"],
  ["likely", "PO-6127?", ""],
  ["alike", "two likely records", "rust"],
  ["warning", "different bank account", "rust"],
] as const)("in the list a suggestion that is %s says %s", (verdict, words, tone) =>
  expect(suggestionChip(arrival({ suggestions: [suggestion("PO-6127", { verdict })] }))).toEqual({ words, tone }),
);

test("what stands in the same place bears the same number, what stands nowhere none", () => {
  const [a, b, c, d] = [
    { page: 1, box: [10, 10, 50, 10] as const },
    { page: 1, box: [12, 10, 40, 10] as const },
    { page: 2, box: [10, 10, 50, 10] as const },
    { page: null, box: null },
  ];
  const numbers = numberPlaces([a, b, c, d]);
  expect([a, b, c, d].map((x) => numbers.get(x))).toEqual([1, 1, 2, undefined]);
});
