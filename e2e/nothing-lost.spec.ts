import { createHash, randomInt } from "node:crypto";
import { mkdtemp, readFile, rm } from "node:fs/promises";
import os from "node:os";
import path from "node:path";
import { expect, test } from "@playwright/test";
import { freePort } from "#ops/processes.ts";
import { chance } from "#scenario/random.ts";
import { type Demo, startDemo } from "./support/demo.ts";
import { makePdf } from "./support/papers.ts";

const FILES = 200;
const KILLS = 9;
const parts = ["web", "worker", "postgres"] as const;

let demo: Demo;
let folder = "";

test.beforeAll(async () => {
  test.setTimeout(180_000);
  folder = await mkdtemp(path.join(os.tmpdir(), "amber-lost-"));
  demo = await startDemo({ port: await freePort(), data: folder, empty: true, isBeside: true });
});
test.afterEach(async ({ browserName: _ }, info) => {
  if (info.status === info.expectedStatus) return;
  // What the worker gave up on, and why: without it a failure that comes once in many runs cannot be understood.
  const log = await readFile(path.join(folder, "logs/worker.log"), "utf8").catch(() => "");
  console.log(
    log
      .split("\n")
      .filter((line) => /given up|taking up|error/i.test(line))
      .slice(-40)
      .join("\n"),
  );
});
test.afterAll(async () => {
  await demo.stop();
  await rm(folder, { recursive: true, force: true });
});

test(`nothing that was answered is lost while web, worker and database are killed ${KILLS} times at random moments and ${FILES} files go in`, async () => {
  test.setTimeout(420_000);
  const seed = Number(process.env["AMBER_SEED"] ?? randomInt(1, 2 ** 31));
  console.log(`seed ${seed} (AMBER_SEED=${seed} repeats the files and the order of the kills)`);
  const c = chance(seed);
  const base = await makePdf(["A document that must not be lost"]);
  const files = Array.from({ length: FILES }, (_, i) => {
    // Small documents and long texts in turn, each with bytes of its own. Long in bytes and not in words, which would all be read.
    const bytes =
      i % 2 === 0
        ? Buffer.concat([base, Buffer.from(`\n% ${seed} ${i}\n`)])
        : Buffer.from(`${seed} ${i}\n${`${"-".repeat(399)}\n`.repeat(c.whole(0, 1000))}`);
    return {
      name: `lost-${i}.${i % 2 === 0 ? "pdf" : "txt"}`,
      bytes,
      sha256: createHash("sha256").update(bytes).digest("hex"),
      key: `lost-${seed}-${i}`,
    };
  });
  const order = Array.from({ length: KILLS }, (_, i) => parts[i < 3 ? i : c.whole(0, 2)] ?? "web");
  const answered = new Map<string, { id: string; sha256: string }[]>();
  let sending = true;
  let unanswered = 0;

  const killer = (async () => {
    for (const part of order) {
      await pause(c.whole(150, 2600));
      if (!sending) return;
      await kill(part);
    }
  })();
  let next = 0;
  await Promise.all(
    Array.from({ length: 5 }, async () => {
      for (let i = next++; i < files.length; i = next++) {
        const file = files[i];
        if (!file) return;
        // As the browser's queue does it: tried again with the same key until it is answered.
        for (let attempt = 1; ; attempt++) {
          const answer = await send(file).catch(() => null);
          if (answer) {
            answered.set(file.key, [...(answered.get(file.key) ?? []), answer]);
            break;
          }
          unanswered++;
          expect(attempt, `${file.name} is never answered`).toBeLessThan(200);
          await pause(250);
        }
        // Keeps the stream of files up for as long as the kills take.
        await pause(c.whole(0, 350));
      }
    }),
  );
  sending = false;
  await killer;
  console.log(`${order.join(", ")} killed; ${unanswered} requests were not answered and sent again`);
  expect(unanswered).toBeGreaterThan(0);
  await expect.poll(async () => (await get("/health").catch(() => null))?.status, { timeout: 60_000 }).toBe(200);

  const register: { id: string; sha256: string }[] = [];
  for (let cursor = ""; ;) {
    const page = (await (await get(`/register?limit=200&cursor=${cursor}`)).json()) as { items: typeof register; next: string | null };
    register.push(...page.items);
    if (!page.next) break;
    cursor = page.next;
  }
  expect(register).toHaveLength(FILES);
  const byId = new Map(register.map((a) => [a.id, a]));
  for (const file of files) {
    const answers = answered.get(file.key) ?? [];
    expect(answers.length).toBeGreaterThan(0);
    for (const { id, sha256 } of answers) {
      expect(sha256).toBe(file.sha256);
      expect(byId.get(id)?.sha256).toBe(file.sha256);
      const kept = Buffer.from(await (await get(`/arrivals/${id}/content`)).arrayBuffer());
      expect(createHash("sha256").update(kept).digest("hex")).toBe(file.sha256);
    }
  }
  // The jobs of what was killed are taken up again: every one of them ends up read, and was taken in once.
  await expect
    .poll(async () => ((await (await get("/arrivals?state=waiting,reading&limit=1")).json()) as { total: number }).total, {
      timeout: 180_000,
    })
    .toBe(0);
  for (const { id } of register.slice(0, 40)) {
    const lines = ((await (await get(`/arrivals/${id}/timeline`)).json()) as { items: { verb: string }[] }).items;
    expect(lines.filter((l) => l.verb === "takenIn")).toHaveLength(1);
    expect(lines.filter((l) => l.verb === "read")).toHaveLength(1);
  }
});

