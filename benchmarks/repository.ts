import { execFile } from "node:child_process";
import { mkdirSync } from "node:fs";
import { rename, rm } from "node:fs/promises";
import path from "node:path";
import { promisify } from "node:util";
import type pg from "pg";
import type { StandIns } from "#ops/instance.ts";
import type { Call } from "./call.ts";
import { benchCarrying } from "./carrying.ts";
import { fillPlaced } from "./fill-placed.ts";
import { nothingWaits, print, seconds, short, stolenSeconds, sized } from "./measure.ts";

const run = promisify(execFile);
const pause = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));

interface Plan {
  readonly state: string;
  readonly steps: number;
  readonly documents: number;
  readonly done: number;
  readonly endedAt: string | null;
}

/** A changed rule over many placed documents: drawing, moving against bare renames, looking through against find; and what WebDAV and S3 cost above their bare clients. */
export async function benchRepository(
  call: Call,
  client: pg.Client,
  dataFolder: string,
  standIns: StandIns,
  documents: number,
): Promise<void> {
  const folders = Math.round(documents / 5);
  // Not watched meanwhile: files that are there before their rows would be taken for somebody else's, one by one.
  const watch = (isWatched: boolean) =>
    client.query(
      "update connection set options = jsonb_set(options, '{isWatched}', $1::jsonb), changed_at = clock_timestamp() where key = 'companyFolders'",
      [String(isWatched)],
    );
  await watch(false);
  await fillPlaced(client, path.join(dataFolder, "repository"), folders);
  await watch(true);
  const rules = await call.get<{ rules: { recordType: string; version: number; rule: Record<string, unknown> }[] }>("/folder-rules");
  const now = rules.rules.find((r) => r.recordType === "freightBooking");
  if (!now) throw new Error("no rule");
  const rule = { ...now.rule, rootFolder: "Freight" };
  const preview = await seconds(() => call.post("/folder-rules/freightBooking/preview", { rule, sample: "odd", seed: 1 }));
  // Four times as many that have no folder yet: the preview looks at every record of the type.
  await client.query(
    `insert into record (company, type, key, title, date, fields, key_folded, title_folded, lookup_text) select 'MF', 'freightBooking', 'BX-' || g, 'Booking ' || g, date '2020-01-01',
       jsonb_build_object('sailingDate', '2020-01-01'), 'bx' || g, 'booking ' || g, 'booking ' || g from generate_series(1, $1::int) g`,
    [folders * 4],
  );
  await client.query("analyze record");
  await nothingWaits(client);
  const many: number[] = [];
  const stolenBefore = await stolenSeconds();
  for (let i = 0; i < PREVIEWS; i++)
    many.push(await seconds(() => call.post("/folder-rules/freightBooking/preview", { rule, sample: "odd", seed: 1 })));
  print("previewing a rule", {
    records: folders * 5,
    seconds: short(median(many)),
    each: many.map(short),
    stolenSeconds: short((await stolenSeconds()) - stolenBefore),
    recordsOfFirst: folders,
    secondsOfFirst: short(preview),
  });
  // Looked through twice first: the first time everything is compared, from then on only what changed.
  const scan = async (): Promise<number> => {
    await client.query("update connection set scanned_at = null where key = 'companyFolders'");
    for (;;) {
      const { rows } = await client.query<{ scanned: { tookMs: number; files: number } | null; at: Date | null }>(
        "select scanned, scanned_at as at from connection where key = 'companyFolders'",
      );
      if (rows[0]?.at && rows[0].scanned && rows[0].scanned.files >= documents) return rows[0].scanned.tookMs / 1000;
      await pause(200);
    }
  };
  await scan();
  await scan();
  const looked: number[] = [];
  const bare: number[] = [];
  for (let i = 0; i < 3; i++) {
    bare.push(
      await seconds(() =>
        run("find", [path.join(dataFolder, "repository"), "-type", "f", "-printf", "%P\\0%s\\0%T@\\n"], { maxBuffer: 1 << 30 }),
      ),
    );
    looked.push(await scan());
  }
  print("looking a repository through that did not change", {
    files: documents,
    folders,
    seconds: short(median(looked)),
    findSeconds: short(median(bare)),
    ratio: short(median(looked) / median(bare)),
  });

  // There, back and there again: one alone says little on a machine that is now faster, now slower.
  const moves: Moved[] = [];
  for (let round = 0; round < MOVE_ROUNDS; round++)
    moves.push(await benchMoves(call, client, dataFolder, round % 2 === 0 ? "Freight" : now.rule["rootFolder"]));
  const [first] = moves;
  print("drawing a plan", {
    documents: first?.documents,
    moves: first?.steps,
    previewSeconds: short(preview),
    firstPageSeconds: short(first?.firstPage ?? 0),
    seconds: short(first?.drawn ?? 0),
  });
  print("moving on disk", {
    moves: first?.steps,
    seconds: short(median(moves.map((m) => m.moving))),
    bareRenamesSeconds: short(median(moves.map((m) => m.renames))),
    speedOfBare: short(median(moves.map((m) => m.renames / m.moving))),
    each: moves.map((m) => short(m.renames / m.moving)),
    stolenSeconds: moves.map((m) => short(m.stolen)),
  });

  await benchCarrying(dataFolder, standIns);
}

