import { randomUUID } from "node:crypto";
import { type Runner, run, type TaskList } from "graphile-worker";
import { sql } from "drizzle-orm";
import { type JobName, jobNames } from "#server/jobs/job-names.ts";
import { closeDb, db, pool } from "#server/db/connect.ts";
import { describeError } from "#server/db/describe-error.ts";
import { landingStore } from "#server/ports/adapters.ts";
import { config } from "#server/settings/config.ts";
import { keepCompleteness } from "#server/checklists/keep-completeness.ts";
import { addJob } from "#server/jobs/add-job.ts";
import { watchRepositories } from "#server/repository/watch.ts";
import { rememberFor } from "#server/matching/remembered.ts";
import { systemCode } from "#server/ports/system-code.ts";
import { listenForMail, type MailListener } from "#server/ways-in/listen-for-mail.ts";
import { sealUnlessMoving } from "#server/timeline/seal-lines.ts";
import { scanFolders, type Settling } from "#server/ways-in/watch-folders.ts";
import { beat } from "./beat.ts";
import { handlers } from "./handlers.ts";
import { takeUpLost } from "./take-up-lost.ts";

/** How often the worker says that it lives, ms. */
const BEAT_MS = 3000;
/** Placements are proven again, and local copies that may go are looked for, so often, ms. */
const UPKEEP_MS = 60_000;
/** What evidence weighs is learnt again so often, ms; nothing happens while there is little new. */
const LEARN_MS = 6 * 60 * 60 * 1000;
/** What hardly ever changes is remembered so long while documents are looked at, ms. */
const REMEMBER_MS = 2000;
/** Watched folders are looked at this often, ms, by the process that holds this lock. */
const WATCH_MS = 1500;
const WATCH_LOCK = 730_020;
/** A port for mail that could not be had is tried again after this, ms. */
const MAIL_AGAIN_MS = 5000;
/** Halves of uploads older than this belong to nobody any more, ms. */
const HALVES_MS = 24 * 60 * 60 * 1000;

const name = `worker:${randomUUID()}`;
const workerIds = new Set<string>();

/** Looking at pages takes long, a page a second: it has a runner of its own, so that nothing else waits behind it. */
const slowJobs: readonly JobName[] = ["analysePages"];
const tasksOf = (chosen: readonly JobName[]): TaskList =>
  Object.fromEntries(
    chosen.map((stage) => [
      stage,
      async (payload, helpers) => {
        await handlers[stage](payload, helpers.job.attempts >= helpers.job.max_attempts);
      },
    ]),
  );

const runners: Runner[] = [];
let stopping = false;

/** Takes mail in, where a port is set for it. One worker listens; when its port is taken by another this one stands by and tries again. */
function takeMail(): { readonly end: () => Promise<void> } {
  const { port, host, domain } = config().mail;
  let listener: MailListener | null = null;
  let timer: NodeJS.Timeout | undefined;
  const open = async (): Promise<void> => {
    if (port === null || stopping) return;
    try {
      listener = await listenForMail({ port, host, domain });
      console.log(`mail is received at ${host}:${port}`);
    } catch (error) {
      if (systemCode(error) !== "EADDRINUSE") console.error(`mail in: ${describeError(error)}`);
      timer = setTimeout(() => void open(), MAIL_AGAIN_MS);
    }
  };
  void open();
  return {
    async end() {
      clearTimeout(timer);
      await listener?.close();
    },
  };
}

/** Looks at the watched folders now and then, as long as this process is the one that does; a look that takes long is followed by a longer wait. */
function watchFolders(): { readonly end: () => Promise<void> } {
  const settling: Settling = new Map();
  let timer: NodeJS.Timeout | undefined;
  let going: Promise<void> = Promise.resolve();
  const round = async (): Promise<void> => {
    const began = Date.now();
    try {
      await db().transaction(async (tx) => {
        const mine = await tx.execute<{ mine: boolean }>(sql`select pg_try_advisory_xact_lock(${WATCH_LOCK}) as mine`);
        if (mine.rows[0]?.mine === true) await scanFolders(settling);
      });
    } catch (error) {
      console.error(`watched folders: ${describeError(error)}`);
    }
    if (!stopping) timer = setTimeout(again, Math.max(WATCH_MS, (Date.now() - began) * 2));
  };
  const again = (): void => void (going = round());
  again();
  return {
    async end() {
      clearTimeout(timer);
      await going;
    },
  };
}

async function main(): Promise<void> {
  rememberFor(REMEMBER_MS);
  await landingStore().clearHalves(HALVES_MS);
  for (const [chosen, concurrency] of [
    [jobNames.filter((s) => !slowJobs.includes(s)), config().jobsAtOnce],
    // One document more than pages are looked at: the next begins while the last pages of one are in work.
    [slowJobs, config().looksAtOnce + 1],
  ] as const) {
    const runner = await run({ pgPool: pool(), taskList: tasksOf(chosen), concurrency, noHandleSignals: true, pollInterval: 1000 });
    runner.events.on("worker:create", ({ worker }) => workerIds.add(worker.workerId));
    runner.events.on("job:start", ({ worker }) => workerIds.add(worker.workerId));
    runners.push(runner);
  }
  await beat(name, workerIds);
  const timers = [
    setInterval(() => void beat(name, workerIds).catch((error: unknown) => console.error(`heartbeat: ${describeError(error)}`)), BEAT_MS),
    setInterval(() => void takeUpLost().catch((error: unknown) => console.error(`taking up: ${describeError(error)}`)), BEAT_MS),
    setInterval(() => void sealUnlessMoving().catch((error: unknown) => console.error(`sealing: ${describeError(error)}`)), BEAT_MS),
  ];
  const upkeep = async (): Promise<void> => {
    for (const stage of [
      "verifyStored",
      "fingerprint",
      "enterReferences",
      "releaseLocal",
      "pointers",
      "clearPacks",
      "clearAnalyses",
      "indexWaiting",
      "addUpTallies",
      "seal",
    ] as const)
      await addJob(db(), stage, {}, { key: stage, queue: "upkeep", priority: 3 });
  };
  const learn = (): Promise<void> => addJob(db(), "learnWeights", {}, { key: "learnWeights", queue: "upkeep", priority: 4 });
  timers.push(setInterval(() => void learn().catch((error: unknown) => console.error(`learning: ${describeError(error)}`)), LEARN_MS));
  timers.push(setInterval(() => void upkeep().catch((error: unknown) => console.error(`upkeep: ${describeError(error)}`)), UPKEEP_MS));
  // At once, so that records of an older version of the program are found by their documents from the beginning.
  await addJob(db(), "enterReferences", {}, { key: "enterReferences", queue: "upkeep" });
  const watching = watchRepositories();
  const listening = takeMail();
  const folders = watchFolders();
  const complete = keepCompleteness();
  const stop = async (): Promise<void> => {
    if (stopping) return;
    stopping = true;
    for (const timer of timers) clearInterval(timer);
    await watching.end();
    await listening.end();
    await folders.end();
    await complete.end();
    await Promise.all(runners.map((r) => r.stop()));
    await db()
      .execute(sql`delete from heartbeat where process = ${name}`)
      .catch(() => {});
    await closeDb();
    process.exit(0);
  };
  process.on("SIGTERM", () => void stop());
  process.on("SIGINT", () => void stop());
  console.log("worker ready");
  await Promise.race(runners.map((r) => r.promise));
  // The runner only ends by itself when it cannot go on: whoever started us starts us again.
  if (!stopping) process.exit(1);
}

main().catch((error: unknown) => {
  console.error(`worker could not start: ${describeError(error)}`);
  process.exit(1);
});