test("filing goes on over kills: every answered filing ends up placed with proof, none twice", async () => {
  test.setTimeout(300_000);
  const record = await fetch(`${demo.url}/api/v1/records/vessel/V-01?company=MF`, {
    method: "PUT",
    headers: { ...headers(), "content-type": "application/json" },
    body: JSON.stringify({ title: "MV Pale Heron", fields: { name: "MV Pale Heron" } }),
  });
  expect(record.ok).toBe(true);
  const waiting = ((await (await get("/arrivals?limit=60&sort=name")).json()) as { items: { id: string }[] }).items;
  expect(waiting).toHaveLength(60);
  const filed: string[] = [];
  let done = false;
  const killer = (async () => {
    for (const part of ["worker", "web", "postgres", "worker"] as const) {
      await pause(700);
      if (!done) await kill(part);
    }
  })();
  for (const { id } of waiting) {
    const body = JSON.stringify({
      documentType: "certificate",
      title: "Same title",
      clips: [{ company: "MF", type: "vessel", key: "V-01" }],
    });
    for (let attempt = 1; ; attempt++) {
      const code = await fetch(`${demo.url}/api/v1/arrivals/${id}/file`, {
        method: "POST",
        headers: { ...headers(), "content-type": "application/json", "idempotency-key": `file-${id}` },
        body,
      })
        .then(async (answer) => (answer.ok ? ((await answer.json()) as { code: string }).code : null))
        // The line may also drop within the answer: then it was not answered.
        .catch(() => null);
      if (code) {
        filed.push(code);
        break;
      }
      expect(attempt).toBeLessThan(400);
      await pause(200);
    }
  }
  done = true;
  await killer;
  expect(new Set(filed).size).toBe(waiting.length);
  await expect.poll(async () => (await get("/health").catch(() => null))?.status, { timeout: 60_000 }).toBe(200);
  const places = new Set<string>();
  for (const code of filed) {
    await expect.poll(() => locationOf(code).then((p) => p?.state ?? "not answered"), { timeout: 90_000, message: code }).toBe("stored");
    const { location, versions } = (await (await get(`/documents/${code}`)).json()) as {
      location: { path: string; sha256: string };
      versions: { sha256: string }[];
    };
    expect(location.sha256).toBe(versions[0]?.sha256);
    places.add(location.path.toLowerCase());
  }
  expect(places.size).toBe(waiting.length);
});

/** Ends a part as hard as it goes; one that is dead already, and not started again yet, is as good. */
async function kill(part: (typeof parts)[number]): Promise<void> {
  try {
    const pid = await demo.pid(part);
    // A process file that is just being written reads as empty; 0 would mean our own group.
    if (pid > 0) process.kill(pid, "SIGKILL");
  } catch (error) {
    // Gone already, or its process file is not written again yet.
    if (!["ESRCH", "ENOENT"].includes((error as NodeJS.ErrnoException).code ?? "")) throw error;
  }
}

/** Null while the answer is cut off. */
const locationOf = (code: string): Promise<{ state: string } | null> =>
  get(`/documents/${code}`)
    .then(async (answer) => ((await answer.json()) as { location: { state: string } | null }).location)
    .catch(() => null);
const headers = () => ({ authorization: `Bearer ${demo.credentials.keys.administrator}` });
const get = (address: string): Promise<Response> => fetch(`${demo.url}/api/v1${address}`, { headers: headers() });
const pause = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));

async function send(file: { name: string; bytes: Buffer; key: string }): Promise<{ id: string; sha256: string } | null> {
  const form = new FormData();
  form.set("queue", "payables");
  form.set("company", "MF");
  form.set("file", new Blob([new Uint8Array(file.bytes)], { type: "application/octet-stream" }), file.name);
  const answer = await fetch(`${demo.url}/api/v1/arrivals`, {
    method: "POST",
    headers: { ...headers(), "idempotency-key": file.key },
    body: form,
  });
  if (answer.status === 201) return (await answer.json()) as { id: string; sha256: string };
  expect(answer.status, "only outages are answered otherwise").toBeGreaterThanOrEqual(500);
  return null;
}
