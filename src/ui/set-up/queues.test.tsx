import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { defaultLimits } from "#core/arrivals/limits.ts";
import { fakeApi, renderOnPage } from "../kit/test-page.tsx";
import { JunkSenders } from "./junk-senders.tsx";
import { LabelFormats } from "./label-formats.tsx";
import { QueueIntake } from "./queue-intake.tsx";

let api: ReturnType<typeof fakeApi>;
const sent: unknown[] = [];
afterEach(() => {
  cleanup();
  api.end();
  sent.length = 0;
});
const keep = (body: unknown): object => {
  sent.push(body);
  return { items: [] };
};

describe("Queues", () => {
  test("filing by codes, blank pages and own limits are set for each", async () => {
    const queue = {
      key: "quay-office",
      label: "Quay office",
      address: null,
      keeps: "partsOnly",
      senders: [],
      folder: "/w",
      watchAfter: null,
      refused: [],
    };
    api = fakeApi({
      "/settings/queues/quay-office/intake": keep,
      "/settings/limits": () => defaultLimits,
      "/settings/queues": () => ({ items: [{ ...queue, codesBy: null, leavesOutBlanks: true, limits: { pagesMax: 40 } }] }),
    });
    renderOnPage(<QueueIntake />);
    fireEvent.click(await screen.findByLabelText("Quay office files by cover sheets and labels"));
    await waitFor(() => expect(sent).toEqual([{ filesByCodes: true, leavesOutBlanks: true, limits: { pagesMax: 40 } }]));
    fireEvent.change(screen.getByLabelText("Largest file for Quay office, MB"), { target: { value: "3" } });
    fireEvent.change(screen.getByLabelText("Most pages for Quay office"), { target: { value: "" } });
    fireEvent.click(screen.getByRole("button", { name: "Save" }));
    await waitFor(() => expect(sent[1]).toEqual({ filesByCodes: false, leavesOutBlanks: true, limits: { bytesMax: 3 * 1024 * 1024 } }));
  });
  test("kinds of file are left out for a queue, of those that are taken in at all", async () => {
    api = fakeApi({
      "/settings/queues/general/intake": keep,
      "/settings/limits": () => ({ ...defaultLimits, kinds: ["pdf", "jpeg", "heic"] }),
      "/settings/queues": () => ({
        items: [
          {
            key: "general",
            label: "General",
            address: null,
            keeps: "ask",
            senders: [],
            folder: "/w",
            watchAfter: null,
            refused: [],
            codesBy: null,
            leavesOutBlanks: false,
            limits: {},
          },
        ],
      }),
    });
    renderOnPage(<QueueIntake />);
    fireEvent.click(await screen.findByRole("button", { name: "File types for General: all" }));
    fireEvent.click(screen.getByLabelText("JPEG picture"));
    fireEvent.click(screen.getByLabelText("PDF"));
    fireEvent.click(screen.getByLabelText("HEIC photograph"));
    // A queue that takes nothing cannot be saved.
    expect(screen.getByRole("button", { name: "Save" }).hasAttribute("disabled")).toBe(true);
    fireEvent.click(screen.getByLabelText("PDF"));
    fireEvent.click(screen.getByLabelText("HEIC photograph"));
    fireEvent.click(screen.getByRole("button", { name: "Save" }));
    await waitFor(() => expect(sent).toEqual([{ filesByCodes: false, leavesOutBlanks: false, limits: { kinds: ["pdf", "heic"] } }]));
  });
});

describe("Barcodes of the business system", () => {
  test("a pattern is made, tried and saved; one that is none says why and cannot be saved", async () => {
    api = fakeApi({ "/settings/label-formats": (body) => (body ? keep(body) : { items: [] }) });
    renderOnPage(<LabelFormats />);
    fireEvent.click(await screen.findByRole("button", { name: "Add pattern" }));
    fireEvent.change(screen.getByLabelText("Pattern 1"), { target: { value: "(a+)+" } });
    expect(screen.getByText(/may hold letters/)).toBeTruthy();
    expect(screen.getByRole("button", { name: "Save barcodes" }).hasAttribute("disabled")).toBe(true);
    fireEvent.change(screen.getByLabelText("Pattern 1"), { target: { value: "^PO-\\d{4}$" } });
    fireEvent.change(screen.getByLabelText("Record type 1"), { target: { value: "purchaseOrder" } });
    fireEvent.change(screen.getByLabelText("Test a barcode text"), { target: { value: "PO-6127" } });
    expect(screen.getByText("Purchase order PO-6127")).toBeTruthy();
    fireEvent.change(screen.getByLabelText("Test a barcode text"), { target: { value: "4006381" } });
    expect(screen.getByText("matches no pattern")).toBeTruthy();
    fireEvent.click(screen.getByRole("button", { name: "Save barcodes" }));
    await waitFor(() =>
      expect(sent).toEqual([
        { formats: [{ pattern: "^PO-\\d{4}$", recordType: "purchaseOrder", company: null, documentType: null, begins: true }] },
      ]),
    );
  });
});

describe("Junk", () => {
  test("senders that were said to send junk are listed, and forgotten", async () => {
    api = fakeApi({
      "/settings/junk-senders": () => ({ items: [{ address: "win@offers.example", taughtAt: "2026-11-20T09:00:00Z" }] }),
      "/settings/junk-senders/forget": keep,
    });
    renderOnPage(<JunkSenders />);
    await screen.findByText("win@offers.example");
    fireEvent.click(screen.getByRole("button", { name: "Remove" }));
    await waitFor(() => expect(sent).toEqual([{ address: "win@offers.example" }]));
  });
  test("nobody is said to", async () => {
    api = fakeApi({ "/settings/junk-senders": () => ({ items: [] }) });
    renderOnPage(<JunkSenders />);
    expect(await screen.findByText(/No junk senders/)).toBeTruthy();
  });
});
