import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import type { ChangedDocument } from "#server/documents/change-document.ts";
import type { DocumentAnswer } from "#server/documents/load-document.ts";
import { fakeApi, renderOnPage, testMe } from "../kit/test-page.tsx";
import { EditDialog } from "./edit-dialog.tsx";

const document = {
  id: 1,
  code: "AC-000001",
  title: "Supplier invoice 77-3108",
  company: "MF",
  documentType: "supplierInvoice",
  properties: { documentNumber: "77-3108", documentDate: "2026-11-18", total: "5835.00" },
  clips: [
    { company: "MF", type: "purchaseOrder", key: "PO-6127", title: "Bunkering", section: null },
    { company: "MF", type: "supplierAccount", key: "S-2004", title: "Tarrin Marine Fuels", section: null },
  ],
  shelves: [4],
  titleSaid: false,
  location: { path: "Suppliers/Tarrin/Old.txt" },
} as unknown as DocumentAnswer;
const changed = (move: ChangedDocument["move"] = null): ChangedDocument => ({ code: "AC-000001", title: "x", move });
const move = { from: "Suppliers/Tarrin/Old.txt", to: "Suppliers/Tarrin/New.txt", state: "moved", plan: "p1" };
let api: ReturnType<typeof fakeApi>;
let sent: Record<string, unknown>[] = [];
let hidden = 0;
afterEach(() => {
  cleanup();
  api.end();
  sent = [];
  hidden = 0;
});
function draw(answer: (body: Record<string, unknown>) => unknown, me = testMe): void {
  api = fakeApi({
    "/documents/AC-000001": (body) => {
      sent.push(body as Record<string, unknown>);
      return answer(body as Record<string, unknown>);
    },
    "/documents/AC-000001/shelf": (body) => {
      sent.push(body as Record<string, unknown>);
      return {};
    },
    "/repository/shelves": () => ({
      items: [
        { id: 4, path: "Shelves/Minutes", company: "MF" },
        { id: 5, path: "Shelves/Old", company: "MF" },
        { id: 6, path: "Shelves/Others", company: "ML" },
      ],
    }),
    "/me/preferences": (body) => {
      sent.push(body as Record<string, unknown>);
      return {};
    },
  });
  renderOnPage(<EditDialog document={document} shown onHide={() => hidden++} />, me);
}
const retitle = () => fireEvent.change(screen.getByLabelText("Title"), { target: { value: "New" } });
/** What was asked for, without the looks at what would come of what is typed. */
const asked = () => sent.filter((s) => !(s["dryRun"] === true && s["showsOnMany"] === true));
const save = () => fireEvent.click(screen.getByRole("button", { name: "Save" }));

describe("Changing a document", () => {
  test("shows what would move, and moves it after one yes", async () => {
    draw((body) => changed(body["dryRun"] ? { ...move, state: "planned", plan: null } : move));
    retitle();
    save();
    expect(await screen.findByText("It moves in the repository")).toBeTruthy();
    expect(screen.getByText("New.txt")).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Move" }));
    await waitFor(() => expect(hidden).toBe(1));
    expect(asked().map((s) => s["dryRun"])).toEqual([true, false]);
    expect(asked()[1]).toMatchObject({ title: "New", documentType: "supplierInvoice" });
  });

  test("says its new title and location before it is saved; a title that follows is not sent as one written by hand", async () => {
    draw((body) => ({
      ...changed({ ...move, state: "planned", plan: null }),
      title: body["title"] === null ? "Supplier invoice 88" : String(body["title"]),
    }));
    fireEvent.change(screen.getByLabelText("Number"), { target: { value: "88" } });
    await waitFor(() => expect(screen.getByLabelText<HTMLInputElement>("Title").value).toBe("Supplier invoice 88"));
    expect(screen.getByText("Will move to")).toBeTruthy();
    expect(screen.getByText("New.txt")).toBeTruthy();
    expect(sent.every((s) => s["title"] === null)).toBe(true);
    retitle();
    expect(await screen.findByText(/Written by hand/)).toBeTruthy();
  });

  test("that moves nothing is saved without a question", async () => {
    draw(() => changed());
    retitle();
    save();
    await waitFor(() => expect(hidden).toBe(1));
    expect(screen.queryByText("It moves in the repository")).toBeNull();
  });

  test("is not asked about by those who said so, and the box to say so keeps that", async () => {
    draw(() => changed(move), { ...testMe, preferences: { ...testMe.preferences, asksBeforeMove: false } });
    save();
    await waitFor(() => expect(hidden).toBe(1));
    expect(sent.map((s) => s["dryRun"])).toEqual([false]);
    cleanup();
    api.end();
    sent = [];
    draw(() => changed(move));
    save();
    fireEvent.click(await screen.findByLabelText("Do not ask me again"));
    fireEvent.click(screen.getByRole("button", { name: "Move" }));
    await waitFor(() => expect(sent).toContainEqual({ asksBeforeMove: false }));
  });

  test("that is refused stays open with what is wrong at its field", async () => {
    draw(() =>
      Response.json(
        {
          title: "Something is not right",
          status: 422,
          code: "bad-input",
          errors: [{ path: "properties.total", message: "is not an amount" }],
        },
        { status: 422 },
      ),
    );
    save();
    expect(await screen.findByText("is not an amount")).toBeTruthy();
    expect(hidden).toBe(0);
  });

  test("another record can decide the place; the last one is never taken off", async () => {
    draw(() => changed());
    fireEvent.click(screen.getByRole("button", { name: "Decides the location" }));
    fireEvent.click(screen.getByRole("button", { name: "Remove PO-6127" }));
    expect(screen.queryByRole("button", { name: /Remove/ })).toBeNull();
    save();
    await waitFor(() => expect(asked().length).toBeGreaterThan(0));
    expect(asked()[0]?.["clips"]).toEqual([{ company: "MF", type: "supplierAccount", key: "S-2004" }]);
  });

  test("is put on a shelf of its company, and taken off", async () => {
    draw(() => changed());
    expect((await screen.findByLabelText<HTMLInputElement>("Shelves › Minutes")).checked).toBe(true);
    expect(screen.queryByLabelText("Shelves › Others")).toBeNull();
    fireEvent.click(screen.getByLabelText("Shelves › Old"));
    await waitFor(() => expect(sent).toContainEqual({ shelf: 5, on: true }));
  });
});
