import { eq, sql } from "drizzle-orm";
import type { ArrivalId } from "#core/shared/brand.ts";
import { drawPdf } from "#scenario/papers/draw-pdf.ts";
import { writeMail } from "#scenario/papers/write-files.ts";
import { actorByMail } from "#scenario/set-up/fill-set-up.ts";
import { db } from "../db/connect.ts";
import { makeSetUpDatabase, must, putRecord, takeAndLook, takeText } from "../db/test-world.ts";
import { fileAway } from "../documents/file-away.ts";
import type { Actor } from "../people/load-actor.ts";
import { listLines } from "../timeline/list-lines.ts";
import { listQueueMail, saveQueueIntake, saveQueueMail } from "../ways-in/queue-ways.ts";
import { takeMessage } from "../ways-in/take-message.ts";
import { changeMany, manySchema } from "./change-many.ts";
import { restore, sayType, setAside, tellApart } from "./change-state.ts";
import { claim, CLAIM_MS, letGo } from "./claim.ts";
import { handOver, listTargets } from "./hand-over.ts";
import { forgetJunkSender, isJunkSender, listJunkSenders } from "./junk.ts";
import { keepOfMail } from "./keep-of-mail.ts";
import { listArrivals, loadArrival } from "./list-arrivals.ts";
import { readArrival } from "./read-arrival.ts";
import { landFile, takeIn } from "./receive.ts";
import { arrival } from "./tables.ts";
import { Readable } from "node:stream";
import { atTime } from "../ports/clock.ts";
import { makePaper } from "../db/test-papers.ts";

let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
let admin: Actor;
let clerk: Actor;
let crew: Actor;
const order = { type: "purchaseOrder", key: "PO-1", company: "MF" };
beforeAll(async () => {
  world = await makeSetUpDatabase();
  [admin, clerk, crew] = (await Promise.all(
    ["isla.rowe", "tam.corrigall", "maren.holt"].map((n) => actorByMail(`${n}@merrowick.example`)),
  )) as [Actor, Actor, Actor];
  await putRecord(admin, "MF", "supplierAccount", "S-1", { title: "Tarrin", fields: { name: "Tarrin" } });
  await putRecord(admin, "MF", "purchaseOrder", "PO-1", {
    title: "Fuel",
    date: "2026-11-02",
    parent: { type: "supplierAccount", key: "S-1" },
  });
});
afterAll(() => world.end());
let nth = 0;
const take = (queue = "payables"): Promise<ArrivalId> => takeText(admin, `document ${nth++}.txt`, `a document, number ${nth}`, { queue });
const filing = { documentType: "letter", clips: [order] };
const many = (value: unknown) => manySchema.parse(value);

describe("Claims", () => {
  test("nobody else files, sets aside or hands over what somebody works on; the list says who it is", async () => {
    const id = await take();
    must(await claim(clerk, id, false));
    expect((await loadArrival(admin, id))?.claim).toMatchObject({ id: clerk.id, name: "Tam Corrigall" });
    expect(await fileAway(admin, id, filing)).toMatchObject({ refusal: { code: "claimed", detail: "Tam Corrigall" } });
    expect(await setAside(admin, id, "not needed")).toMatchObject({ refusal: { code: "claimed" } });
    expect(await handOver(admin, id, { queue: "general", word: "" })).toMatchObject({ refusal: { code: "claimed" } });
    expect(await claim(admin, id, false)).toMatchObject({ refusal: { code: "claimed" } });
    must(await fileAway(clerk, id, filing));
  });
  test("a claim can be taken over, which is told, and let go of; only one's own", async () => {
    const id = await take();
    must(await claim(clerk, id, false));
    must(await claim(admin, id, true));
    expect((await listLines(admin, { arrivalId: id })).some((l) => l.words === "took it over from Tam Corrigall")).toBe(true);
    expect(must(await letGo(clerk, id)).done).toBe(false);
    expect(must(await letGo(admin, id)).done).toBe(true);
    expect((await loadArrival(clerk, id))?.claim).toBeNull();
  });
  test("a claim ends by itself", async () => {
    const id = await take();
    must(await claim(clerk, id, false));
    const later = new Date(Date.now() + CLAIM_MS + 1000);
    await atTime(
      () => later,
      async () => {
        expect((await loadArrival(admin, id))?.claim).toBeNull();
        must(await fileAway(admin, id, filing));
      },
    );
    expect(await claim(clerk, id, false)).toMatchObject({ refusal: { code: "stale" } });
  });
  test("of two that claim at once one has it", async () => {
    const id = await take();
    const both = await Promise.all([claim(clerk, id, false), claim(admin, id, false)]);
    expect(both.filter((b) => b.ok)).toHaveLength(1);
  });
});

