import { execFile } from "node:child_process";
import { mkdtemp, readFile, writeFile } from "node:fs/promises";
import os from "node:os";
import path from "node:path";
import { promisify } from "node:util";
import type { Page } from "@playwright/test";
import { makePdf, pdfFile } from "./support/papers.ts";
import { api, expect, readArrival, signIn, test } from "./support/world.ts";

const run = promisify(execFile);
const stamp = (): string => Date.now().toString(36);
/** Takes a file in by the API and answers its id once it is read. */
async function taken(
  page: Page,
  file: { name: string; mimeType: string; buffer: Buffer },
  fields: Record<string, string> = {},
): Promise<string> {
  const { id } = (await (await api(page.request).upload(file, fields)).json()) as { id: string };
  await readArrival(page.request, id);
  return id;
}
async function filed(page: Page, lines: readonly string[], wish: Record<string, unknown>): Promise<string> {
  const id = await taken(page, await pdfFile(`document ${stamp()}.pdf`, lines));
  const done = await api(page.request).post(`/arrivals/${id}/file`, { onSameName: "separate", ...wish });
  expect(done.status()).toBe(200);
  return ((await done.json()) as { code: string }).code;
}
const clip = (type: string, key: string) => ({ company: "MF", type, key });
/** Drops a file on an element as the desktop does: in steps, with a file among what is carried. */
async function dropFile(page: Page, on: string, name: string, bytes: Buffer): Promise<void> {
  const carried = await page.evaluateHandle(
    ([fileName, text]) => {
      const carrier = new DataTransfer();
      const content = Uint8Array.from(atob(text ?? ""), (c) => c.charCodeAt(0));
      carrier.items.add(new File([content], fileName ?? "", { type: "application/pdf" }));
      return carrier;
    },
    [name, bytes.toString("base64")],
  );
  for (const kind of ["dragenter", "dragover"]) await page.dispatchEvent(on, kind, { dataTransfer: carried });
  await expect(page.locator(".drop-over")).toBeVisible();
  await page.dispatchEvent(on, "drop", { dataTransfer: carried });
}

test("a bundle is cut on the bench, each part shows what it is and where it belongs, and one key files them all", async ({ page }) => {
  await signIn(page, "clerk", "/arrivals");
  const { items } = (await (await api(page.request).get("/arrivals?limit=200")).json()) as {
    items: { id: string; fileName: string; queue: string }[];
  };
  const bundle = items.find((a) => a.fileName.startsWith("Week 46"));
  await page.goto(`/bench?arrivals=${bundle?.id ?? ""}`);
  await page.getByRole("button", { name: /proposed cuts/ }).click();
  const head = page.locator(".bench-head").first();
  await expect(head.locator(".bench-record")).toContainText(/PO-\d+/, { timeout: 30_000 });
  await expect(head.locator(".certainty").first()).toContainText("%");
  await expect(head.getByLabel("Document type of document 1")).toHaveValue("supplierInvoice");
  // What the program is not sure of is confirmed by a person, then all go.
  await expect(page.getByText("Reading …")).toHaveCount(0, { timeout: 30_000 });
  const confirm = page.getByRole("button", { name: /^Confirm/ });
  await expect(page.getByRole("button", { name: /^File/ })).toBeVisible({ timeout: 30_000 });
  if (await confirm.isVisible()) await confirm.click();
  await page.keyboard.press("f");
  await expect(page.getByText(/\d+ documents? filed/)).toBeVisible({ timeout: 60_000 });
});

test("what a new version shows is its own page, also for who has seen the one before", async ({ page }) => {
  const words = ["first", "second"].map((w) => `${w}${stamp()}`) as [string, string];
  const wish = { documentType: "other", title: `Version ${stamp()}`, clips: [clip("freightBooking", "B-20418")] };
  const code = await filed(page, [words[0], "a page with words of its own"], wish);
  await signIn(page, "clerk", `/documents/${code}`);
  await expect(page.getByAltText("Page 1")).toBeVisible();
  const before = await page.getByAltText("Page 1").getAttribute("src");
  const next = await taken(page, await pdfFile(`next ${stamp()}.pdf`, [words[1], "another page with words of its own"]));
  expect((await api(page.request).post(`/arrivals/${next}/file`, { ...wish, onSameName: "version" })).status()).toBe(200);
  await page.goto("/desk");
  await page.goto(`/documents/${code}`);
  await expect(page.getByAltText("Page 1")).toBeVisible();
  expect(await page.getByAltText("Page 1").getAttribute("src")).not.toBe(before);
  await page.getByRole("button", { name: "Search in document" }).click();
  await page.getByPlaceholder("Search in document").fill(words[1]);
  await expect(page.getByText("1 of 1", { exact: true })).toBeVisible();
});

