import { readdir } from "node:fs/promises";
import net from "node:net";
import path from "node:path";
import nodemailer from "nodemailer";
import { sql } from "drizzle-orm";
import { parseArrivalId } from "#core/shared/brand.ts";
import { actorByMail } from "#scenario/set-up/fill-set-up.ts";
import { listArrivals, loadArrival } from "../arrivals/list-arrivals.ts";
import { readArrival } from "../arrivals/read-arrival.ts";
import { restore } from "../arrivals/change-state.ts";
import { db } from "../db/connect.ts";
import { fileText, makeSetUpDatabase, must, putRecord } from "../db/test-world.ts";
import type { Actor } from "../people/load-actor.ts";
import { loadLimits, saveLimits } from "../settings/load-settings.ts";
import { listenForMail, type MailListener } from "./listen-for-mail.ts";
import { listQueueMail, saveQueueMail } from "./queue-ways.ts";

let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
let admin: Actor;
let light: Actor;
let listener: MailListener;
const domain = "papers.merrowick.example";
beforeAll(async () => {
  world = await makeSetUpDatabase();
  admin = await actorByMail("isla.rowe@merrowick.example");
  light = await actorByMail("pell.ashby@merrowick.example");
  await putRecord(admin, "MF", "purchaseOrder", "PO-6127", { title: "Bunkering" });
  await putRecord(admin, "MF", "vessel", "V-1", { title: "MV 1", fields: { name: "MV 1" } });
  listener = await listenForMail({ port: 0, host: "127.0.0.1", domain });
});
afterAll(async () => {
  await listener.close();
  await world.end();
});

type Wish = Parameters<ReturnType<typeof transport>["sendMail"]>[0];
const transport = () => nodemailer.createTransport({ host: "127.0.0.1", port: listener.port, secure: false, ignoreTLS: true });
const send = (wish: Wish) => transport().sendMail({ from: "accounts@tarrin.example", ...wish });
const to = (queue: string, code = "") => `${queue}${code === "" ? "" : `+${code}`}@${domain}`;
/** What came in by mail and was read, the newest first; parts too. */
async function read() {
  for (;;) {
    const { rows } = await db().execute<{ id: string }>(sql`select id from arrival where state = 'waiting'`);
    if (rows.length === 0) break;
    for (const { id } of rows) await readArrival(id);
  }
  return (await listArrivals(admin, { source: "mail", states: ["ready", "failed", "setAside"], limit: 50, offset: 0 })).items;
}
const invoice = { filename: "Invoice 77.txt", content: "Invoice 77 for PO-6127" };
const count = async () => (await db().execute<{ n: number }>(sql`select count(*)::int as n from arrival`)).rows[0]?.n ?? 0;

