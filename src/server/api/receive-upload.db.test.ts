import { readdir } from "node:fs/promises";
import path from "node:path";
import { sql } from "drizzle-orm";
import { actorByMail } from "#scenario/set-up/fill-set-up.ts";
import { db } from "../db/connect.ts";
import { makeSetUpDatabase, must, putRecord } from "../db/test-world.ts";
import type { Actor } from "../people/load-actor.ts";
import { loadLimits, saveLimits } from "../settings/load-settings.ts";
import { receiveUpload } from "./receive-upload.ts";

let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
let admin: Actor;
let auditor: Actor;
let light: Actor;
beforeAll(async () => {
  world = await makeSetUpDatabase();
  [admin, auditor, light] = (await Promise.all(
    ["isla.rowe", "ferris.dunmore", "pell.ashby"].map((n) => actorByMail(`${n}@merrowick.example`)),
  )) as [Actor, Actor, Actor];
  await putRecord(admin, "MF", "vessel", "V-1", { title: "MV One" });
  await putRecord(admin, "MF", "crewMember", "E-1", { title: "Somebody" });
});
afterAll(async () => {
  await world.end();
});

const boundary = "----amber";
/** A form as a client writes it; `end` may be left out to break it off. */
const form = (
  fields: Record<string, string>,
  file: { name: string; bytes: Buffer | string } | null,
  options: { end?: boolean } = {},
): Buffer =>
  Buffer.concat([
    ...Object.entries(fields).map(([name, value]) =>
      Buffer.from(`--${boundary}\r\nContent-Disposition: form-data; name="${name}"\r\n\r\n${value}\r\n`),
    ),
    ...(file
      ? [
          Buffer.from(
            `--${boundary}\r\nContent-Disposition: form-data; name="file"; filename="${file.name}"\r\nContent-Type: application/octet-stream\r\n\r\n`,
          ),
          Buffer.from(file.bytes),
          Buffer.from("\r\n"),
        ]
      : []),
    Buffer.from(options.end === false ? "" : `--${boundary}--\r\n`),
  ]);
const upload = (actor: Actor, body: Buffer | ReadableStream, headers: Record<string, string> = {}) =>
  receiveUpload(
    actor,
    new Request("http://127.0.0.1:9/api/v1/arrivals", {
      method: "POST",
      headers: { "content-type": `multipart/form-data; boundary=${boundary}`, ...headers },
      body: body instanceof ReadableStream ? body : new Uint8Array(body),
      duplex: "half",
    } as RequestInit),
  );
const arrivals = async (): Promise<number> =>
  (await db().execute<{ n: number }>(sql`select count(*)::int as n from arrival`)).rows[0]?.n ?? 0;
const halves = async (): Promise<readonly string[]> => readdir(path.join(world.dataFolder, "landing/halves")).catch(() => []);