describe("Handing over", () => {
  test("to a queue it moves there with a word; to a person it stands under their name, and they see it", async () => {
    const id = await take();
    must(await handOver(clerk, id, { queue: "general", word: "not ours" }));
    expect(await loadArrival(clerk, id)).toMatchObject({ queue: "general", handed: { to: null, by: "Tam Corrigall", word: "not ours" } });
    const theirs = await take();
    expect(await loadArrival(crew, theirs)).toBeNull();
    must(await handOver(clerk, theirs, { person: crew.id, word: "is this Rona's?" }));
    expect(await loadArrival(crew, theirs)).toMatchObject({ queue: "payables", handed: { to: "Maren Holt", toMe: true } });
    expect((await listArrivals(crew, { mine: true, limit: 10, offset: 0 })).items.map((a) => a.id)).toEqual([theirs]);
    expect((await listArrivals(clerk, { mine: true, limit: 10, offset: 0 })).items).toEqual([]);
  });
  test("only to those who are there and may file in one's own companies", async () => {
    const targets = await listTargets(clerk);
    expect(targets.people.map((p) => p.name)).toContain("Maren Holt");
    expect(targets.people.map((p) => p.name)).not.toContain("Tam Corrigall");
    expect(targets.people.map((p) => p.name)).not.toContain("Ferris Dunmore");
    const id = await take();
    expect(await handOver(clerk, id, { person: "nobody", word: "" })).toMatchObject({ refusal: { code: "not-found" } });
    expect(await handOver(clerk, id, { queue: "nowhere", word: "" })).toMatchObject({ refusal: { code: "unknown-queue" } });
  });
  test("many at once, with the type said for many; what cannot be done is listed", async () => {
    const ids = [await take(), await take(), await take()];
    must(await claim(admin, ids[2] as ArrivalId, false));
    const handed = await changeMany(clerk, many({ ids, action: "handOver", queue: "general", reason: "yours" }));
    expect(handed).toMatchObject({ done: 2, failures: [{ what: ids[2], why: "Somebody else is working on this: Isla Rowe" }] });
    expect(await changeMany(clerk, many({ ids: ids.slice(0, 2), action: "documentType", documentType: "letter" }))).toMatchObject({
      done: 2,
    });
    expect((await loadArrival(clerk, ids[0] as ArrivalId))?.proposedType).toMatchObject({ type: "letter" });
    expect(await sayType(clerk, ids[0] as ArrivalId, "none")).toMatchObject({ refusal: { code: "unknown-type" } });
  });
});