test("a file dropped on a checklist item is filed for it without values that nobody said, and the page can be used at once", async ({
  page,
}) => {
  await signIn(page, "administrator", "/records/freightBooking/B-20418?company=MF");
  const item = page.locator(".checklist .item").first();
  await expect(item).toBeVisible();
  await dropFile(
    page,
    ".checklist .item >> nth=0",
    `dropped ${stamp()}.pdf`,
    await makePdf([`Dropped ${stamp()}`, "a page with words of its own"]),
  );
  await expect(page.locator(".drop-over")).toBeHidden();
  await expect(page.getByText(/filed for|is waiting in Arrivals/).first()).toBeVisible();
  await item.click();
  await expect(page.locator(".item-panel")).toBeVisible();
});

test("Esc closes the list of the look-up and nothing else; an account's own records are offered first", async ({ page }) => {
  const code = await filed(page, [`esc ${stamp()}`, "a page with words of its own"], {
    documentType: "other",
    clips: [clip("customerAccount", "C-1003")],
  });
  await signIn(page, "administrator", `/documents/${code}`);
  await page.keyboard.press("e");
  const dialog = page.getByRole("dialog");
  await dialog.getByLabel("Title").fill("Written and not lost");
  await dialog.getByLabel("Look up a record").fill("B-2");
  const list = dialog.getByRole("listbox");
  await expect(list.getByRole("option").first()).toBeVisible();
  // All of the list is on the screen.
  const box = await list.boundingBox();
  expect((box?.y ?? -1) >= 0 && (box?.y ?? 0) + (box?.height ?? 0) <= 800).toBe(true);
  const first = await list.getByRole("option").first().textContent();
  const { items } = (await (
    await api(page.request).get("/records?type=freightBooking&company=MF&parent=customerAccount:C-1003&limit=200")
  ).json()) as {
    items: { key: string }[];
  };
  expect(items.some((r) => first?.includes(r.key))).toBe(true);
  await page.keyboard.press("Escape");
  await expect(list).toBeHidden();
  await expect(dialog.getByLabel("Title")).toHaveValue("Written and not lost");
  await page.keyboard.press("Escape");
  await page.keyboard.press("Escape");
  await expect(dialog).toBeHidden();
});

test("words that were found are marked on the page, also on the document's own page; an account's number leads to everything of it", async ({
  page,
}) => {
  const word = `zephyr${stamp()}`;
  await filed(page, ["first line", `a rare ${word} here`], { documentType: "other", clips: [clip("purchaseOrder", "PO-6127")] });
  await signIn(page, "clerk", `/find?q=${word}`);
  await page.locator("article").first().click();
  await expect(page.locator(".hit").first()).toBeVisible();
  await page.getByRole("link", { name: /^Open/ }).click();
  await page.waitForURL(/\/documents\/AC-\d+\?q=/);
  await expect(page.locator(".hit").first()).toBeVisible();
  await page.goto("/find?q=S-2004");
  await page.getByRole("button", { name: /Everything of S-2004/ }).click();
  await expect(page).toHaveURL(/within=supplierAccount:S-2004/);
  await expect(page.locator("article").first()).toBeVisible();
});

test("an arrival that waits is found by its words and says that it waits", async ({ page }) => {
  const word = `quill${stamp()}`;
  const id = await taken(page, await pdfFile(`waiting ${word}.pdf`, ["a list", `with ${word} in it`]), { queue: "payables" });
  await signIn(page, "clerk", "/desk");
  await expect
    .poll(async () => ((await (await api(page.request).get(`/find?q=${word}`)).json()) as { waiting: { total: number } }).waiting.total, {
      timeout: 30_000,
    })
    .toBe(1);
  await page.goto(`/find?q=${word}`);
  await expect(page.getByRole("region", { name: "Not filed yet" }).getByText("waiting", { exact: true })).toBeVisible();
  await page.getByRole("link", { name: new RegExp(word) }).click();
  await expect(page).toHaveURL(new RegExp(`at=${id}`));
});