describe("An upload", () => {
  test("is in the register with its bytes, its record and what was said of it", async () => {
    const taken = must(
      await upload(
        admin,
        form(
          { queue: "general", company: "MF", record: "vessel:V-1", note: "from the bridge", source: "phone" },
          { name: "paper.txt", bytes: "hello" },
        ),
      ),
    );
    const row = (await db().execute<Record<string, unknown>>(sql`select * from arrival where id = ${taken.id}`)).rows[0];
    expect(row).toMatchObject({
      file_name: "paper.txt",
      queue: "general",
      company: "MF",
      note: "from the bridge",
      source: "phone",
      state: "waiting",
      size_bytes: 5,
    });
    expect(row?.["record_id"]).not.toBeNull();
    const jobs = await db().execute<{ n: number }>(
      sql`select count(*)::int as n from graphile_worker._private_jobs where key = ${`read:${taken.id}`}`,
    );
    expect(jobs.rows[0]?.n).toBe(1);
  });
  test("with the file before the fields is taken all the same", async () => {
    const body = Buffer.concat([form({}, { name: "first.txt", bytes: "first" }, { end: false }), form({ queue: "general" }, null)]);
    expect(must(await upload(admin, body)).bytes).toBe(5);
  });
  test("an unknown way in counts as a program, and folders in a name are left out", async () => {
    const taken = must(
      await upload(admin, form({ queue: "general", source: "pigeon" }, { name: "C:\\\\docs\\\\..\\\\b.txt", bytes: "x" })),
    );
    expect(
      (await db().execute<Record<string, unknown>>(sql`select source, file_name from arrival where id = ${taken.id}`)).rows[0],
    ).toMatchObject({ source: "api", file_name: "b.txt" });
  });
  const refusals: readonly (readonly [string, Record<string, string>, string])[] = [
    ["an unknown queue", { queue: "nowhere" }, "unknown-queue"],
    ["no queue", {}, "unknown-queue"],
    ["a company that is not theirs", { queue: "general", company: "XX" }, "bad-input"],
    ["an unknown record", { queue: "general", record: "vessel:V-9" }, "unknown-record"],
    ["a record without a type", { queue: "general", record: "V-1" }, "unknown-record"],
    ["an unknown document type", { queue: "general", documentType: "poem" }, "unknown-type"],
  ];
  test.each(refusals)("with %s is refused and leaves no line", async (_, fields, code) => {
    const before = await arrivals();
    expect(await upload(admin, form(fields, { name: "a.txt", bytes: `x${code}` }))).toMatchObject({ ok: false, refusal: { code } });
    expect(await arrivals()).toBe(before);
  });
  test("a record that the sender may not see is as unknown as one that is not there (promise 6)", async () => {
    const hidden = await upload(light, form({ queue: "general", record: "crewMember:E-1" }, { name: "a.txt", bytes: "x" }));
    const absent = await upload(light, form({ queue: "general", record: "crewMember:E-2" }, { name: "a.txt", bytes: "x" }));
    expect(hidden).toMatchObject({ ok: false, refusal: { code: "unknown-record" } });
    expect(JSON.stringify(hidden).replace("E-1", "E-2")).toBe(JSON.stringify(absent));
  });
  test("needs the right to add", async () => {
    expect(await upload(auditor, form({ queue: "general" }, { name: "a.txt", bytes: "x" }))).toMatchObject({
      ok: false,
      refusal: { code: "not-allowed" },
    });
  });
  test("without a file, or that is no form, is answered", async () => {
    expect(await upload(admin, form({ queue: "general" }, null))).toMatchObject({ ok: false, refusal: { code: "no-file" } });
    expect(await upload(admin, Buffer.from("{}"), { "content-type": "application/json" })).toMatchObject({
      ok: false,
      refusal: { code: "no-file" },
    });
    expect(await upload(admin, Buffer.from("x"), { "content-type": "multipart/form-data" })).toMatchObject({
      ok: false,
      refusal: { code: "no-file" },
    });
  });
  test("that ends in the middle leaves nothing: no line, no half", async () => {
    const before = await arrivals();
    const body = form({ queue: "general" }, { name: "half.txt", bytes: "half of it" }, { end: false });
    expect(await upload(admin, body.subarray(0, body.length - 6))).toMatchObject({ ok: false, refusal: { code: "cut-off" } });
    const broken = new ReadableStream({
      start(controller) {
        controller.enqueue(new Uint8Array(body.subarray(0, body.length - 6)));
      },
      pull(controller) {
        controller.error(new Error("the line dropped"));
      },
    });
    expect(await upload(admin, broken)).toMatchObject({ ok: false, refusal: { code: "cut-off" } });
    expect(await arrivals()).toBe(before);
    expect(await halves()).toEqual([]);
  });
  test("over the limit is refused while it still comes, and nothing of it stays", async () => {
    const limits = await loadLimits();
    must(await saveLimits(admin, { ...limits, bytesMax: 100_000 }));
    let sent = 0;
    const head = form({ queue: "general" }, { name: "big.bin", bytes: "" }, { end: false });
    const endless = new ReadableStream(
      {
        pull(controller) {
          if (sent === 0) controller.enqueue(new Uint8Array(head.subarray(0, head.length - 2)));
          sent++;
          if (sent > 4000) controller.close();
          else controller.enqueue(new Uint8Array(16_384));
        },
      },
      { highWaterMark: 0 },
    );
    expect(await upload(admin, endless)).toMatchObject({ ok: false, refusal: { code: "too-large" } });
    expect(await halves()).toEqual([]);
    must(await saveLimits(admin, limits));
  });
  test("limits can only be set by those who manage", async () => {
    expect(await saveLimits(light, await loadLimits())).toMatchObject({ ok: false, refusal: { code: "not-allowed" } });
  });
});
