import type { Page } from "@playwright/test";
import { pdfFile } from "./support/papers.ts";
import { api, confirmType, expect, signIn, test } from "./support/world.ts";

test("a document dropped on a record waits for it in Arrivals, and one key files it there", async ({ page }) => {
  await signIn(page, "clerk", "/records/purchaseOrder/PO-6120?company=MF");
  await page.getByTestId("choose-files").setInputFiles(await pdfFile("dropped on the order.pdf", ["Delivery note"]));
  await page.getByRole("link", { name: /dropped on the order/ }).click();
  await expect(page.locator(".clip-card.is-main")).toContainText("PO-6120");
  await expect(page.locator(".will-be")).toContainText("PO-6120");
  await page.keyboard.press("f");
  await confirmType(page);
  await expect(page.getByText(/^Filed: /)).toBeVisible();
  await page.goto("/records/purchaseOrder/PO-6120?company=MF");
  await expect(page.getByText("Waiting to be filed")).toHaveCount(0);
  await expect(page.locator(".doc-row").first()).toBeVisible();
});

test("a record shows its own documents, those along its chain, and what is beneath an account", async ({ page }) => {
  await signIn(page, "administrator", "/records/freightBooking/B-20418?company=MF");
  await expect(page.getByRole("button", { name: /Own \d/ })).toBeVisible();
  const own = await page.locator(".doc-row").count();
  await page.getByRole("button", { name: /Chain \d/ }).click();
  await expect(page.getByText("from Invoice 31-5520")).toBeVisible();
  expect(await page.locator(".doc-row").count()).toBeGreaterThan(own);
  await page.getByRole("link", { name: "Orrin Shellfish" }).first().click();
  await expect(page).toHaveURL(/customerAccount/);
  await page.getByRole("button", { name: /Child records \d/ }).click();
  await expect(page.locator(".doc-row").first()).toContainText("from");
  await page.getByRole("link", { name: /freight booking/ }).click();
  await expect(page.getByText("of C-1042")).toBeVisible();
  await expect(page.getByRole("row", { name: /B-20418/ })).toBeVisible();
});

test("documents are flipped through with the keyboard beside the record, and the timeline tells of it", async ({ page }) => {
  await signIn(page, "clerk", "/records/freightBooking/B-20418?company=MF&scope=chain");
  const title = page.getByRole("region", { name: "Document" }).locator("strong").first();
  const first = await title.textContent();
  await page.keyboard.press("j");
  await expect(title).not.toHaveText(first ?? "");
  await expect(page).toHaveURL(/open=AC-/);
  await page.getByRole("button", { name: "Timeline" }).click();
  await expect(page.getByRole("dialog")).toContainText("clipped");
});

test("look-up takes keys, names, wildcards and small errors, and narrows to an account chosen before", async ({ page }) => {
  await signIn(page, "clerk", "/arrivals");
  const field = page.getByLabel("Look up a record");
  const hits = page.getByRole("listbox", { name: "Records" });
  for (const [typed, found] of [
    ["PO-61*7", "PO-6127"],
    ["tarin marine", "S-2004"],
    ["orrin shell", "C-1042"],
  ] as const) {
    await field.fill(typed);
    await expect(hits.getByRole("option").filter({ hasText: found }).first()).toBeVisible();
  }
  await field.fill("S-2004");
  await page.keyboard.press("Enter");
  await expect(page.locator(".clip-card.is-main")).toContainText("S-2004");
  await field.fill("");
  await field.focus();
  await expect(page.getByPlaceholder("Of Tarrin Marine Fuels")).toBeVisible();
  await expect(hits.getByRole("option").first()).toContainText("Tarrin Marine Fuels");
});

test("records come in from CSV with progress; wrong rows are listed, right ones kept", async ({ page }) => {
  await signIn(page, "administrator", "/records");
  await page.getByRole("button", { name: "Import CSV" }).click();
  const dialog = page.getByRole("dialog");
  await dialog.getByLabel("Record type").selectOption("vessel");
  await dialog.getByLabel("Company").selectOption("MF");
  await dialog.getByLabel("File").setInputFiles({
    name: "vessels.csv",
    mimeType: "text/csv",
    buffer: Buffer.from("key,title,name\nV-71,MV Seventy One,Seventy One\n,without key,x\nV-72,MV Seventy Two,Seventy Two\n"),
  });
  await dialog.getByRole("button", { name: "Import" }).click();
  await expect(dialog.getByRole("status")).toHaveText("2 imported, 1 skipped");
  await expect(dialog).toContainText("line 3");
  await dialog.getByRole("button", { name: "Close" }).last().click();
  await page.goto("/records/vessel/V-72?company=MF");
  await expect(page.getByRole("heading", { name: "MV Seventy Two" })).toBeVisible();
});

