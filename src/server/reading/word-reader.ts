import { type ChildProcess, spawn } from "node:child_process";
import { readFile, writeFile } from "node:fs/promises";
import path from "node:path";
import { setInterval } from "node:timers";
import { AppError } from "../ports/app-error.ts";
import { fenced, saysMissing, toolEnvironment } from "./run-tool.ts";

/** How words are read off a picture: languages, and how print is looked for (tesseract's page segmentation). */
export interface ReadHow {
  readonly languages: string;
  readonly segmentation: string;
  /** Dots an inch of the picture. */
  readonly dpi: number;
}

/** What one page may take: time of computing, and as many times as long on the clock; bytes of what is printed. */
export interface ReadLimits {
  readonly timeoutMs: number;
  readonly stdoutMax: number;
}

/**
 * A process reads so many pages before another takes its place: what it has grown by goes with it. One that has nothing to read ends after a while, ms:
 * it holds up to two hundred megabytes. Tests make them smaller.
 */
export const readerLife = { pagesMax: 100, idleMs: 10_000 };
/** What may pass on the clock, as a multiple of what may be computed: others compute too. */
const CLOCK = 4;
/** How often it is looked at what a page has taken, ms. */
const LOOK_MS = 2000;
/** Characters of what a process says went wrong that are kept. */
const STDERR_MAX = 4000;
/** Side of the picture without words that is put behind each page, dots: when it is told of, all of the page has been. */
const MARK_SIDE = 32;

/** A process that reads page after page; null: it ended over this one. */
interface Reader {
  read(file: string, limits: ReadLimits): Promise<string | null>;
  end(): void;
}

const idle = new Map<string, { readonly reader: Reader; readonly pages: number; readonly ends: NodeJS.Timeout }[]>();

/**
 * Tesseract's table of words for a picture file. A process stays for the next page: to load what it knows of three languages takes it as long as to read
 * a page (decision 0037). Never fails for what stands on a page: one over which the process ends, or that takes too long, has no words. Throws AppError
 * `reader-missing` when tesseract is not installed.
 */
export async function readTable(file: string, how: ReadHow, limits: ReadLimits): Promise<string> {
  const mark = path.join(path.dirname(file), "mark.pgm");
  const marked = writeFile(
    mark,
    Buffer.concat([Buffer.from(`P5\n${MARK_SIDE} ${MARK_SIDE}\n255\n`, "latin1"), Buffer.alloc(MARK_SIDE ** 2, 255)]),
  );
  const key = JSON.stringify(how);
  for (;;) {
    const kept = idle.get(key)?.pop();
    if (kept) clearTimeout(kept.ends);
    const reader = kept?.reader ?? startReader(how);
    const pages = (kept?.pages ?? 0) + 1;
    // Taken before anything is waited for: two who ask at the same moment are given two.
    const told = await marked.then(
      () => reader.read(file, limits),
      (error: unknown) => {
        reader.end();
        throw error;
      },
    );
    if (told !== null) {
      if (pages >= readerLife.pagesMax) reader.end();
      else keep(key, reader, pages);
      return told;
    }
    // It may have ended over what it had read before, or while nobody asked: a new one is asked.
    if (!kept) return "";
  }
}

function keep(key: string, reader: Reader, pages: number): void {
  const all = idle.get(key) ?? [];
  idle.set(key, all);
  const ends = setTimeout(() => {
    all.splice(
      all.findIndex((k) => k.reader === reader),
      1,
    );
    reader.end();
  }, readerLife.idleMs);
  ends.unref();
  all.push({ reader, pages, ends });
}

