import { type ArrivalAnswer, type ArrivalWish, eachRegisterPage } from "../arrivals/list-arrivals.ts";
import type { Actor } from "../people/load-actor.ts";
import { csvOf } from "./csv.ts";

const columns = [
  "number",
  "receivedAt",
  "receivedBy",
  "source",
  "sender",
  "queue",
  "company",
  "fileName",
  "mediaType",
  "pages",
  "bytes",
  "sha256",
  "state",
  "problem",
  "endedAt",
  "endedBy",
  "endReason",
  "document",
  "documentPath",
  "id",
] as const;

/** The register as CSV, streamed page by page. A value that a spreadsheet would run as a formula is written as text. */
export function registerCsv(actor: Actor, wish: ArrivalWish): Response {
  return csvOf("register.csv", columns, rows(actor, wish));
}

async function* rows(actor: Actor, wish: ArrivalWish): AsyncGenerator<Readonly<Record<(typeof columns)[number], unknown>>> {
  for await (const page of eachRegisterPage(actor, wish)) for (const arrival of page) yield flat(arrival);
}

function flat(a: ArrivalAnswer): Readonly<Record<(typeof columns)[number], unknown>> {
  return { ...a, problem: a.problem?.code ?? "" };
}
