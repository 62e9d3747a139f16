import { randomUUID } from "node:crypto";
import { constants, type FileHandle, copyFile, link, mkdir, open, rename, rm } from "node:fs/promises";
import path from "node:path";
import { runTool } from "../reading/run-tool.ts";

/** Flushes a folder's own entries to disk, so that a rename in it survives a power cut. */
export const syncFolder = (folder: string): Promise<void> => syncFile(folder);

/** Flushes a file's bytes, or a folder's entries, to disk. */
export async function syncFile(file: string): Promise<void> {
  const handle = await open(file, "r");
  try {
    await handle.sync();
  } finally {
    await handle.close();
  }
}

/** A disk that writes down what waits may take its time, ms of computing; four times as much on the clock. */
const FLUSH_MS = 150_000;

/**
 * Flushes all that was written to the disk that a folder stands on. By way of the launcher: this process is large, and would stand still while it is
 * forked. Throws when the disk could not be flushed.
 */
export async function flushDisk(folder: string): Promise<void> {
  const done = await runTool("sync", ["-f", folder], { timeoutMs: FLUSH_MS, stdoutMax: 4000 }, { memoryMax: null });
  if (done.exitCode !== 0) throw new Error("the disk could not be flushed");
}

/** Makes a folder with all above it; every folder that was made is flushed into the one above it. */
export async function makeFolder(folder: string): Promise<void> {
  const first = await mkdir(folder, { recursive: true });
  if (first === undefined) return;
  for (let at = folder; at.length >= first.length; at = path.dirname(at)) await syncFolder(path.dirname(at));
}

/**
 * Writes a file whole or not at all: temporary name, `write`, fsync, rename, fsync of the folder. On any error the
 * temporary file is removed and nothing stands at the path.
 */
export async function writeWhole(target: string, temporaryFolder: string, write: (handle: FileHandle) => Promise<void>): Promise<void> {
  const temporary = path.join(temporaryFolder, `.${randomUUID()}.part`);
  const handle = await open(temporary, "wx", 0o640);
  try {
    await write(handle);
    await handle.sync();
    await handle.close();
    await rename(temporary, target);
  } catch (error) {
    await handle.close().catch(() => {});
    await rm(temporary, { force: true });
    throw error;
  }
  await syncFolder(path.dirname(target));
}

/** Copies a file so that it appears whole under a name nobody had; cheap where the file system can share blocks. Throws EEXIST when taken. */
export async function copyWhole(source: string, target: string): Promise<void> {
  const temporary = path.join(path.dirname(target), `.${randomUUID()}.part`);
  try {
    await copyFile(source, temporary, constants.COPYFILE_EXCL | constants.COPYFILE_FICLONE);
    const handle = await open(temporary, "r+");
    try {
      await handle.sync();
    } finally {
      await handle.close();
    }
    // link fails when the name is taken, rename would replace what somebody put there.
    await link(temporary, target);
  } finally {
    await rm(temporary, { force: true });
  }
  await syncFolder(path.dirname(target));
}
