import { mkdir, mkdtemp, rm, writeFile } from "node:fs/promises";
import os from "node:os";
import path from "node:path";
import { badFiles } from "#scenario/papers/bad-files.ts";
import { makePdf, pdfFile } from "./support/papers.ts";
import { api, expect, readArrival, signIn, test } from "./support/world.ts";

test("a whole folder is taken in, with what is in its sub-folders", async ({ page }) => {
  const folder = await mkdtemp(path.join(os.tmpdir(), "amber-folder-"));
  try {
    await mkdir(path.join(folder, "quay/deep"), { recursive: true });
    await writeFile(path.join(folder, "quay/first in folder.pdf"), await makePdf(["first"]));
    await writeFile(path.join(folder, "quay/deep/second in folder.pdf"), await makePdf(["second"]));
    await signIn(page, "clerk");
    await page.getByLabel("Choose a folder").setInputFiles(folder);
    await expect(page.getByText("2 documents received")).toBeVisible();
    for (const name of ["first in folder", "second in folder"])
      await expect(page.locator("[data-arrival]", { hasText: name })).toBeVisible();
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
});

test("what breaks a limit is refused before it is sent, and the rest goes in", async ({ page }) => {
  await signIn(page, "clerk");
  await page
    .getByTestId("choose-files")
    .setInputFiles([
      await pdfFile("fine beside it.pdf", ["fine"]),
      { name: "empty.pdf", mimeType: "application/pdf", buffer: Buffer.alloc(0) },
      { name: "setup.exe", mimeType: "application/octet-stream", buffer: Buffer.from("MZ") },
    ]);
  const tray = page.getByRole("region", { name: "Uploads" });
  await expect(tray.getByText("1 received, 2 not")).toBeVisible();
  await expect(tray.getByText(/Programs/)).toBeVisible();
  await expect(tray.getByText(/empty/).last()).toBeVisible();
});

test("a document pasted on the page comes in", async ({ page }) => {
  await signIn(page, "clerk");
  await page.evaluate(() => {
    const data = new DataTransfer();
    data.items.add(new File(["pasted words"], "pasted.txt", { type: "text/plain" }));
    document.querySelector(".papers")?.dispatchEvent(new ClipboardEvent("paste", { clipboardData: data, bubbles: true, cancelable: true }));
  });
  await expect(page.locator("[data-arrival]", { hasText: "pasted" })).toBeVisible();
});

test("broken, locked, empty and mislabelled files become arrivals that say what is wrong; the list and the viewer hold", async ({
  page,
  request,
}) => {
  test.setTimeout(180_000);
  await signIn(page, "administrator");
  // All at once, as people drop them.
  const sent = await Promise.all(
    (await badFiles()).map(async (bad) => {
      const answer = await api(request).upload(
        { name: bad.name, mimeType: "application/octet-stream", buffer: Buffer.from(bad.bytes) },
        { note: "bad file" },
      );
      expect(answer.status(), bad.name).toBe(201);
      return { bad, id: ((await answer.json()) as { id: string }).id };
    }),
  );
  for (const { bad, id } of sent) {
    const arrival = await readArrival(request, id);
    if (bad.problem) expect((arrival["problem"] as { code: string } | null)?.code, bad.name).toBe(bad.problem);
    await page.goto(`/arrivals?at=${String(arrival["id"])}&q=bad+file`);
    await expect(page.locator(".paper-row.is-chosen")).toContainText(bad.name.replace(/\.(pdf|eml)$/i, ""));
    await expect(page.getByLabel("Download original")).toBeVisible();
  }
  await page.goto("/arrivals?show=problem&q=cut+off");
  await expect(page.locator("[data-arrival]", { hasText: "cut off in transit" })).toContainText("damaged");
  await page.goto("/arrivals?show=problem&q=confidential");
  await page.locator("[data-arrival]", { hasText: "confidential statement" }).click();
  await expect(page.getByRole("region", { name: "Details" })).toContainText(/password/i);
});

test("sorted, filtered and walked through with the keyboard; the address holds the state", async ({ page }) => {
  await signIn(page, "clerk");
  await page.getByRole("button", { name: /Sort and filter/ }).click();
  await page.getByRole("button", { name: "By name" }).click();
  await expect(page).toHaveURL(/sort=name/);
  const names = await page.locator("[data-arrival] .name").allTextContents();
  expect(names.slice(0, 6)).toEqual([...names.slice(0, 6)].sort((a, b) => a.toLowerCase().localeCompare(b.toLowerCase())));
  const chosen = page.locator(".paper-row.is-chosen .name");
  const first = await chosen.textContent();
  await page.keyboard.press("j");
  await expect(chosen).not.toHaveText(first ?? "");
  await page.keyboard.press("k");
  await expect(chosen).toHaveText(first ?? "");
  await page.keyboard.press("x");
  await expect(page.getByText("1 selected")).toBeVisible();
  await page.keyboard.press("Escape");
  await page.getByLabel("Filter by name or sender").fill("halven timber rates");
  await expect(page.locator("[data-arrival]")).toHaveCount(1);
  await expect(page).toHaveURL(/q=halven/);
  await page.reload();
  await expect(page.locator("[data-arrival]")).toHaveCount(1);
  await page.keyboard.press("?");
  await expect(page.getByRole("dialog", { name: "Keyboard shortcuts" })).toContainText("file and go to the next");
  // The order stays with the person; the other journeys expect the newest first.
  await page.goto("/arrivals");
  await page.getByRole("button", { name: /Sort and filter/ }).click();
  const saved = page.waitForResponse((r) => r.url().endsWith("/me/preferences"));
  await page.getByRole("button", { name: "Newest first" }).click();
  await saved;
  await expect(page.getByRole("button", { name: "Sort and filter: Newest first" })).toBeVisible();
});

test("the next document is there without a wait: it was loaded ahead", async ({ page }) => {
  await signIn(page, "clerk", "/arrivals?queue=payables&q=inv");
  await expect(page.getByAltText("Page 1")).toBeVisible();
  await expect
    .poll(() => page.evaluate(() => performance.getEntriesByType("resource").filter((r) => /\/view$/.test(r.name)).length))
    .toBeGreaterThan(2);
  const before = await page.evaluate(() =>
    performance
      .getEntriesByType("resource")
      .filter((r) => /\/view$/.test(r.name))
      .map((r) => r.name),
  );
  await page.keyboard.press("j");
  await expect(page.locator(".paper-row.is-chosen")).toHaveCount(1);
  const open = new URL(page.url()).searchParams.get("at");
  expect(before.some((name) => name.includes(open ?? "nothing"))).toBe(true);
});

test("an address that names a document opens that one, also when the list leaves it out, and never another in its place", async ({
  page,
  request,
}) => {
  const made = (await (await api(request).upload(await pdfFile("named in the address.pdf", ["words"]))).json()) as { id: string };
  await readArrival(request, made.id);
  await signIn(page, "administrator", `/arrivals?queue=crew-office&at=${made.id}`);
  await expect(page.locator(".paper-row.is-chosen .name")).toHaveText("named in the address");
  await page.keyboard.press("j");
  await expect(page.locator(".paper-row.is-chosen .name")).not.toHaveText("named in the address");
  await api(request).post(`/arrivals/${made.id}/set-aside`, { reason: "end of the trial" });
  await page.goto(`/arrivals?at=${made.id}`);
  await expect(page.getByText("That document is no longer waiting.")).toBeVisible();
  await expect(page.locator("[data-arrival]", { hasText: "named in the address" })).toHaveCount(0);
});

test("a mail stands beside its parts, which are arrivals of their own", async ({ page }) => {
  await signIn(page, "administrator");
  await page.getByLabel("Filter by name or sender").fill("Your order");
  await page.locator("[data-arrival]").first().click();
  await expect(page.getByText("a separate arrival").first()).toBeVisible();
  await expect(page.locator(".plain-paper")).toContainText("please find our invoice");
});

test("the register shows every arrival, gives it as CSV, and restores what was set aside", async ({ page, request }) => {
  const made = (await (await api(request).upload(await pdfFile("register me.pdf", ["words"]))).json()) as { id: string };
  await readArrival(request, made.id);
  await api(request).post(`/arrivals/${made.id}/set-aside`, { reason: "Advertising" });
  await signIn(page, "auditor", "/arrivals/register");
  await page.getByLabel("Name, sender or note").fill("register me");
  const row = page.getByRole("row", { name: /register me/ });
  await expect(row).toContainText("set aside");
  const csv = await (await api(request).get("/register?q=register%20me", { accept: "text/csv" })).text();
  expect(csv.split("\n")[0]).toContain("sha256");
  expect(csv).toContain("Advertising");
  await signIn(page, "administrator", "/arrivals/register?q=register+me");
  await page
    .getByRole("row", { name: /register me/ })
    .getByRole("button", { name: "Restore" })
    .click();
  await expect(page.getByText("Back in Arrivals")).toBeVisible();
  await page
    .getByRole("row", { name: /register me/ })
    .getByRole("button", { name: "Timeline" })
    .click();
  await expect(page.getByRole("dialog")).toContainText("restored it to Arrivals");
});
