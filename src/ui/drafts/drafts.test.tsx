import { act, cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { createRef } from "react";
import type { Reading } from "#core/reading/reading.ts";
import type { ArrivalAnswer } from "#server/arrivals/list-arrivals.ts";
import type { DraftAnswer } from "#server/drafts/list-drafts.ts";
import type { SheetHandle } from "../arrivals/filing-sheet.tsx";
import { fakeApi, renderOnPage, testMe } from "../kit/test-page.tsx";
import type { PageMark } from "../pages/marks.ts";
import { DraftsOpen } from "../desk/drafts-open.tsx";
import { DraftNote } from "./draft-note.tsx";
import { DraftSheet } from "./draft-sheet.tsx";

const reading = (field: Reading["field"], value: string, certainty = 0.98): Reading => ({
  field,
  value,
  certainty,
  page: 1,
  box: [400, field === "total" ? 330 : 80, 60, 10],
  text: value,
  label: "No.",
  others: [],
  from: "page",
});
const invoiceType = {
  key: "supplierInvoice",
  label: "Supplier invoice",
  plural: "Supplier invoices",
  kind: "passing" as const,
  icon: "receipt",
  short: "Invoice",
  parent: ["supplierAccount"],
  order: 3,
  draft: { needs: ["documentNumber", "total"], papers: ["supplierInvoice"], titleFrom: ["documentNumber"], lines: true },
  fields: [
    { key: "documentNumber", label: "Number", kind: "text" as const, required: false },
    { key: "orderNumber", label: "Order", kind: "text" as const, required: false },
    { key: "total", label: "Total", kind: "amount" as const, required: false },
  ],
};
const me = { ...testMe, recordTypes: [...testMe.recordTypes, invoiceType] };
const arrival = (over: Partial<ArrivalAnswer> = {}) =>
  ({
    id: "a1",
    company: "MF",
    queue: "payables",
    readings: [reading("documentNumber", "77-3108"), reading("total", "12.00", 0.6)],
    suggestions: [],
    ...over,
  }) as ArrivalAnswer;
const order = {
  company: "MF",
  type: "purchaseOrder",
  key: "PO-6127",
  title: "Bunkering",
  status: "received",
  date: null,
  amount: "10.00",
  currency: "GBP",
  fields: {},
  parent: { company: "MF", type: "supplierAccount", key: "S-2004", title: "Tarrin Marine Fuels" },
};
let api: ReturnType<typeof fakeApi>;
let sent: unknown[] = [];
let marks: readonly PageMark[] = [];
let made = 0;
let response: () => unknown = () => ({
  draft: "d1",
  record: { company: "MF", type: "supplierInvoice", key: "D-1001" },
  filed: { code: "AC-000001" },
});
const handle = createRef<SheetHandle>();
afterEach(() => {
  cleanup();
  api.end();
  sent = [];
  made = 0;
  response = () => ({ draft: "d1", record: { company: "MF", type: "supplierInvoice", key: "D-1001" }, filed: { code: "AC-000001" } });
});
function draw(over: Partial<ArrivalAnswer> = {}, start: typeof order | null = order): void {
  api = fakeApi({
    "/arrivals/a1/draft": (body) => {
      sent.push(body);
      return response();
    },
  });
  renderOnPage(
    <DraftSheet
      arrival={arrival(over)}
      start={start}
      documentType="supplierInvoice"
      handle={handle}
      onMade={() => made++}
      onBack={() => {}}
      onMarks={(m) => {
        marks = m;
      }}
      onWants={() => {}}
      picked={null}
    />,
    me,
  );
}

describe("A record made from a document", () => {
  test("is filled from the document and the record before it, numbered on the page, and sent with where each value stands", async () => {
    draw();
    expect(screen.getByLabelText<HTMLInputElement>(/^Number/).value).toBe("77-3108");
    expect(screen.getByLabelText<HTMLInputElement>("Order").value).toBe("PO-6127");
    expect(screen.getByText("from PO-6127")).toBeTruthy();
    expect(screen.getByText("check")).toBeTruthy();
    expect(screen.getByLabelText<HTMLInputElement>("Title").value).toBe("Tarrin Marine Fuels 77-3108");
    await waitFor(() =>
      expect(marks.map((m) => [m.number, m.words])).toEqual([
        [1, "Number"],
        [2, "Total"],
      ]),
    );
    fireEvent.change(screen.getByLabelText(/^Total/), { target: { value: "13.00" } });
    act(() => handle.current?.file());
    await waitFor(() => expect(made).toBe(1));
    expect(sent[0]).toMatchObject({
      company: "MF",
      type: "supplierInvoice",
      fields: { documentNumber: "77-3108", total: "13.00" },
      sources: { documentNumber: { from: "paper", page: 1 }, orderNumber: { from: "record", key: "PO-6127" }, total: { from: "person" } },
      parent: { type: "supplierAccount", key: "S-2004" },
      follows: [{ type: "purchaseOrder", key: "PO-6127" }],
      filing: { documentType: "supplierInvoice", properties: { documentNumber: "77-3108", total: "13.00" }, clips: [{ key: "PO-6127" }] },
    });
  });
  test("what is needed is said before anything is sent", () => {
    draw({ readings: [] }, null);
    fireEvent.click(screen.getByRole("button", { name: /Create and send/ }));
    expect(screen.getByText("Number is required.")).toBeTruthy();
    expect(screen.getByText("Choose the account it belongs to.")).toBeTruthy();
    expect(sent).toEqual([]);
  });
  test("what the server refuses stands by its field, until that is changed", async () => {
    draw();
    response = () =>
      Response.json(
        {
          title: "Some of this could not be understood",
          code: "bad-input",
          errors: [{ path: "fields.documentNumber", message: "is too odd" }],
        },
        { status: 400 },
      );
    fireEvent.click(screen.getByRole("button", { name: /Create and send/ }));
    expect(await screen.findByText("Number is too odd.")).toBeTruthy();
    fireEvent.change(screen.getByLabelText(/^Number/), { target: { value: "78" } });
    expect(screen.queryByText("Number is too odd.")).toBeNull();
    expect(made).toBe(0);
  });
});

const draft = (over: Partial<DraftAnswer> = {}): DraftAnswer => ({
  id: "d1",
  state: "sending",
  record: {
    company: "MF",
    type: "supplierInvoice",
    key: "D-1001",
    title: "Tarrin 77",
    status: "draft",
    fields: { documentNumber: "77", total: "12.00" },
  },
  sources: {},
  reasons: [],
  problem: null,
  attempts: 0,
  nextTryAt: null,
  document: "AC-000001",
  madeBy: "Tam Corrigall",
  isMine: true,
  madeAt: "2026-11-20T10:00:00Z",
  answeredAt: null,
  ...over,
});
const note = (d: DraftAnswer, answers: Parameters<typeof fakeApi>[0] = {}) => {
  api = fakeApi(answers);
  return renderOnPage(<DraftNote draft={d} onMoved={() => {}} onWithdrawn={(id) => sent.push(id)} />, me);
};

describe("How it stands with the business system", () => {
  test("nothing is said once it is entered", () => {
    const { container } = note(draft({ state: "accepted" }));
    expect(container.textContent).toBe("");
  });
  test("not reachable: it is kept, says when it is tried again, and can be tried at once", async () => {
    note(draft({ problem: "unreachable", attempts: 2, nextTryAt: "2026-11-20T10:00:10Z" }), {
      "/drafts/d1/send": (body) => {
        sent.push(body);
        return { state: "sending" };
      },
    });
    const said = screen.getByText("Waiting for the business system").parentElement?.textContent;
    expect(said).toContain("The business system cannot be reached. It is kept and sent again at");
    fireEvent.click(screen.getByRole("button", { name: "Retry now" }));
    await waitFor(() => expect(sent).toEqual([{ fields: {} }]));
  });
  test("refused: its reasons by field; put right in place and sent again", async () => {
    note(
      draft({
        state: "refused",
        reasons: [
          { path: "fields.documentNumber", message: "is entered already, as SI-1" },
          { path: "parent", message: "is not known here" },
        ],
      }),
      {
        "/drafts/d1/send": (body) => {
          sent.push(body);
          return { state: "sending" };
        },
      },
    );
    expect(screen.getByText("Number is entered already, as SI-1")).toBeTruthy();
    expect(screen.getByText("Account is not known here")).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Correct" }));
    fireEvent.change(screen.getByLabelText(/^Number/), { target: { value: "77b" } });
    fireEvent.click(screen.getByRole("button", { name: "Send again" }));
    await waitFor(() => expect(sent).toEqual([{ fields: { documentNumber: "77b" } }]));
  });
  test("withdrawn: its document waits again", async () => {
    note(draft({ state: "refused", reasons: [{ path: "", message: "nothing is entered today" }] }), {
      "/drafts/d1/withdraw": () => ({ arrivalId: "a1" }),
    });
    expect(screen.getByText("nothing is entered today")).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Withdraw" }));
    await waitFor(() => expect(sent).toEqual(["a1"]));
  });
  test("the desk lists those that are not entered yet, the refused first", async () => {
    api = fakeApi({ "/drafts": () => ({ items: [draft({ id: "d2", problem: "too-slow" }), draft({ state: "refused" })] }) });
    renderOnPage(<DraftsOpen />, me);
    await screen.findByText("refused by the business system");
    expect(screen.getAllByRole("link").map((l) => l.querySelector(".chip")?.textContent)).toEqual([
      "refused by the business system",
      "waiting for the business system",
    ]);
  });
});
