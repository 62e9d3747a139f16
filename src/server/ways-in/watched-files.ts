import { constants } from "node:fs";
import { lstat, mkdir, open, opendir, rename, unlink } from "node:fs/promises";
import path from "node:path";
import type { Readable } from "node:stream";
import type { Sha256 } from "#core/shared/brand.ts";
import { hashStream } from "../ports/repository.ts";
import { systemCode } from "../ports/system-code.ts";
import { syncFolder } from "../ports/whole-file.ts";

/** Folder below a watched one that what was taken is moved to. */
export const DONE = "done";
/** Folders inside folders that are looked into. */
const DEPTH_MAX = 8;
/** Names that programs give what they are still writing. */
const UNFINISHED = /^[.~]|\.(?:part|partial|tmp|temp|crdownload|download|filepart|swp)$/i;

/** A file in a watched folder as a look shows it. */
export interface WatchedFile {
  /** Below the watched folder, with /. */
  readonly path: string;
  readonly sizeBytes: number;
  readonly modifiedMs: number;
}

/** Every file that may be taken, folder by folder; memory does not grow with their number. What vanishes meanwhile is left out; a root that is not there throws. */
export async function* eachWatchedFile(root: string): AsyncGenerator<WatchedFile> {
  const line: { readonly at: string; readonly depth: number }[] = [{ at: "", depth: 0 }];
  for (let next = line.pop(); next !== undefined; next = line.pop()) {
    let folder;
    try {
      folder = await opendir(path.join(root, next.at));
    } catch (error) {
      if (next.at === "" || !["ENOENT", "ENOTDIR", "EACCES"].includes(systemCode(error) ?? "")) throw error;
      continue;
    }
    for await (const entry of folder) {
      if (UNFINISHED.test(entry.name)) continue;
      const relative = next.at === "" ? entry.name : `${next.at}/${entry.name}`;
      // Links are not followed: they may lead anywhere.
      if (entry.isDirectory() && next.depth < DEPTH_MAX && relative !== DONE) line.push({ at: relative, depth: next.depth + 1 });
      if (!entry.isFile()) continue;
      const found = await lookAt(root, relative);
      if (found) yield found;
    }
  }
}

/** One file as it is now; null when it is not there or no file. */
export async function lookAt(root: string, relative: string): Promise<WatchedFile | null> {
  const found = await lstat(path.join(root, relative)).catch((error: unknown) => {
    if (["ENOENT", "ENOTDIR"].includes(systemCode(error) ?? "")) return null;
    throw error;
  });
  return found?.isFile() ? { path: relative, sizeBytes: found.size, modifiedMs: Math.trunc(found.mtimeMs) } : null;
}

/** A file's bytes; a link of that name is not followed. */
export async function readWatched(root: string, relative: string): Promise<Readable> {
  const handle = await open(path.join(root, relative), constants.O_RDONLY | constants.O_NOFOLLOW);
  return handle.createReadStream();
}

/** Whether a file is the one that was looked at. */
export const isSame = (a: WatchedFile | null, b: WatchedFile): boolean =>
  a !== null && a.sizeBytes === b.sizeBytes && a.modifiedMs === b.modifiedMs;

/** Moves what was taken to the folder of what is done, under its own name or one with a number; nothing there is replaced. */
export async function putAmongDone(root: string, file: WatchedFile): Promise<void> {
  const ending = path.extname(file.path);
  const stem = file.path.slice(0, file.path.length - ending.length);
  await mkdir(path.join(root, DONE, path.dirname(file.path)), { recursive: true });
  for (let n = 1; ; n++) {
    const to = path.join(root, DONE, n === 1 ? file.path : `${stem} (${n})${ending}`);
    if (await lstat(to).catch(() => null)) continue;
    await rename(path.join(root, file.path), to);
    return;
  }
}

/** Removes what was taken, if its bytes are these still: what somebody wrote into it meanwhile is never lost. Answers whether it is gone. */
export async function removeTaken(root: string, file: WatchedFile, sha256: Sha256): Promise<boolean> {
  if ((await hashStream(await readWatched(root, file.path))) !== sha256) return false;
  if (!isSame(await lookAt(root, file.path), file)) return false;
  await unlink(path.join(root, file.path));
  await syncFolder(path.dirname(path.join(root, file.path)));
  return true;
}
