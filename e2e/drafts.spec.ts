import { readFile } from "node:fs/promises";
import path from "node:path";
import { makeWorld } from "#scenario/world.ts";
import { invoiceOf } from "./support/invoices.ts";
import { pdfFile } from "./support/papers.ts";
import { api, dataFolder, expect, readArrival, signIn, test } from "./support/world.ts";

const run = Date.now().toString(36);
const world = makeWorld();
/** Orders that nobody has invoiced, and no other journey touches. */
const orders = world
  .of("MF", "purchaseOrder")
  .slice(176)
  .filter((o) => o.status === "received" && !world.of("MF", "supplierInvoice").some((i) => i.fields["orderNumber"] === o.key));

const business = async () => {
  const { business: url, businessKey } = JSON.parse(await readFile(path.join(dataFolder(), "ways-in.json"), "utf8")) as {
    business: string;
    businessKey: string;
  };
  return {
    url,
    faults: (faults: Readonly<Record<string, boolean | number>>) =>
      fetch(`${url}/api/faults`, { method: "PUT", headers: { authorization: `Bearer ${businessKey}` }, body: JSON.stringify(faults) }),
  };
};
test.afterEach(async () => {
  await (await business()).faults({});
});

async function invoiceArrives(
  request: Parameters<typeof api>[0],
  at: number,
  number: string,
): Promise<{ id: string; order: (typeof orders)[number] }> {
  const order = orders[at];
  if (!order) throw new Error("no order without an invoice");
  const file = await pdfFile(`draft${run} ${number}.pdf`, invoiceOf(world, order, number));
  const { id } = (await (await api(request).upload(file, { queue: "payables" })).json()) as { id: string };
  await readArrival(request, id);
  return { id, order };
}

test("from an invoice to its posted ledger entry through the business system, which is down in between", async ({ page, request }) => {
  test.setTimeout(150_000);
  const number = `D-${run}-1`;
  const { id, order } = await invoiceArrives(request, 0, number);
  const there = await business();
  await there.faults({ down: true });
  await signIn(page, "administrator", `/arrivals?at=${id}&q=draft${run}`);
  await expect(page.locator(".clip-card.is-main", { hasText: order.key })).toBeVisible();
  await page.keyboard.press("n");
  await expect(page.getByRole("heading", { name: "New record" })).toBeVisible();
  // Filled from the document, each with where it stands; the order's number from the order.
  await expect(page.getByLabel("Number *")).toHaveValue(number);
  await expect(page.getByLabel("Total *")).toHaveValue(order.fields["total"] ?? "");
  await expect(page.getByText(`from ${order.key}`).first()).toBeVisible();
  const mark = await page.getByLabel("Number *").locator("..").locator(".place-number").textContent();
  await expect(page.locator(`.page-mark[data-mark="${mark?.trim()}"]`)).toBeVisible();
  // What is needed is said before anything is sent.
  await page.getByLabel("Total *").fill("");
  await page.getByRole("button", { name: /Create and send/ }).click();
  await expect(page.getByText("Total is required.")).toBeVisible();
  await page.getByLabel("Total *").fill(order.fields["total"] ?? "");
  await page.getByRole("button", { name: /Create and send/ }).click();
  // Undone at once: the business system never hears of it, and the document waits again.
  await expect(page.getByRole("link", { name: "It is being sent to the business system." })).toBeVisible();
  await page.keyboard.press("z");
  await expect.poll(async () => (await (await api(request).get(`/arrivals/${id}`)).json()).state, { timeout: 30_000 }).toBe("ready");
  await expect(page.locator(".clip-card.is-main", { hasText: order.key })).toBeVisible();
  await page.keyboard.press("n");
  await page.getByRole("button", { name: /Create and send/ }).click();
  const made = page.getByRole("link", { name: "It is being sent to the business system." });
  await made.click();
  // The document is there at once; the record waits for the business system.
  await expect(page.getByText("Waiting for the business system")).toBeVisible({ timeout: 30_000 });
  await expect(page.getByText("The business system cannot be reached.")).toBeVisible();
  await expect(page.getByText(`Supplier invoice ${number}`).first()).toBeVisible();
  await there.faults({});
  await page.getByRole("button", { name: "Retry now" }).click();
  await page.waitForURL(/\/records\/supplierInvoice\/SI-\d+/);
  const key = decodeURIComponent(/supplierInvoice\/(SI-\d+)/.exec(page.url())?.[1] ?? "");
  await expect(page.getByText("entered", { exact: true })).toBeVisible();
  // Its folder follows its number.
  await expect
    .poll(async () => (await (await api(request).get(`/records/supplierInvoice/${key}?company=MF`)).json()).outOfStep, { timeout: 30_000 })
    .toBeNull();
  // Somebody posts and pays it there.
  const theirs = `${there.url}/records/supplierInvoice/${key}?company=MF`;
  await page.goto(theirs);
  await page.getByRole("button", { name: "Post" }).click();
  await page.getByRole("button", { name: "Pay" }).click();
  await expect(page.getByText("Status: paid")).toBeVisible();
  const chain = async () =>
    ((await (await api(request).get(`/records/supplierInvoice/${key}?company=MF`)).json()) as { chain: { type: string; key: string }[] })
      .chain;
  await expect
    .poll(async () => (await chain()).map((c) => c.type), { timeout: 30_000 })
    .toEqual(expect.arrayContaining(["ledgerEntry", "payment"]));
  // The same document stands along the chain.
  const entry = (await chain()).find((c) => c.type === "ledgerEntry");
  await page.goto(`/records/ledgerEntry/${entry?.key ?? ""}?company=MF&scope=chain`);
  await expect(page.getByText(`Supplier invoice ${number}`).first()).toBeVisible();
});

test("a refused record says why by its field, is put right and sent again", async ({ page, request }) => {
  const number = `D-${run}-2`;
  const first = await invoiceArrives(request, 1, number);
  const again = await invoiceArrives(request, 1, `D ${run} 2`);
  await signIn(page, "administrator", `/arrivals?at=${first.id}&q=draft${run}`);
  await expect(page.locator(".clip-card.is-main", { hasText: first.order.key })).toBeVisible();
  await page.keyboard.press("n");
  await page.getByRole("button", { name: /Create and send/ }).click();
  await page.getByRole("link", { name: "It is being sent to the business system." }).click();
  await page.waitForURL(/\/records\/supplierInvoice\/SI-\d+/);
  await page.goto(`/arrivals?at=${again.id}&q=draft${run}`);
  await expect(page.locator(".clip-card.is-main", { hasText: again.order.key })).toBeVisible();
  await page.keyboard.press("n");
  await page.getByLabel("Number *").fill(`D ${run} 2`);
  await page.getByRole("button", { name: /Create and send/ }).click();
  await page.getByRole("link", { name: "It is being sent to the business system." }).click();
  await expect(page.getByText("Refused by the business system")).toBeVisible({ timeout: 30_000 });
  await expect(page.getByText(/Number is entered already, as SI-\d+/)).toBeVisible();
  // It is on the desk until somebody has looked at it.
  await page.goto("/desk");
  await page
    .getByRole("link", { name: /refused by the business system/ })
    .first()
    .click();
  await page.getByRole("button", { name: "Correct" }).click();
  const dialog = page.getByRole("dialog");
  await expect(dialog.getByText(/Number is entered already/)).toBeVisible();
  await dialog.getByLabel("Number *").fill(`${number}b`);
  await dialog.getByRole("button", { name: "Send again" }).click();
  await page.waitForURL(/\/records\/supplierInvoice\/SI-\d+/);
});