test("the jump field goes to a record, a document and a place", async ({ page, request }) => {
  await signIn(page, "clerk", "/desk");
  await openJump(page);
  // Without waiting for the list: Enter goes where the answer leads, whenever it comes.
  await page.keyboard.type("B-20418");
  await page.keyboard.press("Enter");
  await expect(page).toHaveURL(/freightBooking\/B-20418/);
  await openJump(page);
  await page.keyboard.type("Packing list B-20418");
  await page
    .getByRole("dialog")
    .getByRole("option", { name: /^Packing list B-20418 AC-/ })
    .click();
  await expect(page).toHaveURL(/documents\/AC-/);
  await openJump(page);
  await page.keyboard.type("Find");
  await page.getByRole("option", { name: "Find", exact: true }).click();
  await expect(page).toHaveURL(/\/find/);
  expect((await api(request).get("/records/lookup?q=B-20418")).ok()).toBe(true);
});

/** Keys do nothing until the page's scripts run: pressed until the field is there. */
async function openJump(page: Page): Promise<void> {
  await expect(async () => {
    await page.keyboard.press("Control+k");
    await expect(page.getByPlaceholder("Go to a record, document or page")).toBeFocused({ timeout: 500 });
  }).toPass();
}

test("documents are shown with chosen columns and filtered in each, the choice stays with the person, and of many only those in sight are drawn", async ({
  page,
}) => {
  const call = api(page.request);
  const key = `B-C${Date.now().toString(36).toUpperCase()}`;
  expect(
    (await call.put(`/records/freightBooking/${key}?company=MF`, { title: "Columns", fields: { sailingDate: "2026-11-18" } })).ok(),
  ).toBe(true);
  for (let i = 1; i <= 70; i++) {
    const made = (await (
      await call.upload({ name: `note ${key} ${i}.txt`, mimeType: "text/plain", buffer: Buffer.from(`Note ${i} of ${key}`) })
    ).json()) as { id: string };
    const filed = await call.post(`/arrivals/${made.id}/file`, {
      documentType: "letter",
      clips: [{ company: "MF", type: "freightBooking", key, ...(i === 7 ? { note: "the seventh one" } : {}) }],
      title: `Letter number ${i}`,
      properties: {},
    });
    expect(filed.ok()).toBe(true);
  }
  await signIn(page, "administrator", `/records/freightBooking/${key}?company=MF`);
  const rows = page.locator(".doc-row");
  await expect(rows.first()).toBeVisible();
  await expect(page.getByRole("button", { name: "Own 70" })).toBeVisible();
  // Seventy are there; far fewer are drawn, and the last comes when one scrolls to it.
  expect(await rows.count()).toBeLessThan(50);
  const list = page.getByRole("region", { name: "Documents of the record" });
  await list.evaluate((e) => e.scrollTo(0, e.scrollHeight));
  await expect(list.getByText("Letter number 1", { exact: true })).toBeVisible();
  await page.getByRole("button", { name: "Columns" }).click();
  for (const label of ["Note", "Added by", "Location"]) await page.getByRole("checkbox", { name: label, exact: true }).check();
  await page.keyboard.press("Escape");
  await expect(page.locator(".paper-heads")).toContainText("Added by");
  await page.getByRole("button", { name: "Filter" }).click();
  await page.getByLabel("Note contains").fill("SEVENTH");
  await expect(rows).toHaveCount(1);
  await expect(rows).toContainText("Letter number 7");
  await page.getByLabel("Added by contains").fill("nobody of that name");
  await expect(page.getByText("None of the 70 documents matches")).toBeVisible();
  await page.reload();
  await expect(page.locator(".paper-heads")).toContainText("Location");
  await page.getByRole("button", { name: "Columns" }).click();
  await page.getByRole("button", { name: "Compact list" }).click();
  await expect(page.locator(".paper-heads")).toHaveCount(0);
});
