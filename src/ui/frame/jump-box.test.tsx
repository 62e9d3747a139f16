import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { fakeApi, renderOnPage, went } from "../kit/test-page.tsx";
import { JumpBox } from "./jump-box.tsx";

const record = (id: number, key: string) => ({
  id,
  company: "MF",
  type: "purchaseOrder",
  key,
  title: `Order ${key}`,
  status: null,
  date: null,
  amount: null,
  currency: null,
  parent: null,
  corrected: false,
});
const document = {
  code: "AC-000001",
  title: "Invoice 77",
  documentType: "supplierInvoice",
  company: "MF",
  documentDate: null,
  kind: "pdf",
  snippet: [],
  hits: 0,
  records: [],
};
const places = [
  { href: "/find", label: "Find", icon: () => null },
  { href: "/desk", label: "Desk", icon: () => null },
];
let api: ReturnType<typeof fakeApi>;
beforeAll(() => {
  globalThis.ResizeObserver = class {
    observe(): void {}
    unobserve(): void {}
    disconnect(): void {}
  } as unknown as typeof ResizeObserver;
  Element.prototype.scrollIntoView = () => {};
});
afterEach(() => {
  cleanup();
  api.end();
  went.length = 0;
});
function draw(lookup: (address: string) => unknown, documents: readonly unknown[] = []): HTMLElement {
  api = fakeApi({
    "/records/lookup": (_b, address) => lookup(address),
    "/find": () => ({ items: documents, total: documents.length, totalIsExact: true, facets: {}, next: null }),
  });
  renderOnPage(<JumpBox shown calls={1} places={places} onHide={() => {}} />);
  return screen.getByPlaceholderText("Go to a record, document or page");
}
const type = (field: HTMLElement, text: string): void => void fireEvent.change(field, { target: { value: text } });

describe("The jump field", () => {
  test("offers places and the records used last before anything is typed", async () => {
    draw(() => ({ items: [record(1, "PO-1")] }));
    expect(await screen.findByText("Recent records")).toBeTruthy();
    expect(screen.getByText("Desk")).toBeTruthy();
  });
  test("Enter takes the first record, though the wider search stood there first", async () => {
    const field = draw((address) => ({ items: address.includes("6127") ? [record(7, "PO-6127")] : [] }), [document]);
    type(field, "6127");
    await screen.findByText("PO-6127");
    fireEvent.keyDown(field, { key: "Enter" });
    await waitFor(() => expect(went[0]).toContain("/records/purchaseOrder/PO-6127"));
  });
  test("Enter before the answer goes where the answer leads", async () => {
    let release = (): void => {};
    const field = draw((address) =>
      address.includes("6127")
        ? new Promise((resolve) => (release = () => resolve({ items: [record(7, "PO-6127")] })))
        : { items: [record(1, "PO-1")] },
    );
    await screen.findByText("PO-1");
    type(field, "6127");
    fireEvent.keyDown(field, { key: "Enter" });
    expect(went).toEqual([]);
    await waitFor(() => expect(api.asked.some((a) => a.includes("6127"))).toBe(true));
    release();
    await waitFor(() => expect(went[0]).toContain("PO-6127"));
  });
  test("with no record of that name Enter looks in all documents", async () => {
    const field = draw(() => ({ items: [] }));
    type(field, "langoustine");
    await screen.findByText(/in all documents/);
    await waitFor(() => expect(api.asked.some((a) => a.includes("langoustine"))).toBe(true));
    fireEvent.keyDown(field, { key: "Enter" });
    await waitFor(() => expect(went).toEqual(["/find?q=langoustine"]));
  });
  test("arrows choose another, documents too; typing on begins anew", async () => {
    const field = draw((address) => ({ items: address.includes("77") ? [record(7, "PO-77")] : [] }), [document]);
    type(field, "77");
    await screen.findByText("Invoice 77");
    await screen.findByText("PO-77");
    fireEvent.keyDown(field, { key: "ArrowDown" });
    fireEvent.keyDown(field, { key: "Enter" });
    await waitFor(() => expect(went).toEqual(["/documents/AC-000001"]));
  });
  test("called for again, the keyboard is in the field again", async () => {
    api = fakeApi({ "/records/lookup": () => ({ items: [record(1, "PO-1")] }) });
    const box = (calls: number) => <JumpBox shown calls={calls} places={places} onHide={() => {}} />;
    const page = renderOnPage(box(1));
    const field = await screen.findByPlaceholderText("Go to a record, document or page");
    await waitFor(() => expect(globalThis.document.activeElement).toBe(field));
    field.blur();
    page.rerender(box(2));
    expect(globalThis.document.activeElement).toBe(field);
  });
  test("a place is gone to by its name", async () => {
    const field = draw(() => ({ items: [record(1, "PO-1")] }));
    type(field, "des");
    fireEvent.keyDown(field, { key: "Enter" });
    await waitFor(() => expect(went).toEqual(["/desk"]));
  });
});
