import { mkdtemp, rm, writeFile } from "node:fs/promises";
import os from "node:os";
import path from "node:path";
import sharp from "sharp";
import { findSlant } from "#core/pages/find-skew.ts";
import type { Grey } from "#core/pages/grey.ts";
import type { Word } from "#core/pages/page-text.ts";
import { inRowOrder } from "#core/pages/row-order.ts";
import { addTurns, type Quarter, slantBox, turnBox } from "#core/pages/turn-box.ts";
import { addUnread, stackUp, surest, unreadPrint } from "#core/pages/unread-print.ts";
import { config } from "../settings/config.ts";
import { LOOK_DPI } from "./page-raster.ts";
import { runTool } from "./run-tool.ts";
import { readTable } from "./word-reader.ts";

/** Longest time for the words of one page, ms. */
const TIMEOUT_MS = 120_000;
const STDOUT_MAX = 16 * 1024 * 1024;
/** Words that the reader itself is less sure of are dirt, percent. */
const SURE_FROM = 35;
/** Words of the first reading that are less sure than this are read again by themselves, numbers sooner, percent: one in a box is often read wrong among others. */
const FIRM_NUMBER = 80;
const FIRM_WORD = 50;
/** With its words surer than this on average a page stands upright, percent. */
const UPRIGHT_FROM = 60;
/** Below so many words there is nothing to judge by. */
const JUDGED_FROM = 8;
/** How tesseract looks for print: as one column of lines of different sizes, or as lines one below the other. */
const COLUMNS = "4";
const LINES = "6";
/** A slant smaller than this does the reader no harm, degrees; straightening costs it a tenth of its time. */
const SLANT_FROM = 1;

/** What was read off a page's picture. Boxes are in dots of the picture as it was given. */
export interface ReadWords {
  readonly words: readonly Word[];
  /** Degrees clockwise that the page has to be turned to stand upright. */
  readonly turn: Quarter;
  /** Degrees that its lines run down to the right, once it stands upright. */
  readonly slant: number;
}

/**
 * Reads the words off a page's picture. A slant is found first and put right before; that it lies on its side or upside down shows in that nothing
 * sensible is read: then its letters are asked, and it is turned. Throws AppError `reader-missing` when tesseract is not installed.
 */