describe("Mail in", () => {
  test("a message is one arrival with its parts as children, in the queue of its address; inline logos are left aside", async () => {
    await send({
      to: to("payables"),
      subject: "Invoice 77",
      text: "Please see the invoice.",
      html: '<p>Please see</p><img src="cid:logo">',
      attachments: [
        invoice,
        { filename: "logo.png", content: Buffer.from("89504e470d0a1a0a", "hex"), cid: "logo", contentDisposition: "inline" },
      ],
    });
    const all = await read();
    const message = all.find((a) => a.parent === null);
    expect(message).toMatchObject({
      fileName: "Invoice 77.eml",
      queue: "payables",
      state: "ready",
      kind: "mail",
      source: "mail",
      company: null,
    });
    expect(message?.sender).toContain("accounts@tarrin.example");
    const parts = all.filter((a) => a.parent === message?.id);
    expect(parts.map((p) => [p.fileName, p.state]).sort()).toEqual([
      ["Invoice 77.txt", "ready"],
      ["logo.png", "setAside"],
    ]);
  });

  test("a code in the address, else in the subject, ties it to its record, and its parts with it; one that fits nothing or two things ties nothing", async () => {
    await send({ to: to("payables", "po-6127"), subject: "Bill", text: "x", attachments: [invoice] });
    await send({ to: to("payables"), subject: "Your PO-6127, 3 pages", text: "y" });
    await send({ to: to("payables"), subject: "About V-1", text: "z" });
    await putRecord(admin, "MF", "purchaseOrder", "PO-7000", { title: "One" });
    await putRecord(admin, "QS", "purchaseOrder", "PO-7000", { title: "The other" });
    await send({ to: to("payables"), subject: "Two have PO-7000", text: "v" });
    await send({ to: to("payables"), subject: "Nothing 99-9999", text: "w" });
    const all = await read();
    const tiedOf = (name: string) => all.filter((a) => a.fileName === name).map((a) => a.tied?.key ?? null);
    expect(tiedOf("Bill.eml")).toEqual(["PO-6127"]);
    const bill = all.find((a) => a.fileName === "Bill.eml");
    expect(all.find((a) => a.parent === bill?.id)?.tied?.key).toBe("PO-6127");
    expect(tiedOf("Your PO-6127, 3 pages.eml")).toEqual(["PO-6127"]);
    expect(tiedOf("Nothing 99-9999.eml")).toEqual([null]);
    expect(tiedOf("Two have PO-7000.eml")).toEqual([null]);
    // Three characters are too few to be a number somebody meant.
    expect(tiedOf("About V-1.eml")).toEqual([null]);
  });

  test("the code of a document ties it to the record that document is clipped to, and says so", async () => {
    const filed = await fileText(admin, "class.txt", "class", {
      documentType: "certificate",
      title: "Class",
      clips: [{ company: "MF", type: "vessel", key: "V-1" }],
    });
    await send({ to: to("general", filed.code), subject: "Renewed", text: "new one" });
    const renewed = (await read()).find((a) => a.fileName === "Renewed.eml");
    expect(renewed).toMatchObject({ note: `About ${filed.code}`, tied: { key: "V-1" } });
  });

  test("the same message again is the same arrival, in each queue it was sent to once", async () => {
    const raw = `From: a@b.example\r\nTo: ${to("payables")}\r\nSubject: Twice\r\nMessage-ID: <1@b.example>\r\n\r\nthe same`;
    const both = { envelope: { from: "a@b.example", to: [to("payables"), to("general"), to("payables", "PO-6127")] }, raw };
    await send(both);
    const before = await count();
    await send(both);
    expect(await count()).toBe(before);
    const twice = (await read()).filter((a) => a.fileName === "Twice.eml");
    expect(twice.map((a) => a.queue).sort()).toEqual(["general", "payables"]);
  });

  test("where only parts are kept the message is set aside in the register, and can be restored; without parts it stays", async () => {
    must(await saveQueueMail(admin, "sales-desk", { keeps: "partsOnly", senders: [] }));
    await send({ to: to("sales-desk"), subject: "With a part", text: "x", attachments: [invoice] });
    await send({ to: to("sales-desk"), subject: "Only words", text: "nothing else" });
    const all = await read();
    const message = all.find((a) => a.fileName === "With a part.eml");
    expect(message).toMatchObject({ state: "setAside", endReason: "its attachments are kept" });
    expect(all.find((a) => a.parent === message?.id)).toMatchObject({ state: "ready" });
    expect(all.find((a) => a.fileName === "Only words.eml")?.state).toBe("ready");
    const id = parseArrivalId(message?.id ?? "");
    if (id === null) throw new Error("no arrival");
    must(await restore(admin, id, ""));
    expect((await loadArrival(admin, id))?.state).toBe("ready");
  });

  test("what the relay found out is kept; what it takes for junk is marked and stays", async () => {
    const head = "Authentication-Results: mx.example; spf=fail smtp.mailfrom=x.example; dkim=none\r\nX-Spam-Flag: YES\r\n";
    await send({
      envelope: { from: "x@x.example", to: [to("general")] },
      raw: `${head}From: x@x.example\r\nSubject: Win a cruise\r\n\r\nclick`,
    });
    expect((await read()).find((a) => a.fileName === "Win a cruise.eml")).toMatchObject({
      state: "ready",
      mail: { spf: "fail", dkim: "none", junk: "the mail server marked it as junk" },
    });
  });

  test.each([
    ["no subject and no sender", "\r\nonly a body", "Message.eml"],
    ["an encoded subject", "Subject: =?utf-8?B?UmVjaG51bmcgZsO8ciBNw6RyemVu?=\r\n\r\nx", "Rechnung für Märzen.eml"],
    ["a subject with a path in it", "Subject: ../../etc/passwd\r\n\r\nx", "..-..-etc-passwd.eml"],
    ["boundaries that never come", 'Content-Type: multipart/mixed; boundary="x"\r\nSubject: Broken\r\n\r\n--x\r\nno end', "Broken.eml"],
    ["bytes that are no text", `Subject: Bytes\r\n\r\n${"\u0001\u0002\uffff".repeat(50)}`, "Bytes.eml"],
  ])("a message with %s is an arrival all the same", async (_, raw, name) => {
    const before = await count();
    await send({ envelope: { from: "a@b.example", to: [to("general")] }, raw });
    expect(await count()).toBeGreaterThan(before);
    const found = (await read()).find((a) => a.fileName === name);
    expect(found?.state).toMatch(/ready|failed/);
  });
});

