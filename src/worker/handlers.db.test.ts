import { sql } from "drizzle-orm";
import { runOnce } from "graphile-worker";
import { rm } from "node:fs/promises";
import path from "node:path";
import { jobNames } from "#server/jobs/job-names.ts";
import type { ArrivalId } from "#core/shared/brand.ts";
import { actorByMail } from "#scenario/set-up/fill-set-up.ts";
import { landFile, takeIn } from "#server/arrivals/receive.ts";
import { loadArrival } from "#server/arrivals/list-arrivals.ts";
import { readAgain } from "#server/arrivals/change-state.ts";
import { checkHealth } from "#server/api/health.ts";
import { db, pool } from "#server/db/connect.ts";
import { makeSetUpDatabase, must, putRecord } from "#server/db/test-world.ts";
import { fileAway } from "#server/documents/file-away.ts";
import { loadDocument } from "#server/documents/load-document.ts";
import { placeAgain } from "#server/documents/place-again.ts";
import type { Actor } from "#server/people/load-actor.ts";
import { find } from "#server/search/find.ts";
import { Readable } from "node:stream";
import { beat } from "./beat.ts";
import { handlers, orGiveUp } from "./handlers.ts";
import { takeUpLost } from "./take-up-lost.ts";

let world: Awaited<ReturnType<typeof makeSetUpDatabase>>;
let admin: Actor;
beforeAll(async () => {
  world = await makeSetUpDatabase();
  admin = await actorByMail("isla.rowe@merrowick.example");
  await putRecord(admin, "MF", "vessel", "V-1", { title: "MV One" });
});
afterAll(async () => {
  await world.end();
});

/** Does what is queued, as the worker does it, without waiting for the times between tries. */
async function work(): Promise<void> {
  const taskList = Object.fromEntries(
    jobNames.map((stage) => [
      stage,
      (payload: unknown, helpers: { job: { attempts: number; max_attempts: number } }) =>
        handlers[stage](payload, helpers.job.attempts >= helpers.job.max_attempts),
    ]),
  );
  for (let round = 0; round < 8; round++) {
    await db().execute(sql`update graphile_worker._private_jobs set run_at = now() where attempts < max_attempts`);
    await runOnce({ pgPool: pool(), taskList, noHandleSignals: true, logger: quiet });
    const left = await db().execute<{ n: number }>(
      sql`select count(*)::int as n from graphile_worker._private_jobs where attempts < max_attempts`,
    );
    if (left.rows[0]?.n === 0) return;
  }
}
const quiet = { error: () => {}, warn: () => {}, info: () => {}, debug: () => {}, scope: () => quiet } as unknown as NonNullable<
  Parameters<typeof runOnce>[0]["logger"]
>;
const take = async (name: string, text: string) =>
  must(
    await takeIn(admin, must(await landFile(Readable.from([Buffer.from(text)]))), {
      fileName: name,
      queue: "general",
      source: "drop",
      company: "MF",
    }),
  ).id;
const filing = { documentType: "certificate", clips: [{ company: "MF", type: "vessel", key: "V-1" }] };

