import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { fakeApi, renderOnPage } from "../kit/test-page.tsx";
import { PlanFileDialog } from "./plan-file-dialog.tsx";

let api: ReturnType<typeof fakeApi>;
let sent: unknown[] = [];
afterEach(() => {
  cleanup();
  api.end();
  sent = [];
});
function draw(compared: unknown): void {
  api = fakeApi({
    "/folder-rules/file": (body) => {
      sent.push(body);
      return (body as { save?: boolean }).save ? { saved: ["purchaseOrder"] } : compared;
    },
  });
  renderOnPage(<PlanFileDialog shown onHide={() => {}} />);
}
function bring(text: string): void {
  // jsdom's files have no text() of their own.
  const file = Object.assign(new File([text], "plan.yaml"), { text: () => Promise.resolve(text) });
  fireEvent.change(screen.getByLabelText("Import"), { target: { files: [file] } });
}
const saveButton = () => screen.getByRole<HTMLButtonElement>("button", { name: "Save rules" });

describe("The filing plan as a file", () => {
  test("is downloaded in both forms, with its schema beside them", () => {
    draw({});
    expect(screen.getAllByRole("link").map((l) => l.getAttribute("href"))).toEqual([
      "/api/v1/folder-rules/file?form=yaml",
      "/api/v1/folder-rules/file?form=json",
      "/api/v1/folder-rules/schema.json",
    ]);
  });
  test("shows what would change, part by part, and saves only after that", async () => {
    draw({
      errors: [],
      differences: [
        { recordType: "purchaseOrder", kind: "changed", changes: [{ part: "rootFolder", from: "Orders", to: "Purchases" }] },
        { recordType: "supplierAccount", kind: "same", changes: [] },
      ],
    });
    expect(saveButton().disabled).toBe(true);
    bring("rules: {}");
    expect(await screen.findByText("Purchases")).toBeTruthy();
    expect(screen.getByText("Orders").tagName).toBe("DEL");
    fireEvent.click(saveButton());
    await waitFor(() => expect(sent).toEqual([{ text: "rules: {}" }, { text: "rules: {}", save: true }]));
  });
  test("with mistakes nothing can be saved, and each is said with its place", async () => {
    draw({ errors: [{ path: "rules.purchaseOrder.rootFolder", message: "needs a folder" }], differences: [] });
    bring("rules: {purchaseOrder: {}}");
    expect(await screen.findByText("needs a folder")).toBeTruthy();
    expect(screen.getByText("rules.purchaseOrder.rootFolder")).toBeTruthy();
    expect(saveButton().disabled).toBe(true);
  });
  test("that is the plan in force changes nothing", async () => {
    draw({ errors: [], differences: [{ recordType: "purchaseOrder", kind: "same", changes: [] }] });
    bring("x");
    expect(await screen.findByText(/Nothing changes/)).toBeTruthy();
    expect(saveButton().disabled).toBe(true);
  });
});