function startReader(how: ReadHow): Reader {
  // The paths of pictures come line by line, and what was read is told at once and not when there is much of it.
  const args = [
    "-oL",
    "tesseract",
    "stdin",
    "stdout",
    "-c",
    "stream_filelist=1",
    "-l",
    how.languages,
    "--dpi",
    String(how.dpi),
    "--psm",
    how.segmentation,
  ];
  const { command, args: all } = fenced("stdbuf", [...args, "tsv"], { gently: true });
  const child = spawn(command, all, { stdio: ["pipe", "pipe", "pipe"], env: toolEnvironment() });
  let stderr = "";
  let ended: { readonly exitCode: number | null; readonly failed: string | null } | null = null;
  let asked: { readonly line: (line: string) => void; readonly gone: () => void } | null = null;
  let rest = "";
  child.stdout.setEncoding("utf8").on("data", (piece: string) => {
    const lines = (rest + piece).split("\n");
    rest = lines.pop() ?? "";
    for (const line of lines) asked?.line(line);
  });
  child.stderr.setEncoding("utf8").on("data", (piece: string) => {
    if (stderr.length < STDERR_MAX) stderr += piece;
  });
  // A process that is gone takes nothing more; that it is gone is told below.
  child.stdin.on("error", () => {});
  const gone = (exitCode: number | null, failed: string | null): void => {
    ended ??= { exitCode, failed };
    asked?.gone();
  };
  child.on("error", (error: NodeJS.ErrnoException) => gone(null, error.code ?? "unknown"));
  // What it has started may hold its pipes open beyond its end.
  child.on("exit", (_, signal) => signal !== null && gone(null, null));
  child.on("close", (exitCode) => gone(exitCode, null));
  hold(child, false);
  return {
    read: (file, limits) =>
      new Promise((answer, fail) => {
        const lines: string[] = [];
        let [pages, bytes] = [0, 0];
        const done = (act: () => void): void => {
          asked = null;
          clearInterval(looks);
          hold(child, false);
          act();
        };
        const over = (): void =>
          done(() => {
            if (ended?.failed === "ENOENT" || saysMissing({ exitCode: ended?.exitCode ?? null, stderr }))
              fail(new AppError("reader-missing", "never", "tesseract is not installed"));
            else if (ended?.failed) fail(new AppError("reader-failed", "later", `tesseract could not be started: ${ended.failed}`));
            else answer(null);
          });
        const began = Date.now();
        const before = computedMs(child);
        const analysePages = async (): Promise<void> => {
          const took = ((await computedMs(child)) ?? 0) - ((await before) ?? 0);
          if (took > limits.timeoutMs || Date.now() - began > limits.timeoutMs * CLOCK) child.kill("SIGKILL");
        };
        const looks = setInterval(() => void analysePages(), Math.min(LOOK_MS, limits.timeoutMs));
        asked = {
          line(line) {
            // A line of level 1 begins a page: the second one begins the mark's.
            if (line.startsWith("1\t")) pages++;
            lines.push(line);
            bytes += line.length;
            if (bytes > limits.stdoutMax) child.kill("SIGKILL");
            else if (pages === 2) done(() => answer(lines.join("\n")));
          },
          gone: over,
        };
        if (ended) return over();
        hold(child, true);
        child.stdin.write(`${file}\n${path.join(path.dirname(file), "mark.pgm")}\n`);
      }),
    end: () => child.stdin.end(),
  };
}

/** While a process reads it keeps this one alive, and not a moment longer: it ends by itself when this one is gone. */
function hold(child: ChildProcess, isHeld: boolean): void {
  for (const part of [child, child.stdin, child.stdout, child.stderr])
    (part as { ref?(): void; unref?(): void } | null)?.[isHeld ? "ref" : "unref"]?.();
}

/** Ticks in a second in which Linux counts what processes compute. */
const TICKS = 100;

/** What a process has computed so far, ms; null when it is gone or where that is not told. */
async function computedMs(child: ChildProcess): Promise<number | null> {
  const stat = await readFile(`/proc/${child.pid}/stat`, "utf8").catch(() => "");
  // Its name stands in brackets and may hold anything.
  const fields = stat.slice(stat.lastIndexOf(")") + 2).split(" ");
  const ticks = Number(fields[11]) + Number(fields[12]);
  return Number.isFinite(ticks) ? (ticks * 1000) / TICKS : null;
}
