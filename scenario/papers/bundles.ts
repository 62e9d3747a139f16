import { PDFDocument } from "@cantoo/pdf-lib";
import { chance } from "../random.ts";
import { dayAfter } from "../random.ts";
import type { World, WorldRecord } from "../world.ts";
import * as compose from "./compose.ts";
import { drawPdf } from "./draw-pdf.ts";
import { scanPages, scanPdf } from "./draw-scan.ts";
import { layoutOf } from "./filed-papers.ts";

/** Documents one behind the other in one PDF. */
async function together(papers: readonly Uint8Array[]): Promise<Uint8Array> {
  const all = await PDFDocument.create();
  const fixed = new Date("2026-11-19T08:00:00Z");
  all.setCreationDate(fixed);
  all.setModificationDate(fixed);
  for (const paper of papers) {
    const from = await PDFDocument.load(paper);
    for (const page of await all.copyPages(from, from.getPageIndices())) all.addPage(page);
  }
  return all.save();
}

/** A week's documents of several suppliers in one file, as somebody upstairs scans or prints them: invoices with their delivery notes. */
export async function supplierBundle(world: World, from = 34, count = 5): Promise<Uint8Array> {
  const orders = world
    .of("MF", "purchaseOrder")
    .filter((o) => o.status === "received")
    .slice(from, from + count);
  const papers: Uint8Array[] = [];
  for (const [i, order] of orders.entries()) {
    const layout = layoutOf(compose.accountOf(world, order));
    papers.push(await drawPdf(compose.supplierInvoice(world, order, `46-${700 + from + i}`, dayAfter(world.today, -i)), layout));
    if (i % 2 === 0) papers.push(await drawPdf(compose.deliveryNote(world, order, `DN46${from + i}`), layout));
  }
  return together(papers);
}

/** A stack from the sheet feeder, one-sided documents scanned on both sides: before each booking's documents its cover sheet. */
export async function quayStack(
  world: World,
  bookings: readonly { readonly record: WorldRecord; readonly cover: Uint8Array }[],
): Promise<Uint8Array> {
  const pages: Buffer[] = [];
  const blank = await PDFDocument.create();
  blank.addPage([595.28, 841.89]);
  const back = (await scanPages(await blank.save(), chance(8), 1))[0] ?? Buffer.alloc(0);
  for (const [i, { record, cover }] of bookings.entries()) {
    const list = await drawPdf(compose.packingList(world, record, chance(i + 70)), layoutOf(compose.accountOf(world, record)));
    for (const paper of [cover, list]) pages.push(...(await scanPages(paper, chance(i + 21), 1)), back);
  }
  return scanPdf(pages, "2026-11-20");
}

/** Documents for the stand-in scanner's pile, by name: cover sheets with what belongs behind them, and some without. */
export async function pileOfPapers(
  world: World,
  bookings: readonly { readonly record: WorldRecord; readonly cover: Uint8Array }[],
): Promise<readonly (readonly [string, Uint8Array])[]> {
  const papers: (readonly [string, Uint8Array])[] = [];
  for (const [i, { record, cover }] of bookings.entries()) {
    const list = await drawPdf(compose.packingList(world, record, chance(i + 90)), layoutOf(compose.accountOf(world, record)));
    papers.push([`${i + 1}a cover ${record.key}`, cover], [`${i + 1}b packing list ${record.key}`, list]);
  }
  const order = world.of("MF", "purchaseOrder").filter((o) => o.status === "received")[41];
  if (order)
    papers.push([
      "7 delivery note",
      await drawPdf(compose.deliveryNote(world, order, "DN4941"), layoutOf(compose.accountOf(world, order))),
    ]);
  return papers;
}
