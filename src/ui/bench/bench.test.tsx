import { act, cleanup, fireEvent, renderHook, screen, waitFor } from "@testing-library/react";
import { pageKey } from "#core/bench/bench-table.ts";
import type { BenchAnswer } from "#server/bench/load-bench.ts";
import type { ReadAnswer } from "#server/matching/load-suggestions.ts";
import { fakeApi, renderOnPage, testMe } from "../kit/test-page.tsx";
import { linesOf, perLine } from "./lines.ts";
import { PageTile } from "./page-tile.tsx";
import { pileState } from "./pile-proposal.ts";
import { PileHead } from "./pile-head.tsx";
import { type Bench, emptySheet, firstTable, forgetBench, useBench } from "./use-bench.ts";

afterEach(() => {
  cleanup();
  sessionStorage.clear();
});

const page = (over: Partial<BenchAnswer["sources"][number]["pages"][number]> = {}) => ({
  width: 595,
  height: 842,
  blank: false,
  turn: 0,
  ...over,
});
const record = { company: "MF", type: "purchaseOrder", key: "PO-1", title: "Fuel" };
const answer = (over: Partial<BenchAnswer> = {}, pages = [page(), page(), page(), page()]): BenchAnswer => ({
  sources: [
    {
      arrival: "a1",
      document: null,
      fileName: "stack.pdf",
      of: "00ff00ff00ff00ff",
      queue: "payables",
      company: "MF",
      sender: null,
      isScan: false,
      isComing: false,
      pages,
    },
  ],
  cuts: [{ source: 0, afterPage: 2, certainty: 0.9, reason: "page 1 of 2" }],
  codes: [],
  ...over,
});
const open = (from: BenchAnswer, name = "a1") => renderHook(() => useBench(from, name));
const shape = (bench: Bench): string => bench.table.piles.map((p) => p.pages.map((q) => q.page).join(" ")).join(" | ");

describe("The bench in the browser", () => {
  test("pages are gone through, cut, joined, moved and left out with what the keys call; all of it is undone", () => {
    const { result } = open(answer());
    const doIt = (what: (bench: Bench) => void): string => {
      act(() => what(result.current));
      return shape(result.current);
    };
    doIt((b) => b.go(1));
    expect(result.current.focusKey).toBe("0:2");
    expect(doIt((b) => b.cutBefore())).toBe("1 | 2 3 4");
    expect(doIt((b) => b.nudge(1))).toBe("1 | 3 2 4");
    expect(doIt((b) => b.nudge(-1))).toBe("1 | 2 3 4");
    expect(doIt((b) => b.nudge(-1))).toBe("1 2 | 3 4");
    expect(doIt((b) => b.ownPile())).toBe("1 | 2 | 3 4");
    doIt((b) => b.goPile(1));
    expect(doIt((b) => b.join())).toBe("1 | 2 3 4");
    expect(doIt((b) => b.drop())).toBe("1 | 2 4");
    expect(result.current.focusKey).toBe("0:4");
    expect(doIt((b) => b.bringBack(new Set(["0:3"])))).toBe("1 | 2 3 4");
    while (result.current.canUndo) doIt((b) => b.undo());
    expect(shape(result.current)).toBe("1 2 3 4");
    while (result.current.canRedo) doIt((b) => b.redo());
    expect(shape(result.current)).toBe("1 | 2 3 4");
  });
  test("several pages are chosen by range and one by one, and turned together", () => {
    const { result } = open(answer());
    act(() => result.current.point("0:1"));
    act(() => result.current.point("0:3", { range: true }));
    expect([...result.current.chosen]).toEqual(["0:1", "0:2", "0:3"]);
    act(() => result.current.point("0:2", { add: true }));
    act(() => result.current.turn());
    expect(result.current.table.piles[0]?.pages.map((p) => p.turn)).toEqual([90, 0, 90, 0]);
    act(() => result.current.clear());
    expect(result.current.chosen.size).toBe(0);
  });
  test("accepting makes the cuts, leaves out the sheets and fills in what they say", () => {
    const codes = [
      { source: 0, page: 1, text: "CS-0000017", sort: "coverSheet", leftOut: true, record, documentType: "supplierInvoice" },
    ] as const;
    const { result } = open(answer({ codes }));
    act(() => result.current.accept(answer({ codes })));
    expect(shape(result.current)).toBe("2 | 3 4");
    const first = result.current.table.piles[0];
    expect(result.current.sheets[first?.id ?? 0]).toMatchObject({ record: { key: "PO-1" }, documentType: "supplierInvoice" });
  });
  test("a page on its side lies upright at once; the blank backs of a scan are left out, in sight", () => {
    const pages = [page({ turn: 90 }), page({ blank: true }), page(), page({ blank: true })];
    const scan = answer({}, pages);
    const table = firstTable({ ...scan, sources: scan.sources.map((s) => ({ ...s, isScan: true })) });
    expect(table.piles[0]?.pages.map((p) => [p.page, p.turn])).toEqual([
      [1, 90],
      [3, 0],
    ]);
    expect(table.dropped.map(pageKey)).toEqual(["0:2", "0:4"]);
    expect(firstTable(scan).dropped).toEqual([]);
  });
  test("what was done is there again after leaving, until it is forgotten, and only for the same pages", () => {
    const first = open(answer());
    act(() => first.result.current.cutBefore("0:3"));
    first.unmount();
    expect(shape(open(answer()).result.current)).toBe("1 2 | 3 4");
    expect(shape(open(answer({}, [page(), page()])).result.current)).toBe("1 2");
    forgetBench("a1");
    cleanup();
    sessionStorage.clear();
    expect(shape(open(answer()).result.current)).toBe("1 2 3 4");
  });
  test("lines hold as many pages as fit, a head for each pile, and a tray for what is left out", () => {
    expect(perLine(800)).toBe(5);
    expect(perLine(10)).toBe(1);
    const { result } = open(answer());
    act(() => result.current.cutBefore("0:4"));
    act(() => result.current.dropThese(new Set(["0:1"])));
    expect(linesOf(result.current.table, 1).map((l) => l.kind)).toEqual(["head", "pages", "pages", "head", "pages", "tray", "dropped"]);
  });
});

