import { existsSync } from "node:fs";
import { copyFile, cp, mkdir, mkdtemp, open, readdir, rename, rm, stat, writeFile } from "node:fs/promises";
import { randomUUID } from "node:crypto";
import path from "node:path";
import type { ContentKind } from "#core/arrivals/limits.ts";
import type { Sha256 } from "#core/shared/brand.ts";
import { ok, refuse, type Result } from "#core/shared/result.ts";
import { localFile } from "../documents/local-file.ts";
import { picturesFolder } from "../ports/adapters.ts";
import { officeProgram } from "./office-program.ts";
import { runTool } from "./run-tool.ts";

/** Where Debian puts the program itself; the script beside it would start it as a process that outlives being stopped. */
const OFFICE = "/usr/lib/libreoffice/program/soffice.bin";
const FENCE = "/usr/bin/bwrap";
/** Longest time for one file, ms; its memory, bytes of address space; and its largest output, bytes. */
const TIMEOUT_MS = 60_000;
const MEMORY_MAX = 4 * 1024 ** 3;
const FILE_MAX = 256 * 1024 * 1024;
/** How folders of what is under way are called. */
const HALF = "laying-out-";
/** What it answers when it only made its profile. */
const BEGIN_AGAIN = 81;

const laidOutKinds: readonly ContentKind[] = ["docx", "docm", "office"];

/** Whether documents of this kind get pages by being laid out. Spreadsheets do not: they are shown as tables. */
export const isLaidOut = (kind: string | null): boolean => laidOutKinds.some((k) => k === kind);

/** Whether the programs for it are installed; without them such documents are shown as text, or not at all. */
export const canLayOut = (): boolean => existsSync(OFFICE) && existsSync(FENCE);

/**
 * The path of an office file laid out as a PDF; made when it is not there yet, one at a time. It is made in a fence of its own: no network, no file but
 * this one, a profile that is thrown away afterwards, no macros, limits on time, memory and output. Refuses not-readable, also where the programs are not installed.
 */
export function layOut(sha256: Sha256): Promise<Result<string>> {
  const target = path.join(picturesFolder(), sha256.slice(0, 2), sha256, "laid-out.pdf");
  const known = inWork.get(target);
  if (known) return known;
  const work = (async () => {
    if (existsSync(target)) return ok(target);
    if (!canLayOut()) return refuse("not-readable", "LibreOffice or bubblewrap is not installed");
    return withTurn(async () => make(await localFile(sha256), target));
  })().finally(() => inWork.delete(target));
  inWork.set(target, work);
  return work;
}
const inWork = new Map<string, Promise<Result<string>>>();

let last: Promise<unknown> = Promise.resolve();
/** One after the other: each takes half a gigabyte. */
function withTurn<T>(act: () => Promise<T>): Promise<T> {
  const mine = last.then(act);
  last = mine.catch(() => {});
  return mine;
}

