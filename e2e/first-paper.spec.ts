import { createHash } from "node:crypto";
import { readFile } from "node:fs/promises";
import path from "node:path";
import { pdfFile } from "./support/papers.ts";
import { dataFolder, expect, signIn, test, confirmType } from "./support/world.ts";

test("a clerk drops an invoice from outside, finds its order, sees the place, presses F, and the next one is there", async ({ page }) => {
  const file = await pdfFile("Invoice 88-1201.pdf", [
    "Tarrin Marine Fuels",
    "Invoice 88-1201",
    "Your order PO-6127",
    "Zeppelin valve, bronze",
  ]);
  const began = Date.now();
  await signIn(page, "clerk");
  await page.getByTestId("choose-files").setInputFiles(file);
  await expect(page.getByText("1 document received")).toBeVisible();
  const row = page.locator("[data-arrival]").filter({ hasText: "Invoice 88-1201" });
  await row.click();
  await expect(page.getByAltText("Page 1")).toBeVisible();
  const after = page.locator(".paper-row.is-chosen").locator("xpath=../following-sibling::div[1]").locator(".name");
  const next = await after.textContent();

  await page.keyboard.press("/");
  await page.keyboard.type("6127");
  await page.keyboard.press("Enter");
  await expect(page.getByText("Purchase order PO-6127").first()).toBeVisible();
  await page.getByLabel("Number", { exact: true }).fill("88-1201");
  const place = page.locator(".will-be");
  await expect(place).toContainText("Suppliers › Tarrin Marine Fuels S-2004");
  await expect(place).toContainText("Supplier invoice 88-1201.pdf");
  await page.keyboard.press("Escape");
  await page.keyboard.press("f");
  await confirmType(page);

  await expect(page.getByText("Filed: Supplier invoice 88-1201")).toBeVisible();
  await expect(row).toHaveCount(0);
  await expect(page.locator(".paper-row.is-chosen .name")).toHaveText(next ?? "");
  expect(Date.now() - began).toBeLessThan(60_000);

  // The file stands in a real folder, the same to the byte.
  const placed = path.join(
    dataFolder(),
    "repository/Suppliers/Tarrin Marine Fuels S-2004/Purchase orders/2026/PO-6127/Supplier invoice 88-1201.pdf",
  );
  await expect
    .poll(() =>
      readFile(placed).then(
        (b) => createHash("sha256").update(b).digest("hex"),
        () => "not there",
      ),
    )
    .toBe(createHash("sha256").update(file.buffer).digest("hex"));

  await page.goto("/records/purchaseOrder/PO-6127?company=MF");
  await expect(page.getByRole("button", { name: /Supplier invoice 88-1201/ })).toBeVisible();
  await expect(page.getByRole("region", { name: "Document" }).getByAltText("Page 1")).toBeVisible();

  await page.goto("/find");
  await page.getByLabel("Search documents").fill("zeppelin");
  await expect(page.locator("mark", { hasText: "Zeppelin" })).toBeVisible();
  await page.getByRole("link", { name: "Supplier invoice 88-1201" }).click();
  await expect(page.getByText("stored", { exact: true })).toBeVisible();
  await expect(page.locator(".timeline")).toContainText("Tam Corrigall filed it as Supplier invoice");
});

test("what was filed is undone with one key, and filed again to the same place", async ({ page }) => {
  await signIn(page, "clerk");
  await page.getByTestId("choose-files").setInputFiles(await pdfFile("Undo me.pdf", ["A document to be taken back"]));
  const row = page.locator("[data-arrival]").filter({ hasText: "Undo me" });
  await row.click();
  await page.keyboard.press("/");
  await page.keyboard.type("PO-6127");
  await page.keyboard.press("Enter");
  // What is typed while the sheet fills itself would be typed behind that.
  await expect(page.getByLabel("Title")).toHaveValue(/PO-6127/);
  await page.getByLabel("Title").fill("Undo me");
  await expect(page.locator(".will-be")).toContainText("Undo me.pdf");
  await page.keyboard.press("Control+Enter");
  await confirmType(page);
  await expect(page.getByText("Filed: Undo me")).toBeVisible();
  await page.keyboard.press("Escape");
  await page.keyboard.press("z");
  await expect(row).toBeVisible();
  await expect(page.locator(".paper-row.is-chosen .name")).toHaveText("Undo me");
});

test("one document is clipped to several records, and the first decides the place", async ({ page }) => {
  await signIn(page, "clerk");
  await page.getByTestId("choose-files").setInputFiles(await pdfFile("Two orders.pdf", ["For both orders"]));
  await page.locator("[data-arrival]").filter({ hasText: "Two orders" }).click();
  for (const key of ["PO-6127", "PO-6126"]) {
    await page.getByLabel("Look up a record").fill(key);
    await page.keyboard.press("Enter");
    await expect(page.locator(".clip-card", { hasText: key }).first()).toBeVisible();
  }
  await expect(page.getByLabel("Title")).toHaveValue(/PO-6127/);
  await page.getByLabel("Title").fill("For both orders");
  await page.getByRole("button", { name: "store here" }).click();
  await expect(page.locator(".will-be")).toContainText("PO-6126");
  await page.getByRole("button", { name: /File and next/ }).click();
  await confirmType(page);
  await expect(page.getByText("Filed: For both orders")).toBeVisible();
  for (const key of ["PO-6127", "PO-6126"]) {
    await page.goto(`/records/purchaseOrder/${key}?company=MF`);
    await expect(page.getByRole("button", { name: /For both orders/ })).toBeVisible();
  }
});

test("a wrong value is said where it stands, and nothing is filed until it is right", async ({ page }) => {
  await signIn(page, "clerk");
  await page.getByTestId("choose-files").setInputFiles(await pdfFile("Wrong date.pdf", ["Some words"]));
  await page.locator("[data-arrival]").filter({ hasText: "Wrong date" }).click();
  await page.keyboard.press("f");
  await expect(page.getByText("Choose the record this document belongs to.")).toBeVisible();
  await page.keyboard.type("PO-6127");
  await page.keyboard.press("Enter");
  const dated = page.getByLabel("Dated");
  await dated.fill("31.11.26");
  await dated.press("Enter");
  await expect(page.getByText(/Dated must be/)).toBeVisible();
  await page.getByRole("button", { name: /File and next/ }).click();
  await expect(page.locator("[data-arrival]").filter({ hasText: "Wrong date" })).toBeVisible();
  await dated.fill("18.11.26");
  await dated.press("Enter");
  await expect(dated).toHaveValue("18 Nov 2026");
  await page.getByRole("button", { name: /File and next/ }).click();
  await confirmType(page);
  await expect(page.getByText(/^Filed: /)).toBeVisible();
});
