import { mkdir, readdir, readFile, writeFile } from "node:fs/promises";
import path from "node:path";
import nodemailer from "nodemailer";
import { pdfFile } from "./support/papers.ts";
import { dataFolder, expect, signIn, test } from "./support/world.ts";

const mailIn = async () =>
  (JSON.parse(await readFile(path.join(dataFolder(), "ways-in.json"), "utf8")) as { mail: { host: string; port: number; domain: string } })
    .mail;

test("a mail that is sent stands in Arrivals with its parts a moment later, tied to the record its address names", async ({ page }) => {
  const { host, port, domain } = await mailIn();
  const mailer = nodemailer.createTransport({ host, port, ignoreTLS: true });
  const number = `88-${Date.now() % 100_000}`;
  const paper = await pdfFile(`Invoice ${number}.pdf`, [`Invoice ${number}`, "Tarrin Marine Fuels", "Your order PO-6127"]);
  await signIn(page, "clerk");
  const sent = await mailer.sendMail({
    from: "Tarrin Marine Fuels <accounts@tarrin-marine-fuels.example>",
    to: `payables+PO-6127@${domain}`,
    subject: `Invoice ${number} for you`,
    text: "Please find our invoice.",
    attachments: [{ filename: paper.name, content: paper.buffer, contentType: paper.mimeType }],
  });
  expect(sent.response).toMatch(/^250/);
  const list = page.getByRole("region", { name: "Waiting" }).or(page.locator(".list, .column").first());
  await expect(page.getByRole("button", { name: `Invoice ${number} for you` })).toBeVisible({ timeout: 20_000 });
  await page.getByRole("button", { name: `Invoice ${number}`, exact: true }).click();
  await expect(page.getByAltText("Page 1")).toBeVisible();
  await expect(page.locator(".clip-card").first()).toContainText("PO-6127");
  await expect(list.first()).toContainText("Tarrin Marine Fuels");
});

test("who may send to a queue is set in the browser and holds from the next message on", async ({ page }) => {
  const { host, port, domain } = await mailIn();
  const send = (from: string) =>
    nodemailer
      .createTransport({ host, port, ignoreTLS: true })
      .sendMail({ from, to: `crew-office@${domain}`, subject: "Leave", text: "x" });
  await signIn(page, "administrator", "/set-up");
  await expect(page.getByText(`crew-office@${domain}`)).toBeVisible();
  const senders = page.getByLabel("Who may send to Crew office");
  await senders.fill("nonsense");
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await expect(
    page
      .getByRole("status")
      .getByText(/not right|address/i)
      .first(),
  ).toBeVisible();
  await senders.fill("@merrowick.example");
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await expect(page.getByText("Mail settings of Crew office saved")).toBeVisible();
  await expect(send("jo@elsewhere.example")).rejects.toThrow(/550/);
  expect((await send("jo@merrowick.example")).response).toMatch(/^250/);
  await senders.fill("");
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await expect.poll(async () => (await send("jo@elsewhere.example").catch(() => null))?.response ?? "").toMatch(/^250/);
});

test("a file that somebody puts into a watched folder waits in Arrivals, tied by its sub-folder, and the original goes where it is set to go", async ({
  page,
}) => {
  const folder = path.join(dataFolder(), "watched", "payables");
  await signIn(page, "administrator", "/set-up");
  const choice = page.getByLabel("After import from the folder of Payables");
  await choice.selectOption("remove");
  await expect(page.getByText("The folder of Payables is watched")).toBeVisible();
  const name = `Slip ${Date.now() % 100_000}`;
  await mkdir(path.join(folder, "PO-6127", "Delivery notes"), { recursive: true });
  const paper = await pdfFile(`${name}.pdf`, ["Delivery note for PO-6127"]);
  await writeFile(path.join(folder, "PO-6127", "Delivery notes", paper.name), paper.buffer);
  await page.goto("/arrivals");
  await page.getByRole("button", { name, exact: true }).click({ timeout: 30_000 });
  await expect(page.getByAltText("Page 1")).toBeVisible();
  await expect(page.locator(".clip-card").first()).toContainText("PO-6127");
  await expect(page.getByLabel("Document type")).toHaveValue("deliveryNote");
  await expect.poll(() => readdir(path.join(folder, "PO-6127", "Delivery notes"))).toEqual([]);
  await page.goto("/set-up");
  await choice.selectOption("");
  await expect(page.getByText("The folder of Payables is not watched")).toBeVisible();
});

test("a queue asks what is kept of a message; who sent junk is marked from then on, never kept out, and forgotten again", async ({
  page,
}) => {
  const { host, port, domain } = await mailIn();
  const mailer = nodemailer.createTransport({ host, port, ignoreTLS: true });
  const to = `crew-office@${domain}`;
  const turn = Date.now() % 100_000;
  await signIn(page, "administrator", "/set-up");
  const keeps = page.getByLabel("Parts kept from mail to Crew office");
  await keeps.selectOption("ask");
  await expect(page.getByText("Mail settings of Crew office saved")).toBeVisible();
  const paper = await pdfFile(`Roster ${turn}.pdf`, [`Roster ${turn}`, "MV Halven"]);
  const attachments = [{ filename: paper.name, content: paper.buffer, contentType: paper.mimeType }];
  await mailer.sendMail({ from: "crew@agency.example", to, subject: `Rosters ${turn}`, text: "See the roster.", attachments });

  await page.goto("/arrivals");
  const message = page.getByRole("button", { name: `Rosters ${turn}`, exact: true });
  await message.click({ timeout: 30_000 });
  const asked = page.getByRole("region", { name: "Parts to keep" });
  await asked.getByRole("button", { name: "Attachments only" }).click();
  await expect(page.getByText("Kept: attachments only")).toBeVisible();
  await expect(message).toBeHidden();
  await expect(page.getByRole("button", { name: `Roster ${turn}`, exact: true })).toBeVisible();
  await page.goto("/set-up");
  await keeps.selectOption("messageAndParts");
  await expect(page.getByText("Mail settings of Crew office saved")).toBeVisible();

  const from = `win${turn}@offers.example`;
  const offer = async (what: string) => {
    await mailer.sendMail({ from, to, subject: `${what} ${turn}`, text: "You have won." });
    await page.goto("/arrivals");
    const row = page.getByRole("button", { name: `${what} ${turn}`, exact: true });
    await expect(row).toBeVisible({ timeout: 30_000 });
    return row;
  };
  await (await offer("First offer")).click();
  await page.keyboard.press("s");
  const dialog = page.getByRole("dialog", { name: /aside/ });
  await dialog.getByLabel(/Junk: mark/).check();
  await dialog.getByRole("button", { name: "Set aside" }).click();
  await expect(page.getByRole("button", { name: `First offer ${turn}`, exact: true })).toBeHidden();
  // The row goes at once; the sender is known for junk when the server has answered.
  await expect(page.getByText("1 document set aside")).toBeVisible();
  const second = await offer("Second offer");
  await expect(page.locator("li, tr, div").filter({ has: second }).last().getByText("possible junk")).toBeVisible();
  await page.goto("/set-up");
  const known = page.getByRole("listitem").filter({ hasText: from });
  await known.getByRole("button", { name: "Remove" }).click();
  await expect(page.getByText(`${from} is no longer marked`)).toBeVisible();
  await expect(known).toBeHidden();
});
