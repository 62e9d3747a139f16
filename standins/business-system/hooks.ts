import { createHmac } from "node:crypto";
import type pg from "pg";

/** Until an answer has to be there, ms. */
const ANSWER_MS = 10_000;
/** Waits between tries: a second, two, four … up to this, seconds. */
const WAIT_MAX_SECONDS = 30;
/** How often it is looked whether something is to be told, ms. */
const LOOK_MS = 250;

/**
 * Delivers events to the web hook, in order, each until it was taken: signed with HMAC-SHA256 over time and body, the id with it so that the receiver
 * can tell a repeat. One that is refused for good (4xx but for 408 and 429) is given up on, and said on the events page.
 */
export function deliverEvents(pool: pg.Pool): { readonly stop: () => void } {
  let timer: NodeJS.Timeout | undefined;
  let stopped = false;
  const round = async (): Promise<void> => {
    const hook = (await pool.query<{ url: string; secret: string }>("select url, secret from hook limit 1")).rows[0];
    const next = hook
      ? (
          await pool.query<{ id: string; payload: unknown; attempts: number; due: boolean }>(
            "select id, payload, attempts, due_at <= now() as due from event where delivered_at is null order by number limit 1",
          )
        ).rows[0]
      : undefined;
    if (!hook || !next?.due) return;
    const body = JSON.stringify({ id: next.id, ...(next.payload as object) });
    const at = String(Math.floor(Date.now() / 1000));
    const signature = createHmac("sha256", hook.secret).update(`${at}.${body}`).digest("hex");
    const problem = await fetch(hook.url, {
      method: "POST",
      headers: {
        "content-type": "application/json",
        "x-event-id": next.id,
        "x-event-time": at,
        "x-event-signature": `sha256=${signature}`,
      },
      body,
      signal: AbortSignal.timeout(ANSWER_MS),
    }).then(
      async (r) =>
        r.ok
          ? null
          : {
              final: r.status >= 400 && r.status < 500 && r.status !== 408 && r.status !== 429,
              text: `${r.status} ${(await r.text()).slice(0, 300)}`,
            },
      (error: unknown) => ({ final: false, text: error instanceof Error ? error.message : String(error) }),
    );
    if (!problem)
      await pool.query("update event set delivered_at = now(), attempts = attempts + 1, problem = null where id = $1", [next.id]);
    else
      await pool.query(
        "update event set attempts = attempts + 1, problem = $2, due_at = now() + least($4, 2 ^ least(attempts, 10)) * interval '1 second', delivered_at = case when $3 then now() end where id = $1",
        [next.id, problem.text, problem.final, WAIT_MAX_SECONDS],
      );
    if (!problem && !stopped) await round();
  };
  const again = (): void => {
    round()
      .catch((error: unknown) => console.error(`telling: ${error instanceof Error ? error.message : String(error)}`))
      .finally(() => {
        if (!stopped) timer = setTimeout(again, LOOK_MS);
      });
  };
  again();
  return {
    stop() {
      stopped = true;
      clearTimeout(timer);
    },
  };
}
