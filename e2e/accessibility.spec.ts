import { findings } from "./support/axe.ts";
import { expect, signIn, test } from "./support/world.ts";

test("axe finds nothing wrong on Arrivals, and on what opens on the views: columns, filters, the look-up, the sheet, comparisons, the jump field", async ({
  page,
}) => {
  test.setTimeout(180_000);
  await signIn(page, "administrator", "/desk");
  for (const view of ["", "?group=sender", "?view=pictures"]) {
    await page.goto(`/arrivals${view}`);
    await expect(page.locator("h1")).toBeVisible();
    await expect(page.locator("[aria-busy=true]")).toHaveCount(0);
    expect(await findings(page), `Arrivals ${view}`).toEqual([]);
  }
  await page.goto("/records/freightBooking/B-20418?company=MF");
  await page.getByRole("button", { name: "Columns" }).click();
  await page.getByRole("checkbox", { name: "Location", exact: true }).check();
  expect(await findings(page), "The columns of documents").toEqual([]);
  await page.keyboard.press("Escape");
  await page.getByRole("button", { name: "Filter" }).click();
  await expect(page.getByLabel("Location contains")).toBeVisible();
  expect(await findings(page), "A filter in each column").toEqual([]);
  await page.getByRole("button", { name: "Columns" }).click();
  await page.getByRole("button", { name: "Compact list" }).click();
  await page.goto("/documents/AC-000477");
  await page.getByRole("button", { name: /^Change/ }).click();
  await page.getByRole("button", { name: /not shown on other records|also shown on/ }).click();
  expect(await findings(page), "Who else sees it").toEqual([]);
  await page.goto("/arrivals");
  await page.getByLabel("Look up a record").fill("6127");
  await expect(page.getByRole("listbox", { name: "Records" }).getByRole("option").first()).toBeVisible();
  expect(await findings(page), "The look-up").toEqual([]);
  await page.keyboard.press("Enter");
  await expect(page.locator(".will-be")).toContainText("Suppliers");
  expect(await findings(page), "The filing sheet").toEqual([]);
  await page.goto("/arrivals?q=October");
  await expect(page.getByText("2 missing")).toBeVisible();
  await page.keyboard.press("c");
  await expect(page.getByRole("region", { name: "Lines compared" })).toBeVisible();
  expect(await findings(page), "A statement beside the invoices").toEqual([]);
  await page.goto("/arrivals?q=INV20923");
  await expect(page.getByText("more than ordered")).toBeVisible();
  await page.keyboard.press("c");
  await expect(page.getByRole("region", { name: "Lines compared" })).toBeVisible();
  expect(await findings(page), "An invoice beside its order").toEqual([]);
  await page.keyboard.press("n");
  await expect(page.getByRole("heading", { name: "New record" })).toBeVisible();
  expect(await findings(page), "A record made from a document").toEqual([]);
  await page.keyboard.press("Control+k");
  await expect(page.getByRole("dialog")).toBeVisible();
  await page.keyboard.type("orrin");
  await expect(page.getByRole("dialog").getByRole("option").first()).toBeVisible();
  expect(await findings(page), "The jump field").toEqual([]);
});

test("everything on the sheet is reached and done with the keyboard alone", async ({ page }) => {
  await signIn(page, "clerk");
  await expect(page.getByAltText("Page 1")).toBeVisible();
  await page.keyboard.press("/");
  await page.keyboard.type("PO-6125");
  await page.keyboard.press("Enter");
  await expect(page.locator(".clip-card.is-main")).toContainText("PO-6125");
  await page.keyboard.press("e");
  await expect(page.locator(":focus")).toHaveAttribute("id", "sheet-type");
  await page.keyboard.press("Tab");
  await expect(page.locator(":focus")).toHaveAttribute("id", "sheet-title");
  await page.keyboard.press("Escape");
  await page.keyboard.press("s");
  await expect(page.getByRole("dialog")).toBeVisible();
  await page.keyboard.press("Escape");
  await expect(page.getByRole("dialog")).toHaveCount(0);
});
