import { readFile } from "node:fs/promises";
import path from "node:path";
import { makeWorld } from "#scenario/world.ts";
import { makePdf, pdfFile } from "./support/papers.ts";
import { photoOf } from "./support/photo.ts";
import { api, dataFolder, expect, readArrival, signIn, test } from "./support/world.ts";

/** Names of this run are its own, so that a folder of data can be used again. */
const run = Date.now().toString(36);
const scannerAddress = async (): Promise<string> =>
  (JSON.parse(await readFile(path.join(dataFolder(), "ways-in.json"), "utf8")) as { scanner: string }).scanner;
/** Lines enough for a page to count as having words of its own. */
const lines = (title: string, number: string): string[] => [title, number, "Tarrin Marine Fuels", "Merrowick Ferries Ltd, Harbour House"];

test("a bundle becomes filed documents on the bench in half a minute, with the keyboard, and can be undone all the way", async ({
  page,
  request,
}) => {
  const number = `46-${Date.now() % 100_000}`;
  const bundle = await pdfFile(
    `Bundle ${number}.pdf`,
    lines("Invoice", `${number}1`),
    lines("Delivery note", `DN ${number}2`),
    lines("Invoice", `${number}3`),
    lines("Quotation", `Q ${number}4`),
  );
  const made = (await (await api(request, "clerk").upload(bundle, { queue: "payables" })).json()) as { id: string };
  await readArrival(request, made.id);
  await signIn(page, "clerk", `/arrivals?at=${made.id}`);
  await expect(page.getByAltText("Page 1")).toBeVisible();
  const began = Date.now();
  await page.keyboard.press("b");
  await expect(page.getByRole("button", { name: "page 4", exact: true })).toBeVisible();
  await expect(page.getByRole("group", { name: /^Document/ })).toHaveCount(1);
  await page.keyboard.press("a");
  await expect(page.getByRole("group", { name: /^Document/ })).toHaveCount(4);
  // Undone and done again.
  await page.keyboard.press("z");
  await expect(page.getByRole("group", { name: /^Document/ })).toHaveCount(1);
  await page.keyboard.press("y");
  await expect(page.getByRole("group", { name: /^Document/ })).toHaveCount(4);
  // The second goes behind the first; the last page is left out, and lies in sight.
  await page.keyboard.press("ArrowDown");
  await page.keyboard.press("m");
  await expect(page.getByRole("group", { name: "Document 1" })).toContainText("2 pages");
  await page.getByRole("button", { name: "page 4", exact: true }).click();
  await page.keyboard.press("t");
  await expect(page.getByRole("button", { name: "page 4, turned by 90°" })).toBeVisible();
  await page.keyboard.press("d");
  await expect(page.getByRole("group", { name: "Left out" })).toContainText("1 page");
  await page.getByRole("button", { name: "page 1", exact: true }).click();
  await page.keyboard.press("/");
  await page.keyboard.type("PO-6127");
  await page.keyboard.press("Enter");
  await expect(page.getByRole("group", { name: "Document 1" })).toContainText("PO-6127");
  await page.getByLabel("Number of document 1").fill(`${number}1`);
  await page.keyboard.press("Escape");
  await page.keyboard.press("f");
  await expect(page.getByText("1 document filed")).toBeVisible();
  expect(Date.now() - began).toBeLessThan(30_000);
  await expect(page.getByText("1 more in Arrivals.", { exact: false })).toBeVisible();
  const after = (await (await api(request).get(`/arrivals/${made.id}`)).json()) as { state: string; endReason: string; children: string[] };
  expect(after).toMatchObject({ state: "split", endReason: "2 documents, without page 4" });
  const first = (await (await api(request).get(`/arrivals/${after.children[0]}`)).json()) as { document: string; pages: number };
  expect(first.pages).toBe(2);
  const text = await (await api(request).get(`/documents/${first.document}/text`)).text();
  expect(text).toContain(`DN ${number}2`);
  expect(text).not.toContain(`${number}3`);
  await page.goto("/records/purchaseOrder/PO-6127?company=MF");
  await expect(page.getByRole("button", { name: new RegExp(`${number}1`) })).toBeVisible();
});

