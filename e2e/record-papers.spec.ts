import { execFile } from "node:child_process";
import { mkdtemp, readFile, writeFile } from "node:fs/promises";
import os from "node:os";
import path from "node:path";
import { promisify } from "node:util";
import type { Page } from "@playwright/test";
import { pdfFile } from "./support/papers.ts";
import { api, expect, people, credentials, signIn, test } from "./support/world.ts";

const run = promisify(execFile);
const item = (page: Page, name: string) => page.locator(".checklist .item", { hasText: name });
const panel = (page: Page) => page.locator(".item-panel");
let number = 0;
/** A document of this run that is filed to a record by a program. */
async function filed(page: Page, record: string, documentType: string, properties: Record<string, string> = {}): Promise<string> {
  const call = api(page.request);
  const taken = await call.upload(
    await pdfFile(`${documentType} ${Date.now().toString(36)}${++number}.pdf`, [`${documentType} ${record} ${number} ${Date.now()}`]),
  );
  const [type = "", key = ""] = record.split(":");
  const { id } = (await taken.json()) as { id: string };
  // Its pages are known by then: one that is not read yet is shown like any other file.
  await expect.poll(async () => (await (await call.get(`/arrivals/${id}`)).json()).state, { timeout: 60_000 }).toBe("ready");
  const done = await call.post(`/arrivals/${id}/file`, {
    documentType,
    clips: [{ company: "MF", type, key }],
    properties,
    onSameName: "separate",
  });
  expect(done.status()).toBe(200);
  return ((await done.json()) as { code: string }).code;
}

test("a crew member's medical certificate lapses next month: it stands on the desk, a new one is filed and accepted", async ({ page }) => {
  await signIn(page, "crewOffice", "/desk");
  await page.getByRole("link", { name: /expires within 60 days/ }).click();
  await expect(page).toHaveURL(/view=expiring/);
  const row = page.locator("tbody tr", { hasText: "Medical certificate" }).first();
  await expect(row).toContainText("until");
  const key = (await row.locator("a").first().textContent()) ?? "";
  await row.click();
  await expect(item(page, "Medical certificate")).toContainText("until");
  // The new document waits, since how long it holds has to be said.
  await item(page, "Medical certificate").click();
  await panel(page)
    .locator('input[type="file"]')
    .setInputFiles(await pdfFile(`medical ${key} new.pdf`, ["Medical certificate", key]));
  await page.getByRole("link", { name: "Enter until when it is valid there, then file it." }).click();
  await page.waitForURL(/\/arrivals\?at=/);
  await expect(page.locator(".clip-card.is-main")).toContainText(key);
  await page.getByLabel("Valid until").fill("31 Dec 2029");
  await page.getByLabel("Valid until").blur();
  await page.keyboard.press("f");
  await expect(page.getByText(/^Filed: /)).toBeVisible();
  await page.goto(`/records/crewMember/${key}?company=MF`);
  await item(page, "Medical certificate").click();
  await expect(panel(page)).toContainText("not accepted yet");
  await panel(page).getByRole("button", { name: "Accept" }).first().click();
  await expect(panel(page).getByText("accepted", { exact: true })).toHaveCount(2);
  await page.goto(`/records/missing?view=expiring&q=${key}`);
  await expect(page.getByText("Nothing expires in the next 60 days")).toBeVisible();
});

test("a booking whose signed loading list is missing: it is found, somebody is reminded, the document is put on the item, and it is done", async ({
  page,
  browser,
}) => {
  await signIn(page, "administrator", "/records/missing?type=freightBooking&item=loadingList");
  const row = page.locator("tbody tr").first();
  await expect(row).toContainText("Signed loading list");
  const key = (await row.locator("a").first().textContent()) ?? "";
  await row.getByRole("checkbox").check();
  await page.getByRole("button", { name: "Remind responsible" }).click();
  await expect(page.getByText(/1 person reminded about 1 record/)).toBeVisible();
  await expect(page.locator("tbody tr", { hasText: key })).toContainText("reminded");
  const other = await browser.newPage();
  await signIn(other, "salesDesk", "/desk");
  const reminder = other.locator(".type-row", { hasText: key });
  await expect(reminder).toContainText("Isla Rowe reminds you");
  await reminder.getByRole("button", { name: "Dismiss" }).click();
  await expect(reminder).toHaveCount(0);
  await other.close();
  await page.locator("tbody tr", { hasText: key }).click();
  await item(page, "Signed loading list").click();
  await expect(panel(page)).toContainText("The mate signs it");
  await panel(page)
    .locator('input[type="file"]')
    .setInputFiles(await pdfFile(`signed list ${key}.pdf`, [`Loading list for ${key}, signed`]));
  await expect(page.getByText("1 document filed for Signed loading list")).toBeVisible();
  await expect(item(page, "Signed loading list")).toHaveClass(/is-complete/);
  await page.goto(`/records/missing?type=freightBooking&item=loadingList&q=${key}`);
  await expect(page.getByText("Nothing is outstanding")).toBeVisible();
});

