import type { AddressInfo } from "node:net";
import { asc } from "drizzle-orm";
import { SMTPServer, type SMTPServerSession } from "smtp-server";
import { allowsSender, type MailTarget, readMailAddress } from "#core/arrivals/mail-in.ts";
import { queue } from "../arrivals/tables.ts";
import { db } from "../db/connect.ts";
import { describeError } from "../db/describe-error.ts";
import { landingStore } from "../ports/adapters.ts";
import { loadLimits, loadQueueLimits } from "../settings/load-settings.ts";
import { takeMessage } from "./take-message.ts";

/** Connections at once; more are asked to come again. */
const CLIENTS_MAX = 100;
/** A sender that is silent for so long is hung up on, ms. */
const QUIET_MS = 60_000;
/** Queues that one message may be sent to. */
const TARGETS_MAX = 50;
/** While listening the size that is announced is looked up again after this, ms. */
const LIMITS_MS = 10_000;

/** A listener for mail (RFC 5321): where it listens, and how to end it. */
export interface MailListener {
  readonly port: number;
  close(): Promise<void>;
}

/** An answer to the sender: 4xx asks to try again later and nothing is lost, 5xx says that it never will do. */
function answer(code: number, text: string): Error {
  return Object.assign(new Error(text), { responseCode: code });
}

/**
 * Listens for mail to the queues' addresses. A message is answered with 250 only after its bytes are on disk and its arrivals are in the register
 * (promise 1); when anything of ours is not well the sender is asked to come again. No relaying: only our own addresses are taken.
 */
export async function listenForMail(options: {
  readonly port: number;
  readonly host: string;
  readonly domain: string;
}): Promise<MailListener> {
  const targets = new WeakMap<SMTPServerSession, MailTarget[]>();
  let limits = await loadLimits();
  const server = new SMTPServer({
    name: options.domain,
    banner: "Amber Clip",
    disabledCommands: ["AUTH", "STARTTLS"],
    authOptional: true,
    size: limits.bytesMax,
    maxClients: CLIENTS_MAX,
    socketTimeout: QUIET_MS,
    closeTimeout: 5000,
    disableReverseLookup: true,
    logger: false,
    onRcptTo(address, session, callback) {
      void reach(address.address, session).then(
        (wrong) => callback(wrong),
        () => callback(answer(451, "try again later")),
      );
    },
    onData(stream, session, callback) {
      const mine = targets.get(session) ?? [];
      targets.delete(session);
      const from = session.envelope.mailFrom === false ? "" : session.envelope.mailFrom.address;
      void (async () => {
        // A message to several queues is taken in by all of them or by none.
        const own = await loadQueueLimits();
        const bytesMax = Math.min(limits.bytesMax, ...mine.map((t) => own.get(t.queue)?.bytesMax ?? limits.bytesMax));
        const kept = await landingStore().keep(stream, bytesMax);
        if (!kept.ok) {
          // The rest of a message that is refused is still read to its end, so that the sender hears why.
          stream.resume();
          return kept.refusal.code === "too-large"
            ? answer(552, `larger than the ${Math.floor(bytesMax / 1024 / 1024)} MB allowed`)
            : answer(452, "no storage space, try again later");
        }
        const taken = await takeMessage({ from, targets: mine }, kept.value);
        return taken.ok ? null : answer(451, "try again later");
      })().then(
        (wrong) => callback(wrong),
        (error: unknown) => {
          console.error(`mail in: ${describeError(error)}`);
          stream.resume();
          callback(answer(451, "try again later"));
        },
      );
    },
  });
  async function reach(address: string, session: SMTPServerSession): Promise<Error | null> {
    const queues = await db().select().from(queue).orderBy(asc(queue.order));
    const target = readMailAddress(
      address,
      options.domain,
      queues.map((q) => q.key),
    );
    const of = queues.find((q) => q.key === target?.queue);
    if (!target || !of) return answer(550, "unknown address");
    const from = session.envelope.mailFrom === false ? "" : session.envelope.mailFrom.address;
    if (!allowsSender(of.mailSenders, from)) return answer(550, "this address accepts known senders only");
    // What a session said for a message that was given up on (RSET) does not count for the next one.
    const mine = session.envelope.rcptTo.length === 0 ? [] : (targets.get(session) ?? []);
    if (mine.length >= TARGETS_MAX) return answer(452, "too many addresses at once");
    if (!mine.some((t) => t.queue === target.queue)) mine.push(target);
    targets.set(session, mine);
    return null;
  }
  // A connection that breaks off is the sender's affair; it comes again.
  server.on("error", (error) => console.error(`mail in: ${describeError(error)}`));
  await new Promise<void>((resolve, reject) => {
    server.server.once("error", reject);
    server.listen(options.port, options.host, resolve);
  });
  const refresh = setInterval(() => {
    loadLimits().then(
      (now) => {
        limits = now;
        server.options.size = now.bytesMax;
      },
      () => {},
    );
  }, LIMITS_MS);
  return {
    port: (server.server.address() as AddressInfo).port,
    async close() {
      clearInterval(refresh);
      await new Promise<void>((resolve) => server.close(() => resolve()));
    },
  };
}