test("what was made without filing is put back with one press; pages are dragged with the pointer", async ({ page, request }) => {
  const bundle = await pdfFile(`Drag ${Date.now()}.pdf`, lines("Letter", "one"), lines("Letter", "two"), lines("Letter", "three"));
  const made = (await (await api(request, "clerk").upload(bundle, { queue: "payables" })).json()) as { id: string };
  await readArrival(request, made.id);
  await signIn(page, "clerk", `/bench?arrivals=${made.id}`);
  const third = page.getByRole("button", { name: "page 3", exact: true });
  await expect(third).toBeVisible();
  await page.getByRole("button", { name: "page 2", exact: true }).click();
  await page.keyboard.press("c");
  await expect(page.getByRole("group", { name: "Document 2" })).toContainText("2 pages");
  await third.dragTo(page.getByRole("button", { name: "page 1", exact: true }), { targetPosition: { x: 10, y: 60 } });
  await expect(page.getByRole("group", { name: "Document 1" })).toContainText("2 pages");
  await page.keyboard.press("f");
  await expect(page.getByText("2 documents created")).toBeVisible();
  const children = ((await (await api(request).get(`/arrivals/${made.id}`)).json()) as { children: string[] }).children;
  const text = await (await api(request).get(`/arrivals/${children[0]}/text`)).text();
  expect(text.indexOf("three")).toBeLessThan(text.indexOf("one"));
  await page.getByRole("status").getByRole("button", { name: /Undo/ }).click();
  await expect.poll(async () => ((await (await api(request).get(`/arrivals/${made.id}`)).json()) as { state: string }).state).toBe("ready");
});

test("a stack from the scanner with a cover sheet files itself: the sheet is printed from the record, blank backs are left out", async ({
  page,
  request,
}) => {
  const scanner = await scannerAddress();
  await signIn(page, "administrator", "/records/freightBooking/B-20303?company=MF");
  await page.getByRole("button", { name: "Cover sheet" }).click();
  await page.getByLabel("Document type").selectOption("packingList");
  const download = page.waitForEvent("download");
  await page.getByRole("button", { name: "Print", exact: true }).click();
  const cover = await readFile(await (await download).path());
  const name = `e2e ${Date.now()}`;
  const paper = await makePdf(lines("Packing list", `for the quay ${name}`));
  for (const [file, bytes] of [
    [`${name} cover`, cover],
    [`${name} list`, paper],
  ] as const)
    expect((await request.post(`${scanner}/pile?name=${encodeURIComponent(file)}`, { data: bytes })).ok()).toBe(true);
  const scanned = await request.post(`${scanner}/scan`, {
    data: { sheets: [`${name} cover.pdf#1`, `${name} list.pdf#1`], bothSides: true, to: "folder", queue: "quay-office" },
  });
  const { fileName, pages } = (await scanned.json()) as { fileName: string; pages: number };
  expect(pages).toBe(4);
  await expect
    .poll(
      async () => {
        const found = (await (await api(request).get(`/register?q=${encodeURIComponent(fileName)}`)).json()) as {
          items: { state: string; endReason: string }[];
        };
        return found.items.map((i) => `${i.state} ${i.endReason ?? ""}`).join("|");
      },
      { timeout: 60_000 },
    )
    .toContain("split 1 document, without pages 1–2, 4");
  await page.goto("/arrivals/register?queue=quay-office");
  const line = page.getByRole("row").filter({ hasText: `${fileName.replace(".pdf", "")}, page 3` });
  await expect(line).toContainText("Packing list B-20303", { timeout: 30_000 });
});

test("the scanner's control page: sheets are chosen from the pile and sent over HTTP", async ({ page, request }) => {
  await page.goto(await scannerAddress());
  await page.locator(".sheet").first().click();
  await page.locator("#queue").selectOption("sales-desk");
  await page.locator("#format").selectOption("tiff");
  await page.getByRole("button", { name: "Scan" }).click();
  const line = page.locator("#sent li").first();
  await expect(line).toContainText("1 pages sent", { timeout: 20_000 });
  const fileName = (await line.textContent())?.split(",")[0] ?? "";
  await expect
    .poll(
      async () => ((await (await api(request).get(`/arrivals?q=${fileName}`)).json()) as { items: { source: string }[] }).items[0]?.source,
    )
    .toBe("scanner");
});