test("a locked PDF is opened with its password where it waits", async ({ page }) => {
  const folder = await mkdtemp(path.join(os.tmpdir(), "amber-locked-"));
  const [open, shut] = [path.join(folder, "open.pdf"), path.join(folder, "shut.pdf")];
  await writeFile(open, await makePdf([`locked ${stamp()}`, "a page with words of its own"]));
  await run("qpdf", ["--encrypt", "gannet", "owner", "256", "--", open, shut]);
  const id = await taken(page, { name: "shut.pdf", mimeType: "application/pdf", buffer: await readFile(shut) }, { queue: "payables" });
  await signIn(page, "clerk", `/arrivals?at=${id}`);
  await page.getByLabel("Password of the file").fill("guess");
  await page.getByRole("button", { name: "Open file" }).click();
  await expect(page.getByText("Wrong password for this file")).toBeVisible();
  await page.getByLabel("Password of the file").fill("gannet");
  await page.getByRole("button", { name: "Open file" }).click();
  await expect(page.getByAltText("Page 1")).toBeVisible({ timeout: 30_000 });
});

test("an invoice of a supplier that nobody knows is filed with a new account made from it", async ({ page }) => {
  const name = `Copinsay Ropes ${stamp()}`;
  const id = await taken(
    page,
    await pdfFile(`unknown ${stamp()}.pdf`, [
      name,
      "INVOICE",
      `Invoice No. X-${stamp()}`,
      "Invoice date: 19 November 2026",
      "Net 100.00",
      "VAT 20 % 20.00",
      "Total GBP 120.00",
    ]),
    { queue: "payables" },
  );
  await signIn(page, "clerk", `/arrivals?at=${id}`);
  await expect(page.getByRole("button", { name: "File and next" })).toBeVisible();
  await page.keyboard.press("n");
  await page.getByLabel("Record type").selectOption("supplierInvoice");
  const off = page.getByRole("button", { name: /^Remove/ });
  while ((await off.count()) > 0) await off.first().click();
  await page.getByRole("button", { name: /New supplier account/ }).click();
  const account = page.getByRole("group", { name: "New supplier account" });
  await account.getByLabel(/^Name/).fill(name);
  await page.locator("#draft-documentNumber").fill(`X-${stamp()}`);
  await page.locator("#draft-total").fill("120.00");
  await page.locator("#draft-currency").fill("GBP");
  await page.getByRole("button", { name: /Create and send/ }).click();
  await expect(page.getByText(/^Created: Supplier invoice/)).toBeVisible();
  // First the account gets its number, then the invoice beneath it.
  await expect
    .poll(
      async () => {
        const { items } = (await (await api(page.request).get(`/records/lookup?q=${encodeURIComponent(name)}&company=MF`)).json()) as {
          items: { type: string; key: string }[];
        };
        return items.map((r) => `${r.type} ${r.key.replace(/\d+/, "n")}`).sort();
      },
      { timeout: 60_000 },
    )
    .toEqual(["supplierAccount S-n", "supplierInvoice SI-n"]);
});

test("the next batch of a scanner is tied to the record that waits for it", async ({ page }) => {
  await signIn(page, "clerk", "/records/purchaseOrder/PO-6127?company=MF");
  await page.getByRole("button", { name: "Scan" }).click();
  await page.getByLabel("Scanner").selectOption("payables");
  await page.getByRole("button", { name: "Start waiting" }).click();
  await expect(page.getByText(/Waiting for the scanner/)).toBeVisible();
  await api(page.request).upload(await pdfFile(`batch ${stamp()}.pdf`, [`batch ${stamp()}`, "from the glass"]), {
    queue: "payables",
    source: "scanner",
  });
  await expect(page.getByText("The batch has arrived, assigned to PO-6127.")).toBeVisible({ timeout: 20_000 });
  await page.getByRole("link", { name: "File" }).click();
  await expect(page.locator(".clip-card.is-main")).toContainText("PO-6127");
});

test("a light user sees no trace of what is hidden, says what her own document is, and finds no set-up", async ({ page }) => {
  await signIn(page, "lightUser", "/records/freightBooking/B-20418?company=MF");
  await expect(page.getByRole("heading", { level: 2 }).first()).toBeVisible();
  await expect(page.getByText("none yet")).toHaveCount(0);
  await page.goto("/set-up");
  await expect(page.getByText("Not found")).toBeVisible();
  await expect(page.getByText("Largest file, MB")).toHaveCount(0);
  const { id } = (await (
    await api(page.request, "lightUser").upload(await pdfFile(`mine ${stamp()}.pdf`, [`mine ${stamp()}`, "a page with words of its own"]), {
      queue: "quay-office",
    })
  ).json()) as { id: string };
  await readArrival(page.request, id);
  await page.goto(`/arrivals?at=${id}`);
  await page.getByRole("button", { name: "Details" }).or(page.getByLabel("Document type")).first().waitFor();
  await page.getByLabel("Document type").selectOption("packingList");
  await page.getByLabel("Look up a record").fill("20418");
  await page.getByRole("option", { name: /B-20418/ }).click();
  await expect(page.locator(".clip-card.is-main")).toContainText("B-20418");
  const said = (await (await api(page.request).get(`/arrivals/${id}`)).json()) as { tied: { key: string }; proposedType: { type: string } };
  expect([said.tied.key, said.proposedType.type]).toEqual(["B-20418", "packingList"]);
});

