import { makeWorld } from "#scenario/world.ts";
import { invoiceOf } from "./support/invoices.ts";
import { pdfFile } from "./support/papers.ts";
import { api, expect, readArrival, signIn, test } from "./support/world.ts";

/** A person has looked at a document after this, ms: longer than what the page takes for a slip. */
const LOOKS_MS = 400;
/** Names of this run are its own, so that a folder of data can be used again. */
const run = Date.now().toString(36);
const world = makeWorld();
/** Orders of suppliers, none of which other journeys or the waiting documents touch. */
const orders = world.of("MF", "purchaseOrder").slice(120, 175);
const invoice = (order: (typeof orders)[number], number: string, over: Parameters<typeof invoiceOf>[3] = {}) =>
  invoiceOf(world, order, number, over);

test("forty arrivals in a row are filed with one key each, to the records that the program found", async ({ page, request }) => {
  test.setTimeout(300_000);
  const call = api(request);
  const forty = orders.slice(0, 40);
  const ids: string[] = [];
  for (const [i, order] of forty.entries()) {
    const file = await pdfFile(`forty${run} ${String(i).padStart(2, "0")}.pdf`, invoice(order, `F-${run}-${i}`));
    ids.push((await (await call.upload(file, { queue: "payables" })).json()).id);
  }
  for (const id of ids) await readArrival(request, id);
  await signIn(page, "administrator", `/arrivals?q=forty${run}&sort=name`);
  await expect(page.locator("[data-arrival]", { hasText: "· certain" }).first()).toBeVisible();
  const place = page.getByText("Will be stored as");
  let goneAt = 0;
  for (const [i, order] of forty.entries()) {
    // The sheet is filled before anything is pressed.
    await expect(page.locator(".clip-card.is-main", { hasText: order.key })).toBeVisible();
    await expect(page.getByLabel("Number", { exact: true })).toHaveValue(`F-${run}-${i}`);
    await expect(place.locator("..")).toContainText(`F-${run}-${i}`);
    // A press too soon after the one before is taken for a slip, as no person looks at a document so fast; and a second one, where the first only takes its
    // time, would file the next document.
    await expect.poll(() => Date.now() - goneAt, { intervals: [50] }).toBeGreaterThan(LOOKS_MS);
    await page.keyboard.press("f");
    await expect(page.locator(".clip-card.is-main", { hasText: order.key })).toHaveCount(0);
    goneAt = Date.now();
  }
  await expect(page.getByText("No documents match the filter")).toBeVisible();
  await expect(page.getByText(/^Filing: /)).toHaveCount(0);
  for (const i of [0, 17, 39]) {
    const arrival = (await (await call.get(`/arrivals/${ids[i]}`)).json()) as { document: string };
    const document = await (await call.get(`/documents/${arrival.document}`)).json();
    expect(document).toMatchObject({
      documentType: "supplierInvoice",
      properties: { documentNumber: `F-${run}-${i}`, total: forty[i]?.fields["total"] },
    });
    expect(document.clips[0]).toMatchObject({ type: "purchaseOrder", key: forty[i]?.key });
  }
  // What was filed by mistake comes back with its suggestion.
  const last = (await (await call.get(`/arrivals/${ids[39]}`)).json()) as { document: string };
  await call.post(`/documents/${last.document}/unfile`);
  await page.goto(`/arrivals?q=forty${run}`);
  await expect(page.locator("[data-arrival]", { hasText: "· certain" })).toBeVisible();
});