const median = (values: readonly number[]): number => [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)] ?? 0;
/** Times that a rule is previewed on all records: the first ones meet code that this process has hardly run yet. */
const PREVIEWS = sized(5, 1);
/** Times that all is moved. */
const MOVE_ROUNDS = sized(3, 1);
/** How often somebody looks how far a plan is, ms: more seldom than its page does, and each look takes from what is measured. */
const LOOK_MS = 300;

/** What drawing and moving took, seconds. */
interface Moved {
  readonly documents: number;
  readonly steps: number;
  readonly firstPage: number;
  readonly drawn: number;
  readonly renames: number;
  readonly moving: number;
  /** Taken by other machines while it was moved. */
  readonly stolen: number;
}

/** Gives the record type another root folder: draws the plan, does the same renames bare on a copy, and carries the plan out. */
async function benchMoves(call: Call, client: pg.Client, dataFolder: string, rootFolder: unknown): Promise<Moved> {
  const { rules } = await call.get<{ rules: { recordType: string; version: number; rule: Record<string, unknown> }[] }>("/folder-rules");
  const now = rules.find((r) => r.recordType === "freightBooking");
  const began = performance.now();
  const { id } = await call.post<{ id: string }>("/move-plans", {
    recordType: "freightBooking",
    rule: { ...now?.rule, rootFolder },
    version: now?.version,
  });
  let firstPage = 0;
  let plan: Plan;
  for (;;) {
    plan = await call.get<Plan>(`/move-plans/${id}`);
    if (firstPage === 0 && plan.steps > 0) {
      await call.get(`/move-plans/${id}/steps?limit=100`);
      firstPage = (performance.now() - began) / 1000;
    }
    if (plan.state !== "drawing") break;
    await pause(50);
  }
  const drawn = (performance.now() - began) / 1000;
  // The same list of renames, bare, on a copy of the folders beside it.
  const list = (
    await client.query<{ a: string; b: string }>(
      "select from_path as a, to_path as b from move_step where plan_id = $1 order by position",
      [id],
    )
  ).rows;
  const copy = path.join(dataFolder, "bare");
  for (const { a, b } of list) {
    mkdirSync(path.join(copy, a), { recursive: true });
    mkdirSync(path.dirname(path.join(copy, b)), { recursive: true });
  }
  const renames = await seconds(async () => {
    for (const { a, b } of list) await rename(path.join(copy, a), path.join(copy, b));
  });
  await rm(copy, { recursive: true, force: true });
  // Ours flushes what it moves: not what these, which flush nothing, have left behind.
  await run("sync", []);
  const stolenBefore = await stolenSeconds();
  const startedAt = Date.now();
  await call.post(`/move-plans/${id}/start`, {});
  do {
    await pause(LOOK_MS);
    plan = await call.get<Plan>(`/move-plans/${id}`);
  } while (plan.endedAt === null);
  // From the press to the end that the plan itself says, by the same clock.
  const moving = (Date.parse(plan.endedAt) - startedAt) / 1000;
  return {
    documents: plan.documents,
    steps: plan.steps,
    firstPage,
    drawn,
    renames,
    moving,
    stolen: (await stolenSeconds()) - stolenBefore,
  };
}
