import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { fakeApi, renderOnPage } from "../kit/test-page.tsx";
import { ImportDialog } from "./import-dialog.tsx";

let api: ReturnType<typeof fakeApi>;
afterEach(() => {
  cleanup();
  api.end();
});
const choose = (): void => {
  fireEvent.change(screen.getByLabelText("File"), { target: { files: [new File(["key,title\nA,B\n"], "r.csv", { type: "text/csv" })] } });
  fireEvent.click(screen.getByRole("button", { name: "Import" }));
};

describe("Importing records", () => {
  test("needs a file, names the columns of the chosen type, and shows progress to the end with every failure", async () => {
    let times = 0;
    api = fakeApi({
      "/records/import": () => ({ job: "j1" }),
      "/jobs/j1": () =>
        ++times < 2
          ? { state: "running", done: 200, failed: 0, total: null, failures: [] }
          : { state: "done", done: 1999, failed: 1, total: 2000, failures: [{ what: "line 7", why: "key must be 1 to 120 characters" }] },
    });
    let hidden = 0;
    renderOnPage(<ImportDialog shown onHide={() => hidden++} />);
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Import" }).disabled).toBe(true);
    fireEvent.change(screen.getByLabelText("Record type"), { target: { value: "purchaseOrder" } });
    expect(screen.getByText(/followsKey, total/)).toBeTruthy();
    choose();
    expect(await screen.findByText("200 imported …")).toBeTruthy();
    expect(await screen.findByText("1,999 imported, 1 skipped", {}, { timeout: 4000 })).toBeTruthy();
    expect(screen.getByText("line 7")).toBeTruthy();
    expect(api.asked[0]).toBe("POST /records/import?type=purchaseOrder&company=MF");
    fireEvent.click(screen.getAllByRole("button", { name: "Close" }).at(-1) as HTMLElement);
    expect(hidden).toBe(1);
  });
  test("a refusal is said in place, and the file can be sent again", async () => {
    api = fakeApi({
      "/records/import": () =>
        Response.json({ title: "Your roles do not cover this", detail: "Ask an administrator", status: 403 }, { status: 403 }),
    });
    renderOnPage(<ImportDialog shown onHide={() => {}} />);
    choose();
    expect(await screen.findByText(/Your roles do not cover this/)).toBeTruthy();
    await waitFor(() => expect(screen.getByRole<HTMLButtonElement>("button", { name: "Import" }).disabled).toBe(false));
  });
});