test("a document that somebody else claims just before it is filed comes back with its sheet as it was; the next one had opened meanwhile", async ({
  page,
  request,
}) => {
  const call = api(request);
  const orders = makeWorld().of("MF", "purchaseOrder").slice(176, 178);
  const ids: string[] = [];
  for (const [i, order] of orders.entries()) {
    const file = await pdfFile(`claimed${run} ${i}.pdf`, ["A word about", order.key, `C-${run}-${i}`]);
    ids.push((await (await call.upload(file, { queue: "payables", record: `purchaseOrder:${order.key}` })).json()).id);
  }
  for (const id of ids) await readArrival(request, id);
  await signIn(page, "administrator", `/arrivals?q=claimed${run}&sort=name`);
  const card = page.locator(".clip-card.is-main");
  await expect(card).toContainText(orders[0]?.key ?? "");
  await expect(page.getByText("not shown on other records")).toBeVisible();
  await page.getByLabel("Title").fill(`My own ${run}`);
  await page.getByLabel("Title").blur();
  // From now on the page has no chance to hear of it before it files.
  await page.route("**/claim", (route) => route.abort());
  await api(request, "clerk").post(`/arrivals/${ids[0]}/claim`, { takeOver: true });
  await page.keyboard.press("f");
  // Nothing on its page says what it is.
  await page.getByRole("button", { name: /^File as/ }).click();
  await expect(card).toContainText(orders[1]?.key ?? "");
  const notice = page.getByRole("status").filter({ hasText: `Not filed: claimed${run} 0.pdf` });
  await expect(notice).toContainText("Somebody else is working on this");
  await expect(card).toContainText(orders[1]?.key ?? "");
  await page.unroute("**/claim");
  await page.getByRole("button", { name: "Open it" }).click();
  await expect(card).toContainText(orders[0]?.key ?? "");
  await expect(page.getByLabel("Title")).toHaveValue(`My own ${run}`);
  await page.getByRole("button", { name: "Take over" }).click();
  await expect(page.getByRole("button", { name: "Take over" })).toHaveCount(0);
  await page.keyboard.press("f");
  await expect(page.getByText(`Filed: My own ${run}`)).toBeVisible();
});

test("two who open the same document: the second is told who works on it, cannot file it, and may take it over", async ({
  page,
  browser,
  request,
}) => {
  const made = (await (
    await api(request, "clerk").upload(await pdfFile(`Shared ${Date.now()}.pdf`, lines("Letter", "shared")), { queue: "payables" })
  ).json()) as {
    id: string;
  };
  await readArrival(request, made.id);
  await signIn(page, "clerk", `/arrivals?at=${made.id}`);
  await expect
    .poll(async () => ((await (await api(request).get(`/arrivals/${made.id}`)).json()) as { claim: { name: string } | null }).claim?.name)
    .toBe("Tam Corrigall");
  const other = await (await browser.newContext()).newPage();
  await signIn(other, "administrator", `/arrivals?at=${made.id}`);
  await expect(other.getByText("Tam Corrigall is working on this document.")).toBeVisible();
  const refused = await api(request).post(`/arrivals/${made.id}/file`, {
    documentType: "letter",
    clips: [{ company: "MF", type: "purchaseOrder", key: "PO-6127" }],
  });
  expect(refused.status()).toBe(409);
  await other.getByRole("button", { name: "Take over" }).click();
  await expect(other.getByText("Tam Corrigall is working on this document.")).toHaveCount(0);
  // Handed back with a word.
  await other.keyboard.press("h");
  await other.getByLabel("To", { exact: true }).selectOption({ label: "Tam Corrigall" });
  await other.getByLabel("Message").fill("yours after all");
  await other.getByRole("button", { name: "Assign" }).click();
  await expect(other.getByText("1 document assigned to Tam Corrigall")).toBeVisible();
  await other.close();
  await page.reload();
  await expect(page.getByText("assigned it to you: yours after all")).toBeVisible();
});

