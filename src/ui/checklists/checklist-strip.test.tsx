import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import type { ChecklistItemAnswer } from "#server/checklists/load-items.ts";
import type { RecordAnswer } from "#server/records/load-record-page.ts";
import { fakeApi, renderOnPage } from "../kit/test-page.tsx";
import { ChecklistStrip } from "./checklist-strip.tsx";

const item = (over: Partial<ChecklistItemAnswer>): ChecklistItemAnswer => ({
  key: "list",
  label: "Signed loading list",
  state: "outstanding",
  documentTypes: ["loadingList"],
  have: 0,
  want: 1,
  dueOn: null,
  expiresOn: null,
  missing: "The mate signs it",
  settledBy: "clip",
  isOwn: false,
  papers: [],
  waived: null,
  mayAccept: true,
  isConditional: false,
  asks: null,
  ...over,
});
const paper = { code: "AC-000001", title: "Temperature log", endsOn: null, isAccepted: false };
const record = (items: readonly ChecklistItemAnswer[], may = { edit: true, file: true }) =>
  ({ id: 1, company: "MF", type: "freightBooking", key: "B-1", title: "Orrin", checklist: items, may }) as unknown as RecordAnswer;
let api: ReturnType<typeof fakeApi>;
afterEach(() => {
  cleanup();
  api.end();
});
const opened: string[] = [];
function draw(
  items: readonly ChecklistItemAnswer[],
  over: { may?: { edit: boolean; file: boolean }; open?: { code: string; title: string } } = {},
): void {
  api = fakeApi({ "/records/freightBooking/B-1/checklist": () => ({ items }) });
  renderOnPage(
    <ChecklistStrip record={record(items, over.may)} openPaper={over.open ?? null} onOpenPaper={(code) => void opened.push(code)} />,
  );
}
const items = [
  item({}),
  item({ key: "log", label: "Temperature log", state: "received", settledBy: "person", papers: [paper] }),
  item({ key: "request", label: "Booking request", state: "complete", papers: [{ ...paper, code: "AC-000002", isAccepted: true }] }),
];

describe("The checklist of a record", () => {
  test("says how many are done, and each item's state in words as well as in its mark", () => {
    draw(items);
    expect(screen.getByText("Checklist 1 of 3")).toBeTruthy();
    expect(screen.getByRole("button", { name: /Signed loading list\s*, outstanding/ })).toBeTruthy();
    expect(screen.getByRole("button", { name: /Temperature log\s*, received/ })).toBeTruthy();
  });

  test("opens an item with the words for what to do; a waiver asks for its reason", async () => {
    draw(items);
    fireEvent.click(screen.getByRole("button", { name: /Signed loading list/ }));
    const panel = screen.getByRole("region", { name: "Signed loading list" });
    expect(panel.textContent).toContain("The mate signs it");
    fireEvent.click(within(panel).getByRole("button", { name: "Waive…" }));
    const waive = within(panel).getByRole("button", { name: "Waive" });
    expect(waive).toHaveProperty("disabled", true);
    fireEvent.change(within(panel).getByLabelText(/is waived/), { target: { value: "One trailer" } });
    fireEvent.click(waive);
    await waitFor(() => expect(api.asked).toEqual(["POST /records/freightBooking/B-1/checklist?company=MF"]));
    expect(await screen.findByText("Signed loading list is waived")).toBeTruthy();
  });

  test("accepts a document, opens it, and takes it from the item", async () => {
    draw(items);
    fireEvent.click(screen.getByRole("button", { name: /Temperature log/ }));
    const panel = screen.getByRole("region", { name: "Temperature log" });
    expect(panel.textContent).toContain("not accepted yet");
    fireEvent.click(within(panel).getByRole("button", { name: "Temperature log" }));
    expect(opened).toContain("AC-000001");
    fireEvent.click(within(panel).getByRole("button", { name: "Accept" }));
    expect(await screen.findByText("Temperature log accepted")).toBeTruthy();
    expect(within(panel).getByRole("button", { name: "Unlink" })).toBeTruthy();
  });

  test("ties the document that is on screen, unless it counts already", () => {
    draw(items, { open: { code: "AC-000009", title: "A mail" } });
    fireEvent.click(screen.getByRole("button", { name: /Signed loading list/ }));
    expect(screen.getByRole("button", { name: "Link open document" })).toBeTruthy();
    cleanup();
    draw(items, { open: { code: "AC-000001", title: "Temperature log" } });
    fireEvent.click(screen.getByRole("button", { name: /Temperature log/ }));
    expect(screen.queryByRole("button", { name: "Link open document" })).toBeNull();
  });

  test("offers nothing that the person may not do, and is not there at all where there is nothing", () => {
    draw([item({}), item({ key: "log", state: "received", label: "Log", settledBy: "person", papers: [paper], mayAccept: false })], {
      may: { edit: false, file: false },
    });
    fireEvent.click(screen.getByRole("button", { name: /Log/ }));
    expect(screen.queryByRole("button", { name: "Accept" })).toBeNull();
    expect(screen.queryByRole("button", { name: "Waive…" })).toBeNull();
    expect(screen.queryByRole("button", { name: "Add item" })).toBeNull();
    cleanup();
    draw([], { may: { edit: false, file: false } });
    expect(screen.queryByText(/Checklist/)).toBeNull();
  });

  test("an item that was added by hand is added with its kind of document, and can be taken off", async () => {
    draw([item({ key: "own0", label: "Carrier's answer", isOwn: true })]);
    fireEvent.click(screen.getByRole("button", { name: "Add item" }));
    const add = screen.getAllByRole("button", { name: "Add item" }).at(-1);
    expect(add).toHaveProperty("disabled", true);
    fireEvent.change(screen.getByLabelText("Document required"), { target: { value: "Photographs" } });
    fireEvent.change(screen.getByLabelText("Document type"), {
      target: { value: screen.getByLabelText("Document type").querySelectorAll("option")[1]?.value ?? "" },
    });
    if (add) fireEvent.click(add);
    expect(await screen.findByText("Photographs is required")).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: /Carrier's answer/ }));
    fireEvent.click(screen.getByRole("button", { name: "Remove from checklist" }));
    expect(await screen.findByText("Carrier's answer is no longer required")).toBeTruthy();
  });
});
