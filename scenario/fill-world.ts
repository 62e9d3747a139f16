import { readFile, writeFile } from "node:fs/promises";
import path from "node:path";
import { closeDb } from "#server/db/connect.ts";
import { fillSetUp, isSetUp } from "./set-up/fill-set-up.ts";
import { fillRecords } from "./fill-records.ts";
import { fillPapers } from "./fill-papers.ts";

export interface FillOptions {
  /** False: set-up, people and keys only. */
  readonly withRecords: boolean;
  readonly url: string;
  readonly dataFolder: string;
  readonly say: (line: string) => void;
}

/** Fills the demo world if it is not there. What was begun and broken off is begun anew only with --fresh, since people may have worked in it. */
export async function fillWorld(options: FillOptions): Promise<void> {
  const credentialsFile = path.join(options.dataFolder, "credentials.json");
  const doneFile = path.join(options.dataFolder, "filled");
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
    const isFilled = await readFile(doneFile, "utf8").then(
      () => true,
      () => false,
    );
    if (options.withRecords && !isFilled) {
      options.say("Filling the demo world (once, under two minutes)");
      const world = await fillRecords();
      await fillPapers(world, options.say);
      await writeFile(doneFile, "demo\n");
    }
  } finally {
    await closeDb();
  }
}