export async function readWords(grey: Grey): Promise<ReadWords> {
  const folder = await mkdtemp(path.join(os.tmpdir(), "amber-words-"));
  try {
    const slant = findSlant(grey);
    const readAt = async (turn: Quarter): Promise<ReadTurned> => {
      const degrees = isOnItsSide(turn) ? slant.onItsSide : slant.upright;
      return { ...(await readTurned(grey, turn, degrees, folder)), turn, slant: degrees };
    };
    // As it is first, also where its lines seem to run down the page: a table seems so, and to ask the letters takes longer than to read them.
    let read = await readAt(0);
    const isDoubtful = (): boolean => needsAnotherLook(read) || (slant.sideways && read.count < JUDGED_FROM);
    if (isDoubtful()) {
      const told = await uprightTurn(grey, folder);
      const others: readonly Quarter[] =
        slant.sideways && !isOnItsSide(told ?? 0) ? [90, 270] : told === null ? [] : [told, addTurns(told, 180)];
      for (const turn of others) {
        if (turn === 0 || !isDoubtful()) continue;
        const again = await readAt(turn);
        if (again.weight > read.weight) read = again;
      }
    }
    return { words: read.words, turn: read.turn, slant: read.slant };
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

const isOnItsSide = (turn: Quarter): boolean => turn === 90 || turn === 270;

interface ReadTurned extends ReadOnce {
  readonly turn: Quarter;
  readonly slant: number;
}

interface ReadOnce {
  readonly words: readonly Word[];
  /** All that was read, sure or not, and how sure that is on average. */
  readonly count: number;
  readonly average: number;
  /** Letters times how sure they are; the better of two readings has more. */
  readonly weight: number;
}

function needsAnotherLook(read: ReadOnce): boolean {
  return read.count >= JUDGED_FROM && read.average < UPRIGHT_FROM;
}

/** Turns the picture, straightens it, reads it, and brings the boxes back to the picture as it was. */
async function readTurned(grey: Grey, turn: Quarter, slant: number, folder: string): Promise<ReadOnce> {
  const upright = turn === 0 ? grey : await turnGrey(grey, turn);
  const straight = Math.abs(slant) < SLANT_FROM ? upright : await turnGrey(upright, -slant);
  const file = path.join(folder, "page.pgm");
  await writePgm(straight, file);
  // By columns first, which keeps numbers whole; what stands alone is lost that way, such as a number in a box, and is read by itself.
  const found = await readPgm(file, COLUMNS, config().languages);
  // Upside down most of what is read is nonsense: all of it counts for judging, only what is sure is kept.
  const sum = found.reduce((all, w) => all + w.sure, 0);
  const sure = found.filter(isSure);
  const firm = sure.filter((w) => w.sure >= (/\d/.test(w.text) ? FIRM_NUMBER : FIRM_WORD));
  const alone = await readAlone(straight, firm, folder);
  const words = inRowOrder(
    addUnread(
      firm,
      surest(
        alone,
        sure.filter((w) => !firm.includes(w)),
      ),
    ),
  ).map((w) => {
    const onUpright = straight === upright ? w.box : slantBox(w.box, slant, straight, upright);
    return { text: w.text, box: turnBox(onUpright, addTurns(0, -turn), upright.width, upright.height) };
  });
  return {
    words,
    count: found.length,
    average: found.length === 0 ? 0 : sum / found.length,
    weight: sure.reduce((all, w) => all + w.sure * w.text.length, 0),
  };
}

const isSure = (word: Word & { readonly sure: number }): boolean => word.sure >= SURE_FROM && /[\p{L}\p{N}]/u.test(word.text);

/** What looks like print on a page and was not read, piece by piece, wherever it stands. Mostly numbers: one language will do, and is there in a third of the time. */
async function readAlone(grey: Grey, read: readonly Word[], folder: string): Promise<ReturnType<typeof parseTsv>> {
  const boxes = unreadPrint(
    grey,
    read.map((w) => w.box),
  );
  if (boxes.length === 0) return [];
  const stack = stackUp(grey, boxes);
  const file = path.join(folder, "alone.pgm");
  await writePgm(stack.grey, file);
  const found = await readPgm(file, LINES, config().languages.split("+")[0] ?? "eng");
  return found.filter(isSure).flatMap((w) => {
    const box = stack.toPage(w.box);
    return box ? [{ ...w, box }] : [];
  });
}

async function readPgm(file: string, segmentation: string, languages: string): Promise<ReturnType<typeof parseTsv>> {
  return parseTsv(await readTable(file, { languages, segmentation, dpi: LOOK_DPI }, { timeoutMs: TIMEOUT_MS, stdoutMax: STDOUT_MAX }));
}

/** How the page has to be turned to stand upright, as its letters say; null when they say nothing. */
async function uprightTurn(grey: Grey, folder: string): Promise<Quarter | null> {
  const file = path.join(folder, "turn.pgm");
  await writePgm(grey, file);
  const told = await runTool(
    "tesseract",
    [file, "stdout", "--psm", "0", "--dpi", String(LOOK_DPI)],
    { timeoutMs: TIMEOUT_MS, stdoutMax: STDOUT_MAX },
    { gently: true },
  );
  const turn = Number(/^Rotate: (\d+)/m.exec(told.stdout.toString("utf8"))?.[1] ?? Number.NaN);
  return turn === 0 || turn === 90 || turn === 180 || turn === 270 ? turn : null;
}

async function turnGrey(grey: Grey, degrees: number): Promise<Grey> {
  const { data, info } = await sharp(grey.data, { raw: { width: grey.width, height: grey.height, channels: 1 } })
    .rotate(degrees, { background: "#ffffff" })
    .toColourspace("b-w")
    .raw()
    .toBuffer({ resolveWithObject: true });
  if (info.channels === 1) return { width: info.width, height: info.height, data: new Uint8Array(data) };
  const first = new Uint8Array(info.width * info.height);
  for (let i = 0; i < first.length; i++) first[i] = data[i * info.channels] ?? 255;
  return { width: info.width, height: info.height, data: first };
}

async function writePgm(grey: Grey, file: string): Promise<void> {
  await writeFile(file, Buffer.concat([Buffer.from(`P5\n${grey.width} ${grey.height}\n255\n`, "latin1"), grey.data]));
}

/** Words of tesseract's table, each with how sure it is, percent. Lines and blocks are left out. */
export function parseTsv(table: string): readonly (Word & { readonly sure: number })[] {
  const words: (Word & { sure: number })[] = [];
  for (const line of table.split("\n")) {
    const cells = line.split("\t");
    if (cells[0] !== "5") continue;
    const [left, top, width, height, sure] = [6, 7, 8, 9, 10].map((i) => Number(cells[i]));
    const text = (cells[11] ?? "").replaceAll("\0", "").trim();
    if (left === undefined || top === undefined || width === undefined || height === undefined || sure === undefined) continue;
    if (![left, top, width, height, sure].every(Number.isFinite) || sure < 0 || text === "") continue;
    words.push({ text, box: [left, top, width, height], sure });
  }
  return words;
}