describe("The worker", () => {
  test("reads, places and indexes what was queued in the transactions that made it", async () => {
    const id = await take("whole way.txt", "gooseberry");
    expect((await loadArrival(admin, id))?.state).toBe("waiting");
    await work();
    expect((await loadArrival(admin, id))?.state).toBe("ready");
    const { code } = must(await fileAway(admin, id, { ...filing, title: "Whole way" }));
    await work();
    expect((await loadDocument(admin, code))?.location?.state).toBe("stored");
    expect((await find(admin, { q: "gooseberry", limit: 5, offset: 0 })).total).toBe(1);
  });
  test("gives up after some tries, says so on the arrival, and goes on when asked again", async () => {
    const id = await take("vanishes.txt", "vanishing bytes");
    const sha256 = (await loadArrival(admin, id))?.sha256 ?? "";
    const kept = path.join(world.dataFolder, "landing/kept", sha256.slice(0, 2), sha256.slice(2, 4), sha256);
    await rm(kept);
    const log = console.error;
    console.error = () => {};
    await work();
    console.error = log;
    expect(await loadArrival(admin, id)).toMatchObject({ state: "failed", problem: { code: "not-readable" } });
    must(await landFile(Readable.from([Buffer.from("vanishing bytes")])));
    expect(must(await readAgain(admin, id)).state).toBe("waiting");
    await work();
    expect((await loadArrival(admin, id))?.state).toBe("ready");
  });
  test("a document that cannot be placed says why, and is placed when asked again", async () => {
    const id = await take("cannot stand.txt", "cannot stand here");
    await work();
    const sha256 = (await loadArrival(admin, id))?.sha256 ?? "";
    const { code } = must(await fileAway(admin, id, { ...filing, title: "Cannot stand" }));
    await rm(path.join(world.dataFolder, "landing/kept", sha256.slice(0, 2), sha256.slice(2, 4), sha256));
    const log = console.error;
    console.error = () => {};
    await work();
    console.error = log;
    expect((await loadDocument(admin, code))?.location).toMatchObject({ state: "failed", why: "ENOENT" });
    must(await landFile(Readable.from([Buffer.from("cannot stand here")])));
    must(await placeAgain(admin, code));
    await work();
    expect((await loadDocument(admin, code))?.location?.state).toBe("stored");
  });
  test("frees jobs of those that were killed, and never its own, however long it was kept from saying that it lives", async () => {
    const ids = [await take("of the living.txt", "of the living"), await take("of the dead.txt", "of the dead")];
    const lock = (id: string | undefined, by: string) =>
      db().execute(
        sql`update graphile_worker._private_jobs set locked_by = ${by}, locked_at = now() - interval '1 minute' where key = ${`read:${id}`}`,
      );
    await lock(ids[0], "living");
    await lock(ids[1], "dead");
    // As if a minute went by between its saying so and its looking for the dead.
    await db().execute(sql`create function a_minute_ago() returns trigger language plpgsql as
      $$ begin new.at := now() - interval '1 minute'; return new; end $$`);
    await db().execute(sql`create trigger late before insert or update on heartbeat for each row execute function a_minute_ago()`);
    await beat("worker:here", new Set(["living"]));
    await db().execute(sql`drop trigger late on heartbeat`);
    const locked = await db().execute<{ by: string }>(
      sql`select locked_by as by from graphile_worker._private_jobs where locked_by is not null`,
    );
    expect(locked.rows).toEqual([{ by: "living" }]);
    await db().execute(sql`update graphile_worker._private_jobs set locked_by = null, locked_at = null`);
    await work();
    for (const id of ids) expect((await loadArrival(admin, id as ArrivalId))?.state).toBe("ready");
  });
  test("a job whose tries were used up by kills is taken up again, and given up on only after some rounds", async () => {
    const id = await take("killed each time.txt", "killed each time");
    const useUp = () => db().execute(sql`update graphile_worker._private_jobs set attempts = max_attempts where key = ${`read:${id}`}`);
    await useUp();
    expect(await takeUpLost()).toBe(1);
    expect(await takeUpLost()).toBe(0);
    const waits = await db().execute<{ later: boolean }>(
      sql`select run_at > now() as later from graphile_worker._private_jobs where key = ${`read:${id}`}`,
    );
    expect(waits.rows).toEqual([{ later: true }]);
    await work();
    expect((await loadArrival(admin, id))?.state).toBe("ready");

    const poison = await take("poison.txt", "a file that ends the worker each time");
    for (let round = 0; round < 10 && (await loadArrival(admin, poison))?.state === "waiting"; round++) {
      await db().execute(sql`update graphile_worker._private_jobs set attempts = max_attempts where key = ${`read:${poison}`}`);
      await takeUpLost();
    }
    expect(await loadArrival(admin, poison)).toMatchObject({ state: "failed", problem: { code: "not-readable" } });
    expect((await db().execute(sql`select 1 from graphile_worker._private_jobs where key = ${`read:${poison}`}`)).rows).toEqual([]);
  });
  test("while the database is away nothing is given up on", async () => {
    const away = () => Promise.reject(Object.assign(new Error("away"), { code: "ECONNREFUSED" }));
    let gaveUp = 0;
    await expect(orGiveUp(true, away, async () => void gaveUp++)).rejects.toThrow("away");
    expect(gaveUp).toBe(0);
  });
  test("payloads that are none are refused, not guessed", async () => {
    await expect(handlers.read({ arrivalId: "x" }, false)).rejects.toThrow();
    await expect(handlers.place({}, false)).rejects.toThrow();
  });
  test("there is a handler for each job name", () => expect(Object.keys(handlers).sort()).toEqual([...jobNames].sort()));
});

describe("Health", () => {
  test("is down without a worker that lives, and up with one", async () => {
    await db().execute(sql`delete from heartbeat`);
    expect(await checkHealth()).toMatchObject({ status: "down", checks: { database: true, worker: false, repository: true } });
    await db().execute(sql`insert into heartbeat (process, at) values ('worker:a', now())`);
    expect(await checkHealth()).toMatchObject({ status: "ok" });
    await db().execute(sql`update heartbeat set at = now() - interval '1 minute'`);
    expect((await checkHealth()).checks.worker).toBe(false);
  });
});
