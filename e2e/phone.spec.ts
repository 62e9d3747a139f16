import { expect, signIn, test } from "./support/world.ts";

test.use({ viewport: { width: 390, height: 844 } });

test("on a phone the three columns are steps, and nothing is wider than the screen", async ({ page }) => {
  await signIn(page, "clerk", "/desk");
  const fits = () =>
    page.evaluate(() => document.documentElement.scrollWidth <= window.innerWidth && document.body.scrollWidth <= window.innerWidth);
  expect(await fits()).toBe(true);
  await page.getByRole("navigation", { name: "Main menu" }).getByRole("link", { name: "Arrivals" }).click();
  // Mails wait here too; this one is a document with pages.
  const row = page
    .locator("[data-arrival]")
    .filter({ has: page.locator(".thumb img") })
    .first();
  await expect(row).toBeVisible();
  expect(await fits()).toBe(true);
  await row.click();
  await expect(page.getByAltText("Page 1")).toBeVisible();
  await expect(row).toBeHidden();
  // Fingers enlarge a page; every other control of its toolbar is in reach.
  for (const control of await page.getByRole("toolbar", { name: "Document" }).locator("button:visible, a:visible").all())
    await expect(control).toBeInViewport({ ratio: 1 });
  await page.getByRole("button", { name: "File", exact: true }).click();
  await page.getByLabel("Look up a record").fill("6127");
  await page.getByRole("option", { name: /PO-6127/ }).click();
  await expect(page.locator(".will-be")).toContainText("Suppliers");
  expect(await fits()).toBe(true);
  await page.getByRole("button", { name: "Document", exact: true }).click();
  await page.getByRole("button", { name: "All documents" }).click();
  await expect(row).toBeVisible();
  await page.goto("/records/freightBooking/B-20418?company=MF");
  // Arrivals that wait for the record stand above its documents and lead away from here.
  await page.locator(".doc-row:not(a)").first().click();
  await expect(page.getByAltText("Page 1")).toBeVisible();
  expect(await fits()).toBe(true);
});