async function make(source: string, target: string): Promise<Result<string>> {
  // Rubbish would be laid out too, as pages of rubbish: what it is was found by its content, and what is a folder of files must not be a bomb.
  if (!(await isSound(source))) return refuse("not-readable");
  await mkdir(path.dirname(target), { recursive: true });
  await clearLeftovers(path.dirname(target), HALF);
  const folder = await mkdtemp(path.join(path.dirname(target), HALF));
  try {
    await mkdir(path.join(folder, "out"));
    await cp(await profile(), path.join(folder, "home"), { recursive: true });
    // A copy, named for nothing that stands in it.
    await copyFile(source, path.join(folder, "paper"));
    const outcome = await runOffice(folder);
    const made = path.join(folder, "out", "paper.pdf");
    if (outcome.exitCode !== 0 || outcome.stopped !== null || !(await isPdf(made))) return refuse("not-readable");
    await rename(made, target);
    return ok(target);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

/** Takes away the folders, whose names begin so, that a process which was killed has left beside a paper's pictures; one that is under way in another process is younger. */
export async function clearLeftovers(folder: string, begins: string): Promise<void> {
  for (const name of await readdir(folder)) {
    if (!name.startsWith(begins)) continue;
    const left = path.join(folder, name);
    // It may have ended in between.
    const since = await stat(left).catch(() => null);
    if (since && Date.now() - since.mtimeMs > 2 * TIMEOUT_MS) await rm(left, { recursive: true, force: true });
  }
}

const runOffice = (folder: string) =>
  runTool(
    FENCE,
    [
      ...["--ro-bind", "/usr", "/usr", "--symlink", "usr/lib", "/lib", "--symlink", "usr/bin", "/bin"],
      ...(existsSync("/lib64") ? ["--symlink", "usr/lib64", "/lib64"] : []),
      ...["/etc/fonts", "/etc/libreoffice", "/var/lib/libreoffice", "/var/cache/fontconfig"].flatMap((p) => ["--ro-bind-try", p, p]),
      ...["--proc", "/proc", "--dev", "/dev", "--tmpfs", "/tmp"],
      ...["--bind", path.join(folder, "home"), "/home", "--bind", path.join(folder, "out"), "/out"],
      ...["--ro-bind", path.join(folder, "paper"), "/in/paper"],
      ...["--unshare-all", "--die-with-parent", "--new-session", "--cap-drop", "ALL", "--clearenv"],
      ...["--setenv", "HOME", "/home", "--setenv", "PATH", "/usr/bin", "--setenv", "LC_ALL", "C.UTF-8"],
      OFFICE,
      "-env:UserInstallation=file:///home",
      ...["--headless", "--invisible", "--nologo", "--nodefault", "--norestore", "--nolockcheck"],
      ...["--convert-to", "pdf", "--outdir", "/out", "/in/paper"],
    ],
    { timeoutMs: TIMEOUT_MS, stdoutMax: 1024 * 1024 },
    { memoryMax: MEMORY_MAX, fileMax: FILE_MAX, gently: true },
  );

/** No macros whatever a document asks, nothing fetched or taken in from elsewhere, no history. */
const settings = `<?xml version="1.0" encoding="UTF-8"?>
<oor:items xmlns:oor="http://openoffice.org/2001/registry" xmlns:xs="http://www.w3.org/2001/XMLSchema" xmlns:xsi="http://www.w3.org/2001/XMLSchema-instance">
${(
  [
    ["Office.Common/Security/Scripting", "MacroSecurityLevel", "3"],
    ["Office.Common/Security/Scripting", "DisableMacrosExecution", "true"],
    ["Office.Common/Security/Scripting", "DisableActiveContent", "true"],
    ["Office.Common/Security/Scripting", "BlockUntrustedRefererLinks", "true"],
    ["Office.Writer/Content/Update", "Link", "2"],
    ["Office.Calc/Content/Update", "Link", "2"],
    ["Office.Common/Misc", "FirstRun", "false"],
  ] as const
)
  .map(
    ([where, name, value]) =>
      `<item oor:path="/org.openoffice.${where}"><prop oor:name="${name}" oor:op="fuse"><value>${value}</value></prop></item>`,
  )
  .join("\n")}
</oor:items>
`;

let ready: Promise<string> | null = null;
/** A profile with these settings, made once; each document gets a copy, so that none can leave anything for the next. */
function profile(): Promise<string> {
  ready ??= makeProfile().catch((error: unknown) => {
    ready = null;
    throw error;
  });
  return ready;
}
async function makeProfile(): Promise<string> {
  const target = path.join(picturesFolder(), "office-profile");
  if (existsSync(path.join(target, "user", "registrymodifications.xcu"))) return target;
  const folder = path.join(picturesFolder(), `office-profile-${randomUUID()}`);
  await mkdir(path.join(folder, "home", "user"), { recursive: true });
  await mkdir(path.join(folder, "out"));
  await writeFile(path.join(folder, "home", "user", "registrymodifications.xcu"), settings);
  await writeFile(path.join(folder, "paper"), "a first page\n");
  try {
    // The first start fills the profile and ends; the second shows that it works.
    const first = await runOffice(folder);
    if (first.exitCode === BEGIN_AGAIN) await runOffice(folder);
    await rename(path.join(folder, "home"), target).catch((error: unknown) => {
      // Another process was quicker; its profile is as good.
      if (!existsSync(target)) throw error;
    });
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
  return target;
}

/** Whether a file that is a folder of files unpacks to no more than is allowed; others are sound as they are. */
async function isSound(file: string): Promise<boolean> {
  const handle = await open(file, "r");
  try {
    const head = Buffer.alloc(4);
    await handle.read(head, 0, 4, 0);
    if (head.toString("latin1") !== "PK\u0003\u0004") return true;
  } finally {
    await handle.close();
  }
  const outcome = await runTool(
    process.execPath,
    ["--max-old-space-size=400", ...officeProgram(), "check", file],
    { timeoutMs: 20_000, stdoutMax: 1024 },
    { memoryMax: null },
  );
  return outcome.exitCode === 0 && outcome.stopped === null;
}

async function isPdf(file: string): Promise<boolean> {
  const size = await stat(file).then(
    (s) => s.size,
    () => 0,
  );
  return size > 100;
}