describe("What is not taken is refused so that the sender knows", () => {
  test("addresses that are not ours, and senders a queue does not know", async () => {
    await expect(send({ to: "payables@elsewhere.example", text: "x" })).rejects.toMatchObject({ responseCode: 550 });
    await expect(send({ to: to("nobody"), text: "x" })).rejects.toMatchObject({ responseCode: 550 });
    must(await saveQueueMail(admin, "crew-office", { keeps: "messageAndParts", senders: ["@known.example"] }));
    await expect(send({ to: to("crew-office"), text: "x" })).rejects.toMatchObject({ responseCode: 550 });
    await send({ from: "jo@known.example", to: to("crew-office"), subject: "Known", text: "x" });
    expect((await read()).some((a) => a.fileName === "Known.eml")).toBe(true);
  });

  test("what is too large, before it is sent when the sender says its size, else while it comes; nothing of it is kept", async () => {
    const limits = await loadLimits();
    must(await saveLimits(admin, { ...limits, bytesMax: 20_000 }));
    const small = await listenForMail({ port: 0, host: "127.0.0.1", domain });
    try {
      const big = { to: to("payables"), from: "a@b.example", text: "x".repeat(60_000) };
      const mailer = nodemailer.createTransport({ host: "127.0.0.1", port: small.port, ignoreTLS: true });
      const before = await count();
      await expect(mailer.sendMail(big)).rejects.toMatchObject({ responseCode: 552 });
      expect(
        await talk(small.port, ["EHLO x", "MAIL FROM:<a@b.example>", `RCPT TO:<${to("payables")}>`, "DATA", `${"y".repeat(60_000)}\r\n.`]),
      ).toMatch(/^552/);
      expect(await count()).toBe(before);
      expect(await readdir(path.join(world.dataFolder, "landing", "halves")).catch(() => [])).toEqual([]);
    } finally {
      await small.close();
      must(await saveLimits(admin, limits));
    }
  });

  test("a sender that breaks off in the middle leaves nothing behind", async () => {
    const before = await count();
    const socket = net.connect(listener.port, "127.0.0.1");
    socket.write(`EHLO x\r\nMAIL FROM:<a@b.example>\r\nRCPT TO:<${to("payables")}>\r\nDATA\r\nSubject: half\r\n\r\nhal`);
    await new Promise((resolve) => setTimeout(resolve, 400));
    socket.destroy();
    await new Promise((resolve) => setTimeout(resolve, 300));
    expect(await count()).toBe(before);
  });

  test("queues are seen and set by those who manage only", async () => {
    expect(await listQueueMail(light)).toMatchObject({ ok: false });
    expect(await saveQueueMail(light, "payables", { keeps: "partsOnly", senders: [] })).toMatchObject({ ok: false });
    expect(await saveQueueMail(admin, "nobody", { keeps: "partsOnly", senders: [] })).toMatchObject({ refusal: { code: "unknown-queue" } });
  });
});

/** Says lines to the listener one after the other, each after the answer before it; the last answer. */
function talk(port: number, lines: readonly string[]): Promise<string> {
  return new Promise((resolve, reject) => {
    const socket = net.connect(port, "127.0.0.1");
    let said = 0;
    socket.on("error", reject);
    socket.on("data", (piece) => {
      const answer = piece.toString().trim().split("\r\n").at(-1) ?? "";
      if (!/^\d{3}(?: |$)/.test(answer)) return;
      const line = lines[said++];
      if (line === undefined) {
        socket.end();
        resolve(answer);
      } else socket.write(`${line}\r\n`);
    });
  });
}
