import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { fakeApi, renderOnPage } from "../kit/test-page.tsx";
import { PrintCodes } from "./print-codes.tsx";

let api: ReturnType<typeof fakeApi>;
afterEach(() => {
  cleanup();
  api.end();
});
const orders = ["PO-1", "PO-2"].map((key) => ({ company: "MF", type: "purchaseOrder", key }));

describe("Printing cover sheets and labels", () => {
  test("for many records at once, with the usual type; labels say how many are used up", async () => {
    const sent: unknown[] = [];
    const hidden: string[] = [];
    URL.createObjectURL = () => "blob:x";
    URL.revokeObjectURL = () => {};
    HTMLAnchorElement.prototype.click = function () {
      hidden.push(this.download);
    };
    api = fakeApi({
      "/codes/sheets": (body) => {
        sent.push(body);
        // The test page's answers have no blob of their own.
        return Object.assign(Response.json({}), { blob: async () => new Blob(["%PDF"]) });
      },
    });
    renderOnPage(<PrintCodes records={orders} onHide={() => hidden.push("hidden")} />);
    expect(screen.getByText("Print for 2 records")).toBeTruthy();
    fireEvent.click(screen.getByLabelText(/^Label/));
    fireEvent.change(screen.getByLabelText(/Labels already used/), { target: { value: "30" } });
    fireEvent.click(screen.getByRole("button", { name: "Print" }));
    await waitFor(() => expect(hidden).toEqual(["labels.pdf", "hidden"]));
    expect(sent[0]).toEqual({ kind: "label", used: 23, items: orders.map((o) => ({ ...o, documentType: "supplierInvoice" })) });
  });
  test("what is refused is said, and the dialog stays", async () => {
    api = fakeApi({
      "/codes/sheets": () => Response.json({ title: "Your roles do not cover this", code: "not-allowed" }, { status: 403 }),
    });
    renderOnPage(<PrintCodes records={orders.slice(0, 1)} onHide={() => {}} />);
    fireEvent.click(screen.getByRole("button", { name: "Print" }));
    expect(await screen.findByText("Your roles do not cover this")).toBeTruthy();
    expect(screen.getByText("Print for PO-1")).toBeTruthy();
  });
});