describe("Junk", () => {
  const mail = (n: number, from: string) =>
    Buffer.from(
      `From: ${from}\r\nTo: payables@documents.example\r\nSubject: Offer ${n}\r\nDate: Fri, 20 Nov 2026 09:00:00 +0000\r\nMessage-ID: <${n}@x>\r\n\r\nBuy ${n}\r\n`,
    );
  const post = async (bytes: Buffer): Promise<ArrivalId> => {
    const landed = must(await landFile(Readable.from([bytes])));
    return must(await takeMessage({ from: "", targets: [{ queue: "payables", code: null }] }, landed)).ids[0] as ArrivalId;
  };
  test("set aside as junk, what its sender sends is marked from then on and stays; restoring takes that back", async () => {
    const first = await post(mail(1, "Great Offers <Win@Offers.example>"));
    expect((await loadArrival(clerk, first))?.mail?.junk).toBeNull();
    must(await setAside(clerk, first, "junk", true));
    expect(await isJunkSender(db(), "win@offers.example")).toBe(true);
    const second = await post(mail(2, "win@offers.example"));
    expect(await loadArrival(clerk, second)).toMatchObject({ state: "waiting", mail: { junk: "marked as junk sender" } });
    must(await restore(clerk, first, "undone"));
    expect(await isJunkSender(db(), "win@offers.example")).toBe(false);
  });
  test("an administrator sees who was said to send junk, and forgets one", async () => {
    const id = await post(mail(3, "again@offers.example"));
    await changeMany(clerk, many({ ids: [id], action: "setAside", reason: "junk", junk: true }));
    expect(must(await listJunkSenders(admin)).items.map((s) => s.address)).toEqual(["again@offers.example"]);
    expect(await listJunkSenders(clerk)).toMatchObject({ refusal: { code: "not-allowed" } });
    expect(must(await forgetJunkSender(admin, "again@offers.example")).items).toEqual([]);
  });
});

describe("A queue that asks what is kept of a message", () => {
  async function letter(): Promise<{ id: ArrivalId; parts: readonly string[] }> {
    must(await saveQueueMail(admin, "payables", { keeps: "ask", senders: [] }));
    const bytes = writeMail({
      from: "a@b.example",
      to: "payables@papers.example",
      subject: `Documents ${nth++}`,
      date: "2026-11-20T09:00:00Z",
      text: "see attached",
      attachments: [{ name: `a${nth}.txt`, type: "text/plain", bytes: Buffer.from(`part ${nth}`) }],
    });
    const landed = must(await landFile(Readable.from([Buffer.from(bytes)])));
    const id = must(await takeMessage({ from: "", targets: [{ queue: "payables", code: null }] }, landed)).ids[0] as ArrivalId;
    await readArrival(id);
    const parts = (await db().select({ id: arrival.id }).from(arrival).where(eq(arrival.parentId, id))).map((r) => r.id);
    return { id, parts };
  }
  test.each([
    ["partsOnly", "setAside", ["waiting"]],
    ["messageOnly", "ready", ["setAside"]],
    ["messageAndParts", "ready", ["waiting"]],
  ] as const)("%s: the message is %s, its parts %s", async (keeps, message, parts) => {
    const made = await letter();
    expect((await loadArrival(clerk, made.id))?.mail?.asks).toBe(true);
    must(await keepOfMail(clerk, made.id, keeps));
    must(await keepOfMail(clerk, made.id, keeps));
    expect(await loadArrival(clerk, made.id)).toMatchObject({ state: message, mail: { asks: false } });
    expect(await Promise.all(made.parts.map(async (p) => (await loadArrival(clerk, p as ArrivalId))?.state))).toEqual([...parts]);
  });
});

describe("A queue's own limits", () => {
  test("hold for it and for no other: size on the way in, pages and kinds once it is read", async () => {
    const intake = { filesByCodes: false, leavesOutBlanks: false, limits: { bytesMax: 4096, pagesMax: 1, kinds: ["pdf", "text"] } };
    expect(await saveQueueIntake(clerk, "quay-office", intake)).toMatchObject({ refusal: { code: "not-allowed" } });
    must(await saveQueueIntake(admin, "quay-office", intake));
    const big = must(await landFile(Readable.from([Buffer.alloc(5000, 65)])));
    expect(await takeIn(admin, big, { fileName: "big.txt", queue: "quay-office", source: "drop" })).toMatchObject({
      refusal: { code: "too-large" },
    });
    expect((await takeIn(admin, big, { fileName: "big.txt", queue: "general", source: "drop" })).ok).toBe(true);
    const two = await makePaper("one", "two");
    const long = await takeAndLook(admin, "long.pdf", two, { queue: "quay-office" });
    expect(await loadArrival(admin, long)).toMatchObject({
      state: "failed",
      problem: { code: "too-many-pages", detail: "2 pages, at most 1" },
    });
    expect((await loadArrival(admin, await takeAndLook(admin, "long.pdf", two)))?.state).toBe("ready");
    const table = await takeText(admin, "t.csv", "a;b;c\n1;2;3\n4;5;6\n7;8;9", { queue: "quay-office" });
    expect(await loadArrival(admin, table)).toMatchObject({ state: "failed", problem: { code: "type-not-allowed" } });
    expect(must(await listQueueMail(admin)).items.find((q) => q.key === "quay-office")).toMatchObject({
      codesBy: null,
      limits: { pagesMax: 1 },
    });
  });
});

