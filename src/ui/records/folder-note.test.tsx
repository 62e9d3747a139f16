import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import type { RecordAnswer } from "#server/records/load-record-page.ts";
import { fakeApi, renderOnPage, testMe } from "../kit/test-page.tsx";
import { FolderNote } from "./folder-note.tsx";

const record = (outOfStep: RecordAnswer["outOfStep"]) =>
  ({ company: "MF", type: "supplierAccount", key: "S-2004", title: "Tarrin", outOfStep }) as unknown as RecordAnswer;
const step = { from: "Suppliers/Old S-2004", to: "Suppliers/Tarrin S-2004", documents: 7 };
let api: ReturnType<typeof fakeApi>;
afterEach(() => {
  cleanup();
  api.end();
});
function draw(outOfStep: RecordAnswer["outOfStep"], me = testMe, clashes = 0): void {
  api = fakeApi({
    "/records/supplierAccount/S-2004/move-folder": () => ({ move: { state: "done", clashes, path: step.to, plan: "p1" } }),
  });
  renderOnPage(<FolderNote record={record(outOfStep)} />, me);
}

describe("A record whose folder is not where the filing plan has it", () => {
  test("says where it would be, and moves it with its documents after one question", async () => {
    draw(step);
    expect(screen.getByText("Suppliers › Tarrin S-2004")).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Move folder with 7 documents" }));
    expect(await screen.findByText("7 documents with it.")).toBeTruthy();
    expect(api.asked).toEqual([]);
    fireEvent.click(screen.getByRole("button", { name: "Move" }));
    expect(await screen.findByText("Folder moved")).toBeTruthy();
  });
  test("asks nobody who does not want to be asked", async () => {
    draw(step, { ...testMe, preferences: { ...testMe.preferences, asksBeforeMove: false } });
    fireEvent.click(screen.getByRole("button", { name: /Move folder/ }));
    await waitFor(() => expect(api.asked).toEqual(["POST /records/supplierAccount/S-2004/move-folder?company=MF"]));
  });
  test("says when something else stands there, and that nothing was overwritten", async () => {
    draw(step, { ...testMe, preferences: { ...testMe.preferences, asksBeforeMove: false } }, 1);
    fireEvent.click(screen.getByRole("button", { name: /Move folder/ }));
    expect(await screen.findByText(/Nothing was overwritten/)).toBeTruthy();
  });
  test("is silent when all is in place, and towards those who may not file", () => {
    draw(null);
    expect(screen.queryByText(/By the filing plan/)).toBeNull();
    cleanup();
    draw(step, { ...testMe, may: { ...testMe.may, file: false } });
    expect(screen.queryByText(/By the filing plan/)).toBeNull();
  });
});
