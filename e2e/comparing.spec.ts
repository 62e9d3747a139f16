import { expect, signIn, test } from "./support/world.ts";

test("a statement with two missing invoices: each is shown with what we have, and a mail asks for the two", async ({ page }) => {
  await signIn(page, "clerk", "/arrivals?q=October");
  await expect(
    page.getByRole("region", { name: "Compared with the record" }).or(page.getByLabel("Compared with the record")),
  ).toContainText("2 missing");
  await page.keyboard.press("c");
  const panel = page.getByLabel("Compared with S-2010");
  for (const number of ["BH-301", "BH-318"])
    await expect(panel.getByRole("row", { name: new RegExp(number) }).getByText("missing")).toBeVisible();
  await expect(panel.getByRole("row", { name: /77-/ }).first()).toContainText(/paid|on file/);
  // Pointing at a line shows it on the page.
  await panel.getByRole("row", { name: /BH-318/ }).hover();
  await expect(page.locator('.page-mark[data-mark="0"]')).toContainText("BH-318");
  await expect(panel.getByText("Copies of invoices BH-301, BH-318")).toBeVisible();
  const mail = decodeURIComponent((await panel.getByRole("link", { name: "Open in the mail program" }).getAttribute("href")) ?? "");
  expect(mail).toMatch(/^mailto:accounts@brae-holme-chandlery\.example\?subject=Copies of invoices BH-301, BH-318/);
  expect(mail).toContain("- BH-301, dated 4 October 2026");
  await panel.getByRole("button", { name: "Copy" }).click();
  expect(await page.evaluate(() => navigator.clipboard.readText())).toContain("- BH-318, dated 19 October 2026");
  await page.keyboard.press("c");
  await expect(panel).toHaveCount(0);
});

test("an invoice that is dearer than ordered says so on the sheet, line by line beside its order, and is let pass where the settings say so", async ({
  page,
}) => {
  await signIn(page, "administrator", "/arrivals?q=INV20923");
  const said = page.getByLabel("Compared with the record");
  await expect(said).toContainText("GBP 522.00 more than ordered");
  await said.getByRole("button", { name: /Compare/ }).click();
  const panel = page.getByLabel("Compared with PO-6110");
  await expect(panel.getByRole("row", { name: /Marine gas oil/ })).toContainText("+522.00");
  await page.goto("/set-up");
  const share = page.getByLabel("Prices and totals");
  await share.fill("15");
  await page.locator("section", { hasText: "Tolerances" }).getByRole("button", { name: "Save" }).click();
  await expect(page.getByText("It applies to documents")).toBeVisible();
  await page.goto("/arrivals?q=INV20923");
  await expect(said).toContainText("Matches PO-6110");
  await page.goto("/set-up");
  await share.fill("2");
  await page.locator("section", { hasText: "Tolerances" }).getByRole("button", { name: "Save" }).click();
  await expect(page.getByText("It applies to documents")).toBeVisible();
});
