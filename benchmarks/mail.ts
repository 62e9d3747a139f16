import nodemailer from "nodemailer";
import type pg from "pg";
import { print, seconds, short, sized } from "./measure.ts";

/** Messages that are sent, and connections they go over. */
const MESSAGES = sized(600, 8);
const AT_ONCE = 8;
const PART_BYTES = 30_000;

/** Messages with one part each, sent by an ordinary client: how many are taken in a second, each answered only when it is safe. */
export async function benchMail(
  client: pg.Client,
  mail: { readonly host: string; readonly port: number; readonly domain: string },
): Promise<void> {
  const mailer = nodemailer.createTransport({
    host: mail.host,
    port: mail.port,
    ignoreTLS: true,
    pool: true,
    maxConnections: AT_ONCE,
    maxMessages: Infinity,
  });
  const count = async (): Promise<number> =>
    Number(
      (
        await client.query<{ n: string }>(
          "select count(*) as n from arrival where source = 'mail' and parent_id is null and file_name like 'Bench %'",
        )
      ).rows[0]?.n ?? 0,
    );
  const took = await seconds(() =>
    Promise.all(
      Array.from({ length: MESSAGES }, (_, i) =>
        mailer.sendMail({
          from: "bench@merrowick.example",
          to: `general@${mail.domain}`,
          subject: `Bench ${i}`,
          text: "A message with one part.",
          attachments: [{ filename: `part-${i}.txt`, content: `${i} `.repeat(Math.ceil(PART_BYTES / (String(i).length + 1))) }],
        }),
      ),
    ),
  );
  mailer.close();
  print("mail in", {
    messages: MESSAGES,
    atOnce: AT_ONCE,
    seconds: short(took),
    perSecond: short(MESSAGES / took),
    entered: await count(),
  });
}