test("a sender's own label is taught by pointing at the words, and read on the next document", async ({ page, request }) => {
  const call = api(request);
  const order = orders[41] ?? orders[0];
  if (!order) throw new Error("no order");
  const paper = async (n: number) =>
    (
      await (
        await call.upload(await pdfFile(`taught${run} ${n}.pdf`, invoice(order, "", { more: [`Vorgang ${run}-${n}`] })), {
          queue: "payables",
        })
      ).json()
    ).id as string;
  const first = await paper(1);
  await readArrival(request, first);
  await signIn(page, "administrator", `/arrivals?at=${first}&q=taught${run}`);
  const number = page.getByLabel("Number", { exact: true });
  await expect(page.locator(".clip-card.is-main", { hasText: order.key })).toBeVisible();
  await expect(number).toHaveValue("");
  await number.focus();
  await page.locator(".word", { hasText: `${run}-1` }).click();
  await expect(number).toHaveValue(`${run}-1`);
  // The field one was in keeps the keyboard.
  await expect(number).toBeFocused();
  await page.keyboard.press("Control+Enter");
  await expect(page.getByText(/^Filed:/)).toBeVisible();
  const second = await paper(2);
  const read = await readArrival(request, second);
  expect((read["readings"] as { field: string }[]).find((r) => r.field === "documentNumber")).toMatchObject({
    value: `${run}-2`,
    from: "learnt",
    label: "Vorgang",
  });
  await page.goto(`/arrivals?at=${second}&q=taught${run}`);
  await expect(number).toHaveValue(`${run}-2`);
  // The number beside the field stands on the page too.
  const mark = await number.locator("..").locator(".place-number").textContent();
  await expect(page.locator(`.page-mark[data-mark="${mark?.trim()}"]`)).toBeVisible();
});

test("what a mail or a table says is marked where it stands, searched, and pointed at for a field", async ({ page, request }) => {
  const call = api(request);
  const order = orders[44] ?? orders[0];
  if (!order) throw new Error("no order");
  const text = (name: string, mimeType: string, lines: readonly string[]) => ({ name, mimeType, buffer: Buffer.from(lines.join("\r\n")) });
  const mail = text(`asked${run}.eml`, "message/rfc822", [
    "From: Yard office <yard@quay-yard.example>",
    "To: payables@merrowick-ferries.example",
    "Subject: About the delivery",
    "",
    "Good morning,",
    `${order.key} was delivered on 18 November 2026 and is complete.`,
  ]);
  const table = text(`counts${run}.csv`, "text/csv", ["Packing list,", `Booking,B-20418`, `Your reference,HX-${run}`, "Langoustine,30"]);
  const ids: string[] = [];
  for (const file of [mail, table]) {
    const { id } = (await (await call.upload(file)).json()) as { id: string };
    await readArrival(request, id);
    ids.push(id);
  }
  await signIn(page, "administrator", `/arrivals?at=${ids[0]}&q=asked${run}`);
  const paper = page.getByRole("article").filter({ hasText: "was delivered on" });
  await page.getByRole("button", { name: new RegExp(`Purchase order ${order.key}`) }).click();
  const mark = paper.locator(".prose .text-mark", { hasText: order.key });
  await expect(mark).toBeVisible();
  // The same number stands beside the reason.
  const number = (await mark.locator(".place-number").first().textContent()) ?? "";
  await expect(page.locator(".clip-card.is-main .place-number", { hasText: number })).toBeVisible();
  const dated = page.getByLabel("Dated", { exact: true });
  await dated.focus();
  // Drawn over from the day to the year.
  const at = async (word: string): Promise<readonly [number, number]> =>
    paper.locator(".prose").evaluate((prose, wanted) => {
      const texts = document.createTreeWalker(prose, NodeFilter.SHOW_TEXT);
      for (let node = texts.nextNode(); node; node = texts.nextNode()) {
        const from = node.textContent?.indexOf(wanted) ?? -1;
        if (from === -1) continue;
        const range = document.createRange();
        range.setStart(node, from);
        range.setEnd(node, from + wanted.length);
        const box = range.getBoundingClientRect();
        return [box.x + box.width / 2, box.y + box.height / 2] as const;
      }
      throw new Error(`no ${wanted}`);
    }, word);
  await page.mouse.move(...(await at("18")));
  await page.mouse.down();
  await page.mouse.move(...(await at("2026")), { steps: 5 });
  await page.mouse.up();
  await expect(dated).toHaveValue("18 Nov 2026");
  await expect(dated).toBeFocused();
  await page.goto(`/arrivals?at=${ids[1]}&q=counts${run}`);
  const cells = page.getByRole("region", { name: "Table" });
  await expect(cells.locator("td.text-mark", { hasText: "B-20418" })).toBeVisible();
  await page.getByLabel("Document type").selectOption({ label: "Packing list" });
  const reference = page.getByLabel("Your reference", { exact: true });
  await reference.fill("");
  await cells.getByRole("cell", { name: "Langoustine" }).click();
  await expect(reference).toHaveValue("Langoustine");
  await cells.getByRole("cell", { name: `HX-${run}` }).click();
  await expect(reference).toHaveValue(`HX-${run}`);
  await page.getByRole("button", { name: "Search in document" }).click();
  await page.getByRole("textbox", { name: "Search in document" }).fill("langoust");
  await expect(page.getByText("1 of 1", { exact: true })).toBeVisible();
  await expect(cells.locator("td.hit.now")).toHaveText("Langoustine");
});