test("a document saved anew is told of before it is filed twice, compared side by side, and filed as the next version", async ({
  page,
  request,
}) => {
  const number = `C-${Date.now() % 1_000_000}`;
  const many = Array.from({ length: 12 }, (_, i) => `line ${i} of what was agreed about berth ${i} on ${number}`);
  const first = (await (await api(request).upload(await pdfFile(`Agreed ${number}.pdf`, [...many, "signed by nobody yet"]))).json()) as {
    id: string;
  };
  await readArrival(request, first.id);
  const filed = await api(request).post(`/arrivals/${first.id}/file`, {
    documentType: "letter",
    title: `Agreed ${number}`,
    clips: [{ company: "MF", type: "purchaseOrder", key: "PO-6127" }],
  });
  const { code } = (await filed.json()) as { code: string };
  const second = (await (await api(request).upload(await pdfFile(`Agreed ${number} signed.pdf`, [...many, "signed by Rona"]))).json()) as {
    id: string;
  };
  await readArrival(request, second.id);
  await signIn(page, "administrator", `/arrivals?at=${second.id}`);
  await expect(page.getByText(/Nearly the same document is already filed/)).toBeVisible();
  await page.getByRole("button", { name: "Compare" }).click();
  const dialog = page.getByRole("dialog");
  await expect(dialog.getByText("Only here:").first()).toBeVisible();
  await expect(dialog.getByText(/rona/)).toBeVisible();
  await dialog.getByRole("button", { name: "File as the next version" }).click();
  await expect(page.getByText(`Filed: Agreed ${number}`)).toBeVisible();
  const document = (await (await api(request).get(`/documents/${code}`)).json()) as { versions: unknown[] };
  expect(document.versions).toHaveLength(2);
});

test.describe("on a phone", () => {
  test.use({ viewport: { width: 390, height: 844 } });
  test("two photographs become one document: the page is found, straightened and readable, and its words are found", async ({
    page,
    request,
  }) => {
    await signIn(page, "clerk", "/capture");
    const name = `Quay photo ${Date.now()}`;
    await page.getByTestId("camera").setInputFiles([
      {
        name: "1.jpg",
        mimeType: "image/jpeg",
        buffer: await photoOf("Damage report", "Crate 17 was wet", "Langoustine for Skarra", "Seen on the quay by Odran"),
      },
      {
        name: "2.jpg",
        mimeType: "image/jpeg",
        buffer: await photoOf("Overleaf", "Signed by the master", "Nothing more to say here", "Port Halven"),
      },
    ]);
    await expect(page.getByText("Page found.", { exact: false })).toBeVisible({ timeout: 30_000 });
    await expect(page.getByRole("button", { name: "Send 2 pages" })).toBeEnabled({ timeout: 30_000 });
    expect(await page.evaluate(() => document.documentElement.scrollWidth <= window.innerWidth)).toBe(true);
    // A corner is moved with the keyboard, and the page is made again.
    await page.getByRole("button", { name: "Top left corner" }).focus();
    await page.keyboard.press("ArrowRight");
    await page.getByLabel("Name").fill(name);
    await expect(page.getByRole("button", { name: "Send 2 pages" })).toBeEnabled({ timeout: 30_000 });
    await page.getByRole("button", { name: "Send 2 pages" }).click();
    await expect(page.getByText("2 pages sent")).toBeVisible();
    const found = (await (await api(request).get(`/arrivals?q=${encodeURIComponent(name)}`)).json()) as {
      items: { id: string; source: string }[];
    };
    expect(found.items[0]?.source).toBe("phone");
    const read = await readArrival(request, found.items[0]?.id ?? "");
    expect(read["pages"]).toBe(2);
    const text = await (await api(request).get(`/arrivals/${found.items[0]?.id}/text`)).text();
    expect(text).toContain("Langoustine");
    expect(text).toContain("Signed by the master");
  });
  test("a file that is no picture says so, and nothing else is lost", async ({ page }) => {
    await signIn(page, "clerk", "/capture");
    await page.getByTestId("camera").setInputFiles([
      { name: "1.jpg", mimeType: "image/jpeg", buffer: await photoOf("One", "page", "of", "many") },
      { name: "broken.jpg", mimeType: "image/jpeg", buffer: Buffer.from("not a picture") },
    ]);
    await expect(page.getByText(/broken.jpg could not be opened/)).toBeVisible({ timeout: 20_000 });
    await expect(page.getByRole("button", { name: "Send 1 page" })).toBeEnabled({ timeout: 30_000 });
  });
});
