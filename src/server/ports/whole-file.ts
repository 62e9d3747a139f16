import { randomUUID } from "node:crypto";
import { constants, type FileHandle, copyFile, link, mkdir, open, rename, rm } from "node:fs/promises";
import path from "node:path";

/** Flushes a folder's own entries to disk, so that a rename in it survives a power cut. */
export async function syncFolder(folder: string): Promise<void> {
  const handle = await open(folder, "r");
  try {
    await handle.sync();
  } finally {
    await handle.close();
  }
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
