import pg from "pg";
import { describeError } from "../db/describe-error.ts";
import { config } from "../settings/config.ts";
import { markLapsing, refreshAllMarked } from "./refresh-completeness.ts";

/** Without a word from the database marks are looked for so often, ms; also how soon a new day is noticed. */
const LOOK_MS = 5000;
/** A lost line is taken up again after this, ms. */
const AGAIN_MS = 1000;

/**
 * Keeps completeness up to date: the database says when something was marked, and it is worked off at once; in between and at midnight it is looked for.
 * Any number of workers may do so.
 */
export function keepCompleteness(): { readonly end: () => Promise<void> } {
  let [isEnding, isWanted] = [false, true];
  let line: pg.Client | null = null;
  let going: Promise<void> | null = null;
  const work = async (): Promise<void> => {
    while (isWanted && !isEnding) {
      isWanted = false;
      try {
        await refreshAllMarked();
      } catch (error) {
        console.error(`completeness: ${describeError(error)}`);
      }
    }
    going = null;
  };
  const want = (): void => {
    isWanted = true;
    going ??= work();
  };
  const listen = async (): Promise<void> => {
    if (isEnding) return;
    // A line of its own: one from the pool could not be kept for listening.
    const client = new pg.Client({ connectionString: config().databaseUrl });
    client.on("notification", want);
    client.on("error", () => {});
    client.on("end", () => {
      if (line === client) line = null;
      if (!isEnding) setTimeout(() => void listen(), AGAIN_MS).unref();
    });
    try {
      await client.connect();
      await client.query("listen completeness");
      line = client;
      want();
    } catch {
      await client.end().catch(() => {});
    }
  };
  let isLooking = false;
  const look = async (): Promise<void> => {
    // One that takes long is not joined by another every few seconds.
    if (isLooking) return;
    isLooking = true;
    try {
      await markLapsing();
    } catch (error) {
      console.error(`completeness: ${describeError(error)}`);
    }
    isLooking = false;
    want();
  };
  void listen();
  void look();
  const timer = setInterval(() => void look(), LOOK_MS);
  return {
    async end() {
      isEnding = true;
      clearInterval(timer);
      await going;
      await line?.end().catch(() => {});
    },
  };
}
