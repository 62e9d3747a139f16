import { cleanup, fireEvent, screen } from "@testing-library/react";
import type { RecordDocument } from "#server/records/load-record-page.ts";
import { renderOnPage, went } from "../kit/test-page.tsx";
import { chosenColumns, type Labels } from "./paper-columns.ts";
import type { PaperGroup } from "./paper-groups.ts";
import { PapersOfGroup } from "./papers-of-group.tsx";

const paper = (n: number, over: Partial<RecordDocument> = {}): RecordDocument => ({
  code: `AC-00000${n}`,
  title: `Document ${n}`,
  documentType: "supplierInvoice",
  documentDate: "2026-11-18",
  filedAt: "2026-11-20T09:00:00.000Z",
  filedBy: "Tam Corrigall",
  source: "mail",
  kind: "pdf",
  pages: 2,
  version: 1,
  state: "stored",
  section: "Order",
  path: "Suppliers/Tarrin/Paper.pdf",
  note: null,
  from: null,
  isReached: false,
  ...over,
});
const group = (papers: readonly RecordDocument[]): PaperGroup => ({
  key: "section Order",
  label: "Order",
  icon: null,
  tint: "none",
  depth: 0,
  papers,
  count: papers.length,
  path: "Order",
});
const labels: Labels = { documentType: (k) => (k === "supplierInvoice" ? "Supplier invoice" : k), recordType: () => "Purchase order" };
let done: string[] = [];
afterEach(() => {
  cleanup();
  done = [];
  went.length = 0;
});
function draw(papers: readonly RecordDocument[], over: { columns?: readonly string[]; ticked?: readonly string[]; isShut?: boolean } = {}) {
  renderOnPage(
    <PapersOfGroup
      group={group(papers)}
      chosen="AC-000001"
      ticked={new Set(over.ticked ?? [])}
      marks={new Map([["AC-000001", { state: "complete", label: "Invoice: complete" }]])}
      columns={chosenColumns(over.columns ?? [])}
      labels={labels}
      scroller={() => null}
      isShut={over.isShut ?? false}
      onShut={() => done.push("shut")}
      onOpen={(d) => done.push(`open ${d.code}`)}
      onTick={(d, range) => done.push(`tick ${d.code} ${range}`)}
      onDropped={(codes) => done.push(`dropped ${codes.join()}`)}
    />,
  );
}
const row = (n: number) => screen.getByRole("button", { name: new RegExp(`Document ${n}`) });

describe("A record's documents under one head", () => {
  test("are opened by a click, chosen with Ctrl, in a range with Shift, and gone to by a double click", () => {
    draw([paper(1), paper(2)]);
    expect(row(1).getAttribute("aria-current")).toBe("true");
    fireEvent.click(row(2));
    fireEvent.click(row(2), { ctrlKey: true });
    fireEvent.click(row(2), { shiftKey: true });
    fireEvent.doubleClick(row(2));
    expect(done).toEqual(["open AC-000002", "tick AC-000002 false", "tick AC-000002 true"]);
    expect(went).toEqual(["/documents/AC-000002"]);
  });

  test("say what matters most in two lines, with the note, where they come from and what became of them", () => {
    draw([
      paper(1, { note: "the dent shows" }),
      paper(2, { from: { company: "MF", type: "purchaseOrder", key: "PO-6127", title: "Bunkering" }, version: 3 }),
      paper(3, { state: "failed" }),
      paper(4, { state: "waiting" }),
    ]);
    expect(row(1).textContent).toContain("AC-000001 · Supplier invoice · 2 pages");
    expect(row(1).textContent).toContain("the dent shows");
    expect(row(2).textContent).toContain("from Purchase order PO-6127");
    expect(row(2).textContent).toContain("v3");
    expect(row(3).textContent).toContain("failed");
    expect(row(4).textContent).toContain("waiting");
    expect(screen.getByLabelText("Invoice: complete")).toBeTruthy();
  });

  test("stand in the columns that were chosen instead", () => {
    draw([paper(1, { note: "the dent shows", state: "failed" })], { columns: ["addedBy", "place", "note"] });
    expect(row(1).textContent).toContain("Tam Corrigall");
    expect(row(1).textContent).toContain("Suppliers › Tarrin › Paper.pdf");
    expect(row(1).textContent).toContain("failed");
    expect(row(1).textContent).not.toContain("AC-000001");
    expect(row(1).style.gridTemplateColumns).toContain("4fr");
  });

  test("are not there while their head is shut; the head opens and shuts", () => {
    draw([paper(1)], { isShut: true });
    expect(screen.queryByRole("button", { name: /Paper 1/ })).toBeNull();
    fireEvent.click(screen.getByRole("button", { name: /Order/ }));
    expect(done).toEqual(["shut"]);
  });

  test("say whether they are chosen once one of them is", () => {
    draw([paper(1), paper(2)], { ticked: ["AC-000002"] });
    expect(row(1).getAttribute("aria-pressed")).toBe("false");
    expect(row(2).getAttribute("aria-pressed")).toBe("true");
  });

  test("of which there are very many are not all drawn", () => {
    draw(Array.from({ length: 500 }, (_, i) => paper(i + 10)));
    expect(screen.getByRole("button", { name: /Order/ }).textContent).toContain("500");
    expect(document.querySelectorAll(".doc-row").length).toBeLessThan(100);
  });
});
