import { pdfFile } from "./support/papers.ts";
import { api, expect, signIn, test } from "./support/world.ts";

test("a letter on an account is to show on its orders: it is asked about with numbers and names, shows there, and no longer when it is taken back", async ({
  page,
}) => {
  const call = api(page.request);
  const stamp = Date.now().toString(36).toUpperCase();
  const account = `S-R${stamp}`;
  expect((await call.put(`/records/supplierAccount/${account}?company=MF`, { title: `Also shown on ${stamp}` })).ok()).toBe(true);
  const orders = ["1", "2", "3"].map((n) => `PO-R${stamp}${n}`);
  for (const key of orders)
    expect(
      (
        await call.put(`/records/purchaseOrder/${key}?company=MF`, { title: "Rope", parent: { type: "supplierAccount", key: account } })
      ).ok(),
    ).toBe(true);
  // Asked about above two records; put back at the end.
  const usual = { askAbove: 100, types: { customerAgreement: ["damageClaim"] } };
  await call.put("/settings/reach", usual);
  await signIn(page, "administrator", "/set-up");
  await page.getByLabel("Ask above").fill("2");
  const reach = page.getByRole("region", { name: "Also shown on" });
  await reach.getByRole("button", { name: "Save" }).click();
  await expect(page.getByText("It applies to documents clipped from now on.")).toBeVisible();
  try {
    const taken = (await (
      await call.upload(await pdfFile(`terms ${stamp}.pdf`, [`New terms ${stamp}`]), { record: `supplierAccount:${account}` })
    ).json()) as {
      id: string;
    };
    await page.goto(`/arrivals?at=${taken.id}`);
    await expect(page.locator(".clip-card.is-main")).toContainText(account);
    await page.getByLabel("Document type").selectOption("letter");
    await page.getByRole("button", { name: "not shown on other records" }).click();
    await page.getByRole("checkbox", { name: "Purchase orders 3" }).check();
    await expect(page.getByRole("button", { name: "also shown on 3 purchase orders" })).toBeVisible();
    await expect(page.locator(".reach .clash")).toContainText("That is a lot");
    await page.getByRole("button", { name: /File and next/ }).click();
    const question = page.getByRole("dialog", { name: "Shown on many records" });
    await expect(question).toContainText("3 purchase orders");
    for (const key of orders) await expect(question).toContainText(key);
    await question.getByRole("button", { name: "Show on all" }).click();
    await expect(page.getByText(/^Filed: /)).toBeVisible();

    await page.goto(`/records/purchaseOrder/${orders[1] ?? ""}?company=MF`);
    const row = page.locator(".doc-row", { hasText: "Letter" });
    await expect(row).toContainText(`from`);
    await expect(row).toContainText(account);
    await row.dblclick();
    await expect(page).toHaveURL(/\/documents\/AC-/);
    await expect(page.getByText("also shown on purchase orders")).toBeVisible();
    await page.keyboard.press("e");
    const dialog = page.getByRole("dialog", { name: /Change AC-/ });
    await dialog.getByRole("button", { name: /also shown on/ }).click();
    await dialog.getByRole("checkbox", { name: /Purchase orders/ }).uncheck();
    await dialog.getByLabel(`Note on ${account}`).fill("Holds from January");
    await dialog.getByRole("button", { name: "Save" }).click();
    await expect(dialog).toBeHidden();
    await expect(page.locator(".clip-note", { hasText: "Holds from January" })).toBeVisible();
    await page.goto(`/records/purchaseOrder/${orders[1] ?? ""}?company=MF`);
    await expect(page.getByRole("button", { name: "Own 0" })).toBeVisible();
    // On the account above it still is, and says so.
    await page.getByRole("button", { name: "Parent 1" }).click();
    await expect(page.locator(".doc-row", { hasText: "Letter" })).toContainText(account);
    await page.goto(`/records/supplierAccount/${account}?company=MF`);
    await expect(page.locator(".doc-row", { hasText: "Letter" })).toContainText("Holds from January");
  } finally {
    await call.put("/settings/reach", usual);
  }
});