describe("Nearly the same", () => {
  const paper = (number: string, total = "5468.16") => ({
    heading: "Invoice",
    sender: { name: "Tarrin Marine Fuels", address: "Port Halven" },
    recipient: { name: "Merrowick Ferries Ltd", address: "Harbour House" },
    number,
    date: "2026-11-18",
    references: [["Your order", "PO-1"]] as const,
    lines: Array.from({ length: 14 }, (_, i) => ({
      text: `Marine gas oil grade ${i} delivered to berth ${i + 3}`,
      quantity: 100 + i,
      unit: "l",
      price: 71.2 + i,
    })),
    money: { net: "4556.80", tax: "911.36", total, currency: "GBP" },
  });
  test("a document saved anew and one with a word changed are told of with how alike they are; the next invoice is not the same", async () => {
    const first = await takeAndLook(admin, "inv.pdf", await drawPdf(paper("88-1"), 2), { queue: "payables" });
    const filed = must(await fileAway(admin, first, { documentType: "letter", title: "Fuel", clips: [order] }));
    const saved = await drawPdf(paper("88-1"), 2);
    const again = await takeAndLook(admin, "inv saved.pdf", Buffer.concat([saved, Buffer.from("\n% saved again\n")]), {
      queue: "payables",
    });
    expect((await loadArrival(admin, again))?.duplicates).toEqual([{ code: filed.code, title: "Fuel", kind: "sameText", similarity: 1 }]);
    const near = await takeAndLook(admin, "inv near.pdf", await drawPdf(paper("88-1", "5468.17"), 2), { queue: "payables" });
    const told = (await loadArrival(admin, near))?.duplicates ?? [];
    expect(told[0]).toMatchObject({ code: filed.code, kind: "near" });
    expect(told[0]?.similarity).toBeLessThan(1);
    must(await tellApart(admin, near, filed.code));
    expect((await loadArrival(admin, near))?.duplicates).toEqual([]);
  });
  test("two that wait: the later is told of the earlier, and of nobody's that one may not see", async () => {
    const text = `${"the quay was wet and the crates were stacked four high when the crane stopped ".repeat(6)}`;
    const first = await takeText(admin, "crew report.txt", text, { queue: "crew-office" });
    const later = await takeText(clerk, "report.txt", `${text} `, { queue: "payables" });
    expect((await loadArrival(admin, later))?.twin).toMatchObject({ id: first, kind: "sameText" });
    expect((await loadArrival(clerk, later))?.twin).toBeNull();
  });
  test("prints that are missing are made up for", async () => {
    const id = await takeText(admin, "old.txt", "an old document that was read before there were any prints of what documents say at all");
    await db().execute(sql`delete from content_print`);
    const { fingerprintContents } = await import("../matching/fingerprint-contents.ts");
    expect(await fingerprintContents()).toBeGreaterThan(0);
    expect(await fingerprintContents()).toBe(0);
    expect(
      (await db().execute(sql`select from content_print p join arrival a on a.sha256 = p.sha256 where a.id = ${id}`)).rows,
    ).toHaveLength(1);
  });
});
