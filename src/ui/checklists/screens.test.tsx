import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { NuqsTestingAdapter } from "nuqs/adapters/testing";
import type { MissingRow } from "#server/checklists/list-missing.ts";
import { TopSlotProvider } from "../frame/top-slot.tsx";
import { fakeApi, renderOnPage } from "../kit/test-page.tsx";
import { MissingScreen } from "./missing-screen.tsx";
import { ChecklistRulesScreen } from "./rules-screen.tsx";

const row = (key: string, over: Partial<MissingRow> = {}): MissingRow => ({
  company: "MF",
  type: "purchaseOrder",
  key,
  title: `Order ${key}`,
  parent: null,
  responsible: null,
  items: [{ key: "note", label: "Delivery note", state: "outstanding", dueOn: "2020-01-01", expiresOn: null, missing: "Ask the quay" }],
  remindedAt: null,
  ...over,
});
const counts = { types: [{ type: "purchaseOrder", missing: 2, due: 1, received: 0, expiring: 0, expired: 0 }], items: [] };
const preview = {
  records: 40,
  lookedAt: 40,
  items: [
    {
      key: "item1",
      label: "Invoice",
      applies: { before: 0, after: 40 },
      missing: { before: 0, after: 30 },
      received: { before: 0, after: 0 },
    },
  ],
  becomeIncomplete: 30,
  becomeComplete: 0,
  examples: [{ company: "MF", key: "PO-1", title: "Rope", lacks: ["Invoice"] }],
};
const sent: { address: string; body: unknown }[] = [];
let api: ReturnType<typeof fakeApi>;
const keep =
  (answer: unknown) =>
  (body: unknown, address: string): unknown => {
    if (body !== null) sent.push({ address, body });
    return answer;
  };
beforeEach(() => {
  api = fakeApi({
    "/checklists/missing": () => ({ items: [row("PO-1"), row("PO-2", { responsible: { id: "p2", name: "Nessa Quill" } })], next: null }),
    "/checklists/counts": () => counts,
    "/checklists/people": () => ({ items: [{ id: "p2", name: "Nessa Quill" }] }),
    "/checklists/remind": keep({ reminded: 1, people: 1, nobody: ["PO-1"] }),
    "/checklists/responsible": keep({ done: 2 }),
    "/checklists/rules": () => ({ items: [{ recordType: "purchaseOrder", version: 0, items: [] }], roles: ["Controller"] }),
    "/checklists/rules/purchaseOrder": keep({ version: 1, job: "j1" }),
    "/checklists/rules/purchaseOrder/preview": () => preview,
    "/jobs/j1": () => ({ state: "running", done: 10, total: 40 }),
  });
});
afterEach(() => {
  cleanup();
  api.end();
  sent.length = 0;
});
const draw = (screenOf: React.ReactElement, search = ""): void =>
  void renderOnPage(
    <NuqsTestingAdapter searchParams={search}>
      <TopSlotProvider>{screenOf}</TopSlotProvider>
    </NuqsTestingAdapter>,
  );

describe("What is missing over all records", () => {
  test("says what each lacks and since when, and reminds who answers for those that are chosen", async () => {
    draw(<MissingScreen />);
    expect(await screen.findByRole("cell", { name: /Nessa Quill/ })).toBeTruthy();
    expect(screen.getByRole("button", { name: "Outstanding 2" })).toBeTruthy();
    expect(screen.getAllByText(/overdue since 1 Jan 2020/)).toHaveLength(2);
    fireEvent.click(screen.getByLabelText("Select all shown"));
    fireEvent.click(screen.getByRole("button", { name: "Remind responsible" }));
    expect(await screen.findByText("1 person reminded about 1 record")).toBeTruthy();
    expect(screen.getByText("Nobody is responsible for PO-1")).toBeTruthy();
    expect(sent[0]?.body).toMatchObject({ records: [{ key: "PO-1" }, { key: "PO-2" }] });
  });

  test("makes a person answer for the chosen ones", async () => {
    draw(<MissingScreen />);
    fireEvent.click(await screen.findByLabelText("Select PO-2"));
    await waitFor(() => expect(within(screen.getByLabelText("Set responsible")).getByText("Nessa Quill")).toBeTruthy());
    fireEvent.change(screen.getByLabelText("Set responsible"), { target: { value: "p2" } });
    expect(await screen.findByText("Nessa Quill is responsible for 2 records")).toBeTruthy();
    expect(sent[0]?.body).toEqual({ records: [{ company: "MF", type: "purchaseOrder", key: "PO-2" }], person: "p2" });
  });
});

describe("The checklist of a record type", () => {
  test("is written, its effect is shown on all records before it is saved, and progress after", async () => {
    draw(<ChecklistRulesScreen />, "?type=purchaseOrder");
    fireEvent.click(await screen.findByRole("button", { name: "Add an item" }));
    const save = screen.getByRole("button", { name: "Save checklist" });
    expect(save).toHaveProperty("disabled", true);
    fireEvent.change(screen.getByLabelText("Document required"), { target: { value: "Invoice" } });
    fireEvent.change(screen.getByLabelText("Document types for Invoice"), { target: { value: "supplierInvoice" } });
    fireEvent.click(screen.getByRole("button", { name: "by a field" }));
    fireEvent.change(screen.getByLabelText("Comparison 1 of Invoice"), { target: { value: "isFrom" } });
    fireEvent.change(screen.getByLabelText("Value 1 of Invoice"), { target: { value: "10000" } });
    fireEvent.change(screen.getByLabelText("When Invoice is complete"), { target: { value: "person" } });
    fireEvent.click(screen.getByLabelText("Controller"));
    expect(await screen.findByText(/30 purchase orders would become incomplete/)).toBeTruthy();
    expect(screen.getByText("would lack invoice")).toBeTruthy();
    fireEvent.click(save);
    expect(await screen.findByText(/Evaluating all purchase orders again/)).toBeTruthy();
    expect(sent.at(-1)?.body).toMatchObject({
      version: 0,
      items: [
        {
          key: "item1",
          label: "Invoice",
          documentTypes: ["supplierInvoice"],
          when: [{ on: "field", field: "total", compare: "isFrom", value: "10000" }],
          settledBy: "person",
          acceptedBy: ["Controller"],
        },
      ],
    });
  });
});
