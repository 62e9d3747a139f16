import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { fakeApi, renderOnPage } from "../kit/test-page.tsx";
import { ReachSettingsPart } from "./reach-settings.tsx";

let api: ReturnType<typeof fakeApi>;
let sent: unknown[] = [];
afterEach(() => {
  cleanup();
  api.end();
  sent = [];
});
async function draw(types: Record<string, string[]>): Promise<void> {
  api = fakeApi({
    "/settings/reach": (body) => {
      if (body !== null) sent.push(body);
      return { askAbove: 100, types };
    },
  });
  renderOnPage(<ReachSettingsPart />);
  await screen.findByRole("heading", { name: "Also shown on" });
}
const save = () => fireEvent.click(screen.getByRole("button", { name: "Save" }));

describe("Which records see documents of a type", () => {
  test("is changed by taking types off and putting others on, and saved in one go", async () => {
    await draw({ supplierInvoice: ["purchaseOrder"] });
    expect(screen.queryByRole("button", { name: "Save" })).toBeNull();
    fireEvent.change(screen.getByLabelText("Supplier invoices also on"), { target: { value: "supplierAccount" } });
    fireEvent.click(screen.getByRole("button", { name: "Supplier invoices no longer on Purchase orders" }));
    fireEvent.change(screen.getByLabelText("Ask above"), { target: { value: "25" } });
    save();
    await waitFor(() => expect(sent).toEqual([{ askAbove: 25, types: { supplierInvoice: ["supplierAccount"] } }]));
  });

  test("that sees no other any more is not spoken of, and can be left as it was", async () => {
    await draw({ supplierInvoice: ["purchaseOrder"] });
    fireEvent.click(screen.getByRole("button", { name: /no longer on Purchase orders/ }));
    expect(screen.queryByLabelText("Supplier invoices also on")).toBeNull();
    fireEvent.click(screen.getByRole("button", { name: "Reset" }));
    expect(screen.getByLabelText("Supplier invoices also on")).toBeTruthy();
    expect(sent).toEqual([]);
  });

  test("begins with a type that it is not usually filed to, and takes no number that is none", async () => {
    await draw({});
    fireEvent.change(screen.getByLabelText("Add document type"), { target: { value: "supplierInvoice" } });
    fireEvent.change(screen.getByLabelText("Ask above"), { target: { value: "many" } });
    expect((screen.getByRole("button", { name: "Save" }) as HTMLButtonElement).disabled).toBe(true);
    fireEvent.change(screen.getByLabelText("Ask above"), { target: { value: "7" } });
    save();
    await waitFor(() => expect(sent).toEqual([{ askAbove: 7, types: { supplierInvoice: ["supplierAccount"] } }]));
  });
});
