import { eq } from "drizzle-orm";
import { contentKinds } from "#core/arrivals/limits.ts";
import { textOfWords } from "#core/pages/page-text.ts";
import { addTurns, type Quarter, turnBox } from "#core/pages/turn-box.ts";
import type { Tx } from "../db/connect.ts";
import { content, contentPage } from "../documents/tables.ts";
import { keepPrint } from "../matching/keep-print.ts";
import { now } from "../ports/clock.ts";
import type { Landed } from "../ports/landing-store.ts";
import { keptBody } from "../reading/read-outcome.ts";
import { keptWords, type PageRow } from "../reading/page-rows.ts";

/** Rows written in one statement. */
const AT_ONCE = 200;

/**
 * Enters a file that the bench made, with what is known of its pages from where they came from, turned as they were: nothing has to be read again.
 * Answers whether that is all there is to know; when a page was not looked at yet, the file is read like any other.
 */
export async function keepPages(
  tx: Tx,
  landed: Landed,
  pages: readonly { readonly row: PageRow | undefined; readonly turn: Quarter }[],
): Promise<boolean> {
  const made = await tx
    .insert(content)
    .values({ sha256: landed.sha256, sizeBytes: landed.sizeBytes })
    .onConflictDoNothing()
    .returning({ sha256: content.sha256 });
  if (!made[0]) {
    const known = (
      await tx.select({ state: content.state, looked: content.looked }).from(content).where(eq(content.sha256, landed.sha256))
    )[0];
    return known?.state === "read" && known.looked === "yes";
  }
  const known = pages.flatMap((p) => (p.row?.isLooked ? [{ row: p.row, turn: p.turn }] : []));
  if (known.length < pages.length) return false;
  const turned = known.map(({ row, turn }) => turnRow(row, turn));
  for (let at = 0; at < turned.length; at += AT_ONCE)
    await tx
      .insert(contentPage)
      .values(turned.slice(at, at + AT_ONCE).map((row, i) => ({ sha256: landed.sha256, ...row, number: at + i + 1 })));
  const { body } = keptBody(known.map(({ row }) => textOfWords(row.words)).join("\n\f\n"));
  await tx
    .update(content)
    .set({ kind: "pdf", mediaType: contentKinds.pdf.mediaType, state: "read", pages: pages.length, body, readAt: now(), looked: "yes" })
    .where(eq(content.sha256, landed.sha256));
  await keepPrint(tx, landed.sha256);
  return true;
}

function turnRow(row: PageRow, turn: Quarter) {
  const sideways = turn === 90 || turn === 270;
  const moved = (box: PageRow["words"][number]["box"]) => turnBox(box, turn, row.widthPoints, row.heightPoints);
  return {
    widthPoints: sideways ? row.heightPoints : row.widthPoints,
    heightPoints: sideways ? row.widthPoints : row.heightPoints,
    words: keptWords(turn === 0 ? row.words : row.words.map((w) => ({ text: w.text, box: moved(w.box) }))),
    wordsFrom: row.wordsFrom ?? "none",
    ink: row.ink ?? -1,
    codes: row.codes.map((c) => ({ ...c, box: moved(c.box) })),
    turn: addTurns(row.turn, -turn),
    slant: row.slant,
    print: turn === 0 ? row.print : null,
  };
}