test("a claim is read in order by keys alone, an item is raised from what is on screen, and signed off", async ({ page }) => {
  await signIn(page, "administrator", "/records/damageClaim/DC-301?company=MF");
  await filed(page, "damageClaim:DC-301", "surveyReport");
  await page.reload();
  await page.getByRole("link", { name: "Page through" }).click();
  await page.getByLabel("Reading order").selectOption("Claim review");
  const status = page.getByRole("status").filter({ hasText: "Document" });
  await expect(status).toContainText("Document 1 of");
  await expect(page.getByRole("navigation", { name: "Contents" }).getByRole("button").first()).toContainText("Claim form");
  await page.keyboard.press("ArrowRight");
  await expect(status).toContainText("Document 2 of");
  await page.keyboard.press("j");
  await expect(status).toContainText("Document 3 of");
  await expect(page.getByRole("region", { name: /Survey report.*page 1/ })).toBeVisible();
  await page.keyboard.press("k");
  await page.keyboard.press("Home");
  await expect(status).toContainText("Document 1 of");
  // What is missing is raised without leaving the page.
  await page.getByRole("button", { name: "Add item" }).click();
  await page.getByLabel("Document required").fill("Carrier's answer");
  await page.getByLabel("Document type").selectOption("Letter");
  await page.locator("form.item-panel").getByRole("button", { name: "Add item" }).click();
  await expect(item(page, "Carrier's answer")).toHaveClass(/is-outstanding/);
  // The open document will do for it: it is tied and accepted; the survey is accepted too.
  await item(page, "Carrier's answer").click();
  await panel(page).getByRole("button", { name: "Link open document" }).click();
  await panel(page).getByRole("button", { name: "Accept" }).click();
  await expect(item(page, "Carrier's answer")).toHaveClass(/is-complete/);
  await item(page, "Survey report").click();
  await panel(page).getByRole("button", { name: "Accept" }).first().click();
  await expect(page.getByText("Checklist 4 of 4")).toBeVisible();
  await panel(page).getByRole("button", { name: "Close the item" }).click();
  await item(page, "Carrier's answer").click();
  await panel(page).getByRole("button", { name: "Remove from checklist" }).click();
  await expect(page.getByText("Checklist 3 of 3")).toBeVisible();
});

test("an auditor takes a sample of 25 supplier invoices out as a pack, and it is verified with nothing but itself", async ({ page }) => {
  await signIn(page, "auditor", "/records/supplierInvoice?company=MF");
  await page.getByRole("button", { name: "Pack all" }).click();
  const dialog = page.getByRole("dialog");
  await dialog.getByLabel("only a sample of").check();
  await dialog.getByLabel("Size of the sample").fill("25");
  await dialog.getByLabel("Random seed").fill("4711");
  await dialog.getByRole("button", { name: "Create pack of 25 records" }).click();
  const [download] = await Promise.all([
    page.waitForEvent("download"),
    dialog.getByRole("link", { name: "Download" }).first().click({ timeout: 60_000 }),
  ]);
  const folder = await mkdtemp(path.join(os.tmpdir(), "amber-pack-e2e-"));
  const file = path.join(folder, "pack.zip");
  await download.saveAs(file);
  const good = await run("bin/verify-pack", [file]);
  expect(good.stdout).toContain("every hash matches");
  const bytes = await readFile(file);
  // One letter of one document: documents are kept in the archive as they are.
  const at = bytes.indexOf("%PDF") + 200;
  bytes.writeUInt8(bytes.readUInt8(at) ^ 1, at);
  await writeFile(file, bytes);
  await expect(run("bin/verify-pack", [file])).rejects.toMatchObject({ code: 1 });
});