describe("A pile's head", () => {
  const api = () =>
    fakeApi({
      "/records/lookup": () => ({ items: [{ id: 1, ...record, status: null, date: null, amount: null, currency: null, parent: null }] }),
    });
  test("takes a record by look-up and offers its usual type; both can be taken off", async () => {
    const asked = api();
    const said: unknown[] = [];
    const head = (sheet: typeof emptySheet) => (
      <PileHead
        at={1}
        count={3}
        state={pileState({ ...sheet, isSettled: true }, null, [])}
        company="MF"
        queue="payables"
        versionOf={null}
        handle={null}
        onSheet={(to) => said.push(to)}
        onJoin={() => said.push("join")}
        onDrop={() => {}}
      />
    );
    const drawn = renderOnPage(head(emptySheet));
    fireEvent.focus(screen.getByLabelText("Look up a record"));
    fireEvent.change(screen.getByLabelText("Look up a record"), { target: { value: "PO" } });
    fireEvent.pointerDown(await screen.findByRole("option"));
    expect(said[0]).toMatchObject({ record: { key: "PO-1" }, documentType: "supplierInvoice" });
    drawn.rerender(head({ ...emptySheet, record, documentType: "supplierInvoice" }));
    fireEvent.change(screen.getByLabelText("Number of document 2"), { target: { value: "88-1" } });
    fireEvent.click(screen.getByLabelText("Remove PO-1"));
    fireEvent.click(screen.getByLabelText("Join document 2 to the one before"));
    expect(said.slice(1)).toEqual([{ number: "88-1" }, { record: null, number: "" }, "join"]);
    asked.end();
  });
  test("shows what the program proposes with its certainty; what it is not sure of waits for a confirmation", () => {
    const read = (certainty: number, verdict: "sure" | "likely"): ReadAnswer => ({
      readings: [
        {
          field: "documentNumber",
          value: "77-1",
          certainty: 0.97,
          page: 1,
          box: null,
          text: "77-1",
          label: null,
          others: [],
          from: "page",
        },
      ],
      doubts: [],
      none: 0,
      proposedType: { type: "supplierInvoice", certainty, words: [] },
      suggestions: [
        {
          ...record,
          status: null,
          date: null,
          amount: null,
          currency: null,
          parent: null,
          certainty,
          verdict,
          reasons: [],
          clashes: [],
          apart: null,
        },
      ],
    });
    const sure = pileState(undefined, read(0.99, "sure"), testMe.documentTypes);
    expect(sure).toMatchObject({
      isFiled: true,
      needsCheck: false,
      sheet: { record: { key: "PO-1" }, documentType: "supplierInvoice", number: "77-1" },
    });
    const likely = pileState(undefined, read(0.7, "likely"), testMe.documentTypes);
    expect(likely).toMatchObject({ isFiled: false, needsCheck: true });
    // What a person said stands, whatever is read.
    expect(pileState({ ...emptySheet, isSettled: true }, read(0.99, "sure"), testMe.documentTypes)).toMatchObject({
      isFiled: false,
      sheet: { record: null },
    });
    const said: unknown[] = [];
    renderOnPage(
      <PileHead
        at={0}
        count={2}
        state={likely}
        company="MF"
        queue="payables"
        versionOf={null}
        handle={null}
        onSheet={(to) => said.push(to)}
        onJoin={null}
        onDrop={() => {}}
      />,
    );
    expect(screen.getAllByText("70 %")).toHaveLength(2);
    fireEvent.click(screen.getByRole("button", { name: /Check, then confirm/ }));
    expect(said).toEqual([{}]);
  });
  test("of a filed document offers its next version", () => {
    const said: unknown[] = [];
    renderOnPage(
      <PileHead
        at={0}
        count={1}
        state={pileState(undefined, null, [])}
        company="MF"
        queue="payables"
        versionOf="AC-000001"
        handle={null}
        onSheet={(to) => said.push(to)}
        onJoin={null}
        onDrop={() => {}}
      />,
    );
    fireEvent.click(screen.getByRole("button", { name: "Next version of AC-000001" }));
    expect(said).toEqual([{ asVersion: true }]);
    expect(screen.queryByLabelText(/Join/)).toBeNull();
  });
});

describe("A page on the bench", () => {
  test("says what it is, shows where to cut and why, and is pointed at with Shift and Ctrl", async () => {
    const said: unknown[] = [];
    renderOnPage(
      <PageTile
        page={{ source: 0, page: 3, turn: 90 }}
        facts={{ base: "/arrivals/a1", of: "00ff00ff00ff00ff", label: "page 3", blank: true, code: "label", cut: "page 1 of 2" }}
        isFirst={false}
        isFocus
        isChosen={false}
        dragged={() => []}
        onPoint={(how) => said.push(how)}
        onCut={() => said.push("cut")}
        onDrop={() => {}}
      />,
    );
    const tile = screen.getByRole("button", { name: "page 3, blank, label, turned by 90°" });
    fireEvent.click(tile, { shiftKey: true });
    fireEvent.click(screen.getByRole("button", { name: "Cut before page 3: page 1 of 2" }));
    await waitFor(() => expect(said).toEqual([{ range: true, add: false }, "cut"]));
  });
});
