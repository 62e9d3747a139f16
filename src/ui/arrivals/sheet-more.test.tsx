import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import type { Reading, ReadingField } from "#core/reading/reading.ts";
import { SheetMore } from "./sheet-more.tsx";

afterEach(cleanup);

const reading = (field: ReadingField, value: string, more: Partial<Reading> = {}): Reading => ({
  field,
  value,
  certainty: 0.95,
  page: 1,
  box: [10, 20, 30, 10],
  text: value,
  label: null,
  others: [],
  from: "page",
  ...more,
});
const type = {
  key: "supplierInvoice",
  label: "Supplier invoice",
  properties: [{ key: "total", label: "Total", kind: "amount" }],
} as unknown as Parameters<typeof SheetMore>[0]["type"];

test("what no property of the type holds is listed in words, and points at where it stands", () => {
  const onPoint = jest.fn();
  render(
    <SheetMore
      type={type}
      onPoint={onPoint}
      readings={[
        reading("total", "5835.00"),
        reading("currency", "GBP"),
        reading("taxAtRate", "5.50 12.00", { box: [1, 2, 3, 4], text: "12.00" }),
        reading("tax", "972.50"),
        reading("deliveryDate", "2026-10-01"),
        reading("deliveryUntil", "2026-10-31"),
        reading("iban", "GB80MRWK00000000450253", { page: null, box: null }),
        reading("batch", "guess", { certainty: 0.3 }),
        reading("language", "en"),
      ]}
    />,
  );
  fireEvent.click(screen.getByText("Also read: 5"));
  const lines = [...document.querySelectorAll("dl > div")].map((d) => d.textContent);
  expect(lines).toEqual([
    "Bank accountGB80MRWK00000000450253",
    "Delivered1 Oct 2026 to 31 Oct 2026",
    "CurrencyGBP",
    "VAT972.50 GBP",
    "VAT at 5.5 %12.00 GBP",
  ]);
  fireEvent.focus(screen.getByText("VAT at 5.5 %").parentElement as Element);
  expect(onPoint).toHaveBeenLastCalledWith({ page: 1, box: [1, 2, 3, 4], words: "12.00" });
  // What stands on no page is nothing to stop at.
  expect(screen.getByText("Bank account").parentElement?.hasAttribute("tabindex")).toBe(false);
});

test("nothing more, nothing shown", () => {
  const { container } = render(<SheetMore type={type} onPoint={() => {}} readings={[reading("total", "5835.00")]} />);
  expect(container.innerHTML).toBe("");
});