test("an invoice that asks for money to another bank account is a warning nobody can overlook", async ({ page, request }) => {
  const call = api(request);
  const order = orders[43] ?? orders[0];
  if (!order) throw new Error("no order");
  const file = await pdfFile(`bank${run}.pdf`, invoice(order, `X-${run}`, { iban: "GB47 MRWK 0000 0001 3928 14" }));
  const { id } = await (await call.upload(file, { queue: "payables" })).json();
  await readArrival(request, id);
  await signIn(page, "administrator", `/arrivals?at=${id}&q=bank${run}`);
  await expect(page.getByRole("alert").filter({ hasText: "GB47MRWK00000001392814" })).toBeVisible();
  await expect(page.locator("[data-arrival]", { hasText: "different bank account" })).toBeVisible();
  // It is left out when those are filed that the program is sure of.
  expect(await (await call.post("/arrivals/bulk", { ids: [id], action: "fileSure" })).json()).toMatchObject({ done: 0 });
});

test("another suggestion is taken by its number, and those that are sure are filed in one go", async ({ page, request }) => {
  const call = api(request);
  const [one, two] = [orders[45], orders[47]];
  if (!one || !two) throw new Error("no orders");
  // Two orders on one document: the program says what it hesitates between.
  const both = await pdfFile(`batch${run} both.pdf`, [
    "Delivery note",
    `Your order: ${one.key}`,
    `Your order: ${two.key}`,
    "Merrowick Ferries Ltd",
  ]);
  const sure = await pdfFile(`batch${run} sure.pdf`, invoice(one, `B-${run}`));
  const ids: string[] = [];
  for (const file of [both, sure]) ids.push((await (await call.upload(file, { queue: "payables" })).json()).id);
  for (const id of ids) await readArrival(request, id);
  await signIn(page, "administrator", `/arrivals?at=${ids[0]}&q=batch${run}&sort=name`);
  const others = page.getByRole("list", { name: /suggestions/i });
  await expect(others.getByText(two.key)).toBeVisible();
  const at = await others.locator("li", { hasText: two.key }).locator("kbd").textContent();
  await page.keyboard.press(at?.trim() ?? "2");
  await expect(page.locator(".clip-card.is-main", { hasText: two.key })).toBeVisible();
  await page
    .locator("[data-arrival]")
    .first()
    .click({ modifiers: ["Control"] });
  await page.getByRole("button", { name: "More actions for selected documents" }).click();
  await page.getByRole("button", { name: "Select certain ones" }).click();
  // With that button in it the bar is wider than the list; it breaks its line and pushes nothing aside.
  await expect(page.getByRole("button", { name: "File 1 certain" })).toBeVisible();
  expect(await page.locator(".chosen-bar").evaluate((bar) => bar.scrollWidth <= bar.clientWidth)).toBe(true);
  await page.getByRole("button", { name: "File 1 certain" }).click();
  await expect(page.getByText("1 document filed")).toBeVisible();
  await expect(page.locator("[data-arrival]")).toHaveCount(1);
});