test("an empty file and a program are refused with the reason, and stand in the register", async ({ page }) => {
  await signIn(page, "clerk", "/arrivals");
  const names = [`empty ${stamp()}.pdf`, `setup ${stamp()}.exe`];
  await page.getByTestId("choose-files").setInputFiles([
    { name: names[0] ?? "", mimeType: "application/pdf", buffer: Buffer.alloc(0) },
    { name: names[1] ?? "", mimeType: "application/octet-stream", buffer: Buffer.from("MZ a program") },
  ]);
  await expect(page.getByText("The file is empty. It is set aside in the register.")).toBeVisible();
  await expect(page.getByText("Programs are not accepted. It is set aside in the register.")).toBeVisible();
  await page.goto("/arrivals/register");
  for (const name of names) await expect(page.locator("tr", { hasText: name })).toContainText("set aside");
});

test("the order of Arrivals stands the next time, and a filter does not change how many wait", async ({ page }) => {
  await signIn(page, "salesDesk", "/arrivals");
  const chip = page.locator(".where .dropdown-toggle").first();
  await expect(chip).toContainText(/[1-9]\d* waiting/);
  const waiting = await chip.textContent();
  await page.getByPlaceholder("Filter by name or sender").fill("nothing is called so");
  await expect(page.getByText(/^0 of \d+ shown/)).toBeVisible();
  expect(await chip.textContent()).toBe(waiting);
  await page.getByRole("button", { name: "Clear filters" }).click();
  await page.getByRole("button", { name: /Sort and filter/ }).click();
  await page.getByRole("button", { name: "By name" }).click();
  await expect(page.getByRole("button", { name: "Sort and filter: By name" })).toBeVisible();
  await page.goto("/desk");
  await page.goto("/arrivals");
  await page.getByRole("button", { name: "Sort and filter: By name" }).click();
  // As the other journeys expect it.
  const saved = page.waitForResponse((r) => r.url().endsWith("/me/preferences"));
  await page.getByRole("button", { name: "Newest first" }).click();
  await saved;
  await expect(page.getByRole("button", { name: "Sort and filter: Newest first" })).toBeVisible();
});

test("the documents of a record are one Tab stop: arrows choose, Enter opens; Esc leaves flip-through", async ({ page }) => {
  await signIn(page, "clerk", "/records/freightBooking/B-20418?company=MF&scope=chain");
  const rows = page.locator(".doc-row[data-keys]");
  await expect(rows.nth(1)).toBeVisible();
  expect(await rows.evaluateAll((all) => all.filter((e) => (e as HTMLElement).tabIndex === 0).length)).toBe(1);
  await rows.first().focus();
  await page.keyboard.press("ArrowDown");
  await expect(page.locator(".doc-row[data-keys]:focus")).toHaveAttribute("aria-current", "true");
  await page.keyboard.press("Enter");
  await page.waitForURL(/\/documents\/AC-/);
  await page.goto("/records/freightBooking/B-20418/flip?company=MF&scope=chain");
  await expect(page.getByRole("button", { name: "Next page" })).toBeVisible();
  await page.keyboard.press("Escape");
  await page.waitForURL((url) => url.pathname === "/records/freightBooking/B-20418");
});

test.describe("on a device that prefers the dark set", () => {
  test.use({ colorScheme: "dark" });
  test("it is followed until a person chooses", async ({ page }) => {
    await signIn(page, "clerk", "/desk");
    const set = () => page.evaluate(() => document.documentElement.dataset["bsTheme"]);
    expect(await set()).toBe("dark");
    await page.getByRole("button", { name: /person menu/ }).click();
    await page.getByRole("button", { name: "Light", exact: true }).click();
    await page.reload();
    expect(await set()).toBe("light");
    await page.getByRole("button", { name: /person menu/ }).click();
    await page.getByRole("button", { name: "Follow the device" }).click();
    expect(await set()).toBe("dark");
  });
});
