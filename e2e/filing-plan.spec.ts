import { pdfFile } from "./support/papers.ts";
import { api, expect, signIn, test } from "./support/world.ts";

test("a folder rule is changed with a live preview on real records, and holds for records that have no folder yet", async ({
  page,
  request,
}) => {
  await api(request).put("/records/journal/J-9901?company=MF", { title: "Accruals late", fields: { documentDate: "2026-11-20" } });
  await signIn(page, "administrator", "/filing-plan?type=journal");
  const preview = page.getByRole("region", { name: "Preview" });
  const root = page.getByLabel("Root folder", { exact: true });
  const before = await root.inputValue();
  await root.fill("Closed books/Journals");
  await expect(preview).toContainText("Closed books");
  await root.fill("");
  await expect(preview).toContainText("The rule is incomplete");
  await expect(page.getByRole("button", { name: /Save for new/ })).toBeDisabled();
  await root.fill("Closed books/Journals");
  await page.getByRole("button", { name: /Save for new/ }).click();
  await expect(page.getByText("Saved for new journals")).toBeVisible();

  await page.goto("/arrivals");
  await page.getByTestId("choose-files").setInputFiles(await pdfFile("for a journal.pdf", ["Accrual"]));
  await page.locator("[data-arrival]").filter({ hasText: "for a journal" }).click();
  await page.getByLabel("Look up a record").fill("J-9901");
  await page.getByRole("listbox", { name: "Records" }).getByRole("option").filter({ hasText: "J-9901" }).first().click();
  await expect(page.locator(".will-be")).toContainText("Closed books › Journals");

  await page.goto("/filing-plan?type=journal");
  await root.fill(before);
  await page.getByRole("button", { name: /Save for new/ }).click();
  await expect(page.getByText("Saved for new journals")).toBeVisible();
});

test("namesakes are shown over all records, and a field that tells them apart solves it", async ({ page }) => {
  await signIn(page, "administrator", "/filing-plan?type=customerAccount");
  const preview = page.getByRole("region", { name: "Preview" });
  await page.getByRole("button", { name: "text" }).first().click();
  await page.locator("input#rule-name").fill("{name}");
  await expect(preview).toContainText(/shared by several records/);
  await expect(preview).toContainText(/halven timber/i);
  await page.getByLabel("If names clash, add").selectOption("key");
  await expect(preview).toContainText("made unique by the field");
  await page.locator("input#rule-name").fill("{name");
  await expect(preview).toContainText("The rule is incomplete");
  await page.getByRole("button", { name: "Reset" }).click();
  await expect(page.locator("input#rule-name")).toHaveValue("{name|title} {key}");
});
