import { existsSync } from "node:fs";
import { readFile, writeFile } from "node:fs/promises";
import path from "node:path";
import { closeDb } from "#server/db/connect.ts";
import { fillSetUp, isSetUp } from "./set-up/fill-set-up.ts";
import { fillRecords } from "./fill-records.ts";
import { withoutJobs } from "#server/jobs/add-job.ts";
import { type DemoPapers, demoPapers, fillPapers, queueLooks } from "./fill-papers.ts";
import { makeWorld, type World } from "./world.ts";

/** File of the data folder that says the world is there. */
const DONE = "filled";

export interface FillOptions {
  /** False: set-up, people and keys only. */
  readonly withRecords: boolean;
  readonly url: string;
  readonly dataFolder: string;
  readonly say: (line: string) => void;
  /** The world as it was begun while the database started. */
  readonly begun?: BegunWorld | undefined;
}

/** A world whose documents are being drawn. */
export interface BegunWorld {
  readonly world: World;
  readonly papers: DemoPapers;
  readonly endDrawing: () => void;
}

/** Composes the world and starts drawing its documents, which needs no database; of the filed ones every nth. */
export function beginWorld(every = 1): BegunWorld {
  const world = makeWorld();
  const papers = demoPapers(world, every);
  return { world, papers, endDrawing: papers.beginDrawing() };
}

/** Whether the demo world stands in a data folder. */
export const isFilled = (dataFolder: string): boolean => existsSync(path.join(dataFolder, DONE));

/** Fills the demo world if it is not there. What was begun and broken off is begun again only with --fresh, since people may have worked in it. */
export async function fillWorld(options: FillOptions): Promise<void> {
  const credentialsFile = path.join(options.dataFolder, "credentials.json");
  try {
    if (!(await isSetUp())) {
      const credentials = await fillSetUp(options.url);
      await writeFile(credentialsFile, JSON.stringify(credentials, null, 2), { mode: 0o600 });
    } else {
      // The port may be another one than last time.
      const known = JSON.parse(await readFile(credentialsFile, "utf8")) as Record<string, unknown>;
      if (known["url"] !== options.url)
        await writeFile(credentialsFile, JSON.stringify({ ...known, url: options.url }, null, 2), { mode: 0o600 });
    }
    if (options.withRecords && !isFilled(options.dataFolder)) {
      options.say("Filling the demo world (once, under two minutes)");
      const { world, papers, endDrawing } = options.begun ?? beginWorld();
      await withoutJobs(async () => {
        await fillRecords(world);
        endDrawing();
        await fillPapers(world, papers, options.say);
      });
      await queueLooks();
      await writeFile(path.join(options.dataFolder, DONE), "demo\n");
    }
  } finally {
    await closeDb();
  }
}