test("documents are moved between sections by dragging and by keys, taken back, and placed by the rules", async ({ page, context }) => {
  await signIn(page, "administrator", "/records/freightBooking/B-20410?company=MF");
  const code = await filed(page, "freightBooking:B-20410", "letter");
  await page.reload();
  const row = page.locator(".doc-row", { hasText: code });
  const group = (name: string) => page.locator(".paper-group", { has: page.locator(".group-head", { hasText: name }) });
  await expect(group("Letters and calls")).toContainText(code);
  await row.dragTo(page.locator(".group-head", { hasText: "Invoice and payment" }));
  await expect(group("Invoice and payment")).toContainText(code);
  await page.keyboard.press("z");
  await expect(group("Letters and calls")).toContainText(code);
  await row.click();
  await page.keyboard.press("x");
  await page.getByLabel("Move selected documents to a section").selectOption({ label: "No section" });
  await expect(group("No section")).toContainText(code);
  // The tree in a window of its own follows.
  const opened = context.waitForEvent("page");
  await page.getByRole("button", { name: "Sections", exact: true }).click();
  await page.getByText("Open sections in a window").click();
  const tree = await opened;
  await expect(tree.getByText("No section")).toBeVisible();
  await page.getByRole("button", { name: "Sort into sections" }).click();
  await expect(page.getByRole("dialog")).toContainText("Letters and calls");
  await page.getByRole("button", { name: /^Move \d+ document/ }).click();
  await expect(group("Letters and calls")).toContainText(code);
  await expect(tree.getByText("No section")).toHaveCount(0);
  await tree.close();
  // Sections of its own, and back.
  await page.getByRole("button", { name: "Sections", exact: true }).click();
  await page.getByText("Edit this record's sections").click();
  await page.getByLabel("Name of Letters and calls").fill("Talk");
  await page.getByRole("button", { name: "Save sections" }).click();
  await expect(group("Talk")).toContainText(code);
  await page.getByRole("button", { name: "Sections", exact: true }).click();
  await page.getByText("Edit this record's sections").click();
  await page.getByRole("button", { name: "Use the record type's sections" }).click();
  await expect(group("No section")).toContainText(code);
});

test("a checklist is changed after its effect was shown, and all records are looked at anew", async ({ page }) => {
  await signIn(page, "administrator", "/filing-plan/checklists?type=refit");
  await page.getByRole("button", { name: "Add an item" }).click();
  await page.getByLabel("Document required").fill("Yard's drawing");
  await page.getByLabel(/Document types for/).selectOption("Drawing");
  await expect(page.getByText(/refits would become incomplete/)).toBeVisible();
  await page.getByRole("button", { name: "Save checklist" }).click();
  await expect(page.getByText(/re-evaluated/)).toBeVisible({ timeout: 20_000 });
  await page.getByRole("link", { name: "Show missing documents" }).click();
  await expect(page.locator("tbody tr").first()).toContainText("Yard's drawing");
  await page.goto("/filing-plan/checklists?type=refit");
  await page.getByRole("button", { name: "Remove Yard's drawing" }).click();
  await page.getByRole("button", { name: "Save checklist" }).click();
  await expect(page.getByText(/re-evaluated/)).toBeVisible({ timeout: 20_000 });
  await page.goto("/filing-plan/sections?type=refit");
  await page.getByRole("button", { name: "Add a section" }).click();
  await page.getByLabel("Name of this section").fill("Yard");
  await page.getByLabel(/Document types for Yard/).selectOption("Drawing");
  await page.getByRole("button", { name: "Save sections" }).click();
  await expect(page.getByText("Sections of refits saved")).toBeVisible();
});

test("nobody is told of items, worklists or packs that their grants do not cover", async ({ page, request }) => {
  const light = api(request, "lightUser");
  const record = (await (await light.get("/records/freightBooking/B-20418?company=MF")).json()) as { checklist: { key: string }[] };
  expect(record.checklist.map((i) => i.key)).not.toContain("request");
  const missing = (await (await light.get("/checklists/missing?limit=200")).json()) as {
    items: { type: string; items: { key: string }[] }[];
  };
  for (const row of missing.items) {
    expect(["freightBooking", "loadingConfirmation", "vessel"]).toContain(row.type);
    expect(row.items.map((i) => i.key)).not.toContain("request");
  }
  expect((await light.get("/checklists/missing?type=crewMember")).ok()).toBe(true);
  expect(((await (await light.get("/checklists/missing?type=crewMember")).json()) as { items: unknown[] }).items).toEqual([]);
  expect((await light.get("/checklists/rules")).status()).toBe(403);
  expect((await light.get("/sections")).status()).toBe(403);
  expect((await light.post("/packs", { format: "folder", records: [{ company: "MF", type: "crewMember", key: "E-700" }] })).status()).toBe(
    404,
  );
  expect(credentials().people.some((p) => p.email === people.lightUser)).toBe(true);
  await signIn(page, "lightUser", "/records/missing");
  await expect(page.getByText("crew", { exact: false })).toHaveCount(0);
});
