import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import type { PackAnswer } from "#server/packs/make-pack.ts";
import { fakeApi, renderOnPage } from "../kit/test-page.tsx";
import { PackDialog } from "./pack-dialog.tsx";

const pack = (over: Partial<PackAnswer>): PackAnswer => ({
  id: "p1",
  format: "folder",
  label: "25 invoices",
  state: "done",
  done: 6,
  total: 6,
  records: 25,
  papers: 6,
  leftOut: [],
  sizeBytes: 62_000,
  sha256: "00",
  madeAt: new Date().toISOString(),
  why: null,
  ...over,
});
let api: ReturnType<typeof fakeApi>;
const sent: unknown[] = [];
afterEach(() => {
  cleanup();
  api.end();
  sent.length = 0;
});
function draw(packs: readonly PackAnswer[], props: Partial<Parameters<typeof PackDialog>[0]> = {}): void {
  api = fakeApi({ "/packs": (body) => (body === null ? { items: packs } : (sent.push(body), { id: "p2" })) });
  renderOnPage(<PackDialog records={[]} filter={{ type: "supplierInvoice" }} total={154} canChain onHide={() => {}} {...props} />);
}

describe("Packing documents", () => {
  test("takes all that fit the filter, or a sample of them by a seed", async () => {
    draw([]);
    expect(screen.getByRole("button", { name: "Create pack of 154 records" })).toBeTruthy();
    fireEvent.click(screen.getByLabelText("only a sample of"));
    fireEvent.change(screen.getByLabelText("Random seed"), { target: { value: "4711" } });
    fireEvent.click(screen.getByRole("button", { name: "Create pack of 25 records" }));
    await waitFor(() =>
      expect(sent).toEqual([{ format: "folder", scope: "own", filter: { type: "supplierInvoice" }, sample: { size: 25, seed: 4711 } }]),
    );
  });
  test("takes the chosen ones along their chains as one PDF", async () => {
    const one = { company: "MF", type: "purchaseOrder", key: "PO-1" };
    draw([], { records: [one] });
    expect(screen.queryByLabelText("only a sample of")).toBeNull();
    fireEvent.click(screen.getByLabelText(/One PDF/));
    fireEvent.click(screen.getByLabelText("with the documents along the chain"));
    fireEvent.click(screen.getByRole("button", { name: "Create pack of 1 record" }));
    await waitFor(() => expect(sent).toEqual([{ format: "pdf", scope: "chain", records: [one] }]));
  });
  test("shows what was made, what was left out, and what could not be", async () => {
    draw([
      pack({ leftOut: [{ code: "AC-000009", title: "x", why: "it is locked or broken" }] }),
      pack({ id: "p3", state: "running", done: 40 }),
      pack({ id: "p4", state: "failed", why: "It has more pages than one PDF can have here" }),
      pack({ id: "p5", state: "gone" }),
    ]);
    expect(await screen.findByText(/1 left out: AC-000009 it is locked or broken/)).toBeTruthy();
    expect(screen.getByText(/40 documents so far/)).toBeTruthy();
    expect(screen.getByText(/more pages than one PDF/)).toBeTruthy();
    expect(screen.getByText(/expired/)).toBeTruthy();
    expect(screen.getAllByRole("link", { name: /Download/ })).toHaveLength(1);
  });
});
