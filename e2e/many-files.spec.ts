import { makePdf } from "./support/papers.ts";
import { api, expect, signIn, test } from "./support/world.ts";

/** Names of this run are its own, so that a folder of data can be used again. */
const run = Date.now().toString(36);

test("200 files at once come in with progress for each, and every one is there", async ({ page, request }) => {
  const bytes = await makePdf(["One of many"]);
  const files = Array.from({ length: 200 }, (_, i) => ({
    name: `many${run} ${String(i).padStart(3, "0")}.pdf`,
    mimeType: "application/pdf",
    // A trailing comment makes each a file of its own.
    buffer: Buffer.concat([bytes, Buffer.from(`\n% ${run} ${i}\n`)]),
  }));
  await signIn(page, "administrator");
  await page.getByTestId("choose-files").setInputFiles(files);
  const tray = page.getByRole("region", { name: "Uploads" });
  await expect(tray.getByText(/Uploading \d+ of 200/)).toBeVisible();
  await expect(tray.locator(".progress").first()).toBeVisible();
  // Leaving the page does not stop it.
  await page.getByRole("link", { name: "Records" }).first().click();
  await expect(tray.getByText("200 documents received")).toBeVisible({ timeout: 60_000 });
  const found = await (await api(request).get(`/arrivals?q=many${run}&limit=200`)).json();
  expect(found.total).toBe(200);
  expect(new Set(found.items.map((a: { sha256: string }) => a.sha256)).size).toBe(200);

  // All set aside in one go: chosen from the first to the last with Shift, undone, and done again.
  await page.goto(`/arrivals?q=many${run}&sort=name`);
  const rows = page.locator("[data-arrival]");
  await rows.first().click({ modifiers: ["Control"] });
  // The list goes on while one scrolls: the second hundred is asked for on the way.
  const last = page.locator("[data-arrival]", { hasText: `many${run} 199` });
  await expect(async () => {
    await page.locator(".papers").evaluate((el) => el.scrollTo(0, el.scrollHeight));
    await expect(last).toBeVisible({ timeout: 500 });
  }).toPass();
  await last.click({ modifiers: ["Shift"] });
  await expect(page.getByText("200 selected")).toBeVisible();
  await page.getByRole("region", { name: "Waiting documents" }).getByRole("button", { name: "Set aside" }).click();
  await page.getByLabel("Why").fill("A trial");
  await page.getByRole("dialog").getByRole("button", { name: "Set aside" }).click();
  await expect(page.getByText("200 documents set aside")).toBeVisible({ timeout: 30_000 });
  await expect(page.getByText("No documents match the filter")).toBeVisible();
  await page.getByRole("button", { name: /Undo/ }).click();
  await expect(rows.first()).toBeVisible({ timeout: 30_000 });
  const back = await (await api(request).get(`/arrivals?q=many${run}&limit=200`)).json();
  expect(back.total).toBe(200);
  const ids = found.items.map((a: { id: string }) => a.id);
  expect(await (await api(request).post("/arrivals/bulk", { ids, action: "setAside", reason: "end of the trial" })).json()).toMatchObject({
    done: 200,
  });
});
