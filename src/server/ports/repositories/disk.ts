import { constants, createReadStream, lstatSync, readdirSync, renameSync, rmdirSync, type Stats } from "node:fs";
import { access, link, lstat, mkdir, readlink, rename, rmdir, stat, statfs, symlink, unlink } from "node:fs/promises";
import path from "node:path";
import type { Readable } from "node:stream";
import { diskLimits } from "#core/filing-plan/legal-name.ts";
import type { Sha256 } from "#core/shared/brand.ts";
import { AppError } from "../app-error.ts";
import {
  type FolderListing,
  type FoldersIn,
  hashStream,
  isOwnName,
  MARKER,
  type MoveOutcome,
  type Repository,
  type SeenFile,
  stepsOf,
  TAKEN_BACK,
} from "../repository.ts";
import { systemCode } from "../system-code.ts";
import { copyWhole, flushDisk, makeFolder, syncFolder, writeWhole } from "../whole-file.ts";
import { probeWith } from "./probe.ts";

const absent = ["ENOENT", "ENOTDIR"];
/** Folders listed, or renamed, before the process is given a chance to do something else. */
const BREATH = 64;
/** Folders that are flushed one by one; when there are more, the whole disk is. */
const FLUSH_EACH_MAX = 16;
/** A rename is quick when it takes less than this, ms. */
const QUICK_MS = 0.15;

/** A repository that is a folder on disk, or a share that is mounted as one. */
export function folderRepository(root: string): Repository {
  const top = path.resolve(root);
  const resolve = (relative: string): string => (relative === "" ? top : `${top}/${stepsOf(relative).join("/")}`);
  /** Runs something that needs the repository plugged in, and gives what goes wrong its code. */
  const act = async <T>(what: () => Promise<T>): Promise<T> => {
    try {
      return await what();
    } catch (error) {
      throw asRepositoryError(error);
    }
  };
  const isPluggedIn = async (): Promise<boolean> =>
    access(path.join(root, MARKER)).then(
      () => true,
      () => false,
    );
  // A share that is not mounted looks like an empty folder: writing there would put documents where nobody finds them.
  const mustBePluggedIn = async (): Promise<void> => {
    if (!(await isPluggedIn())) throw new AppError("repository-unreachable", "later", "the folder is not there or not ours");
  };
  const seen = (relative: string, s: Stats): SeenFile => ({
    path: relative,
    sizeBytes: s.size,
    modifiedMs: Math.trunc(s.mtimeMs),
    mark: "",
  });
  const look = async (relative: string): Promise<SeenFile | null> => {
    const found = await lstat(resolve(relative)).catch((error: unknown) => {
      if (absent.includes(systemCode(error) ?? "")) return null;
      throw error;
    });
    return found?.isFile() ? seen(relative, found) : null;
  };
  const hashOf = async (relative: string): Promise<Sha256 | null> =>
    act(async () => {
      try {
        // A link that somebody put there is not followed: it may lead anywhere.
        return await hashStream(createReadStream(resolve(relative), { flags: constants.O_RDONLY | constants.O_NOFOLLOW } as never));
      } catch (error) {
        const code = systemCode(error) ?? "";
        if (![...absent, "ELOOP", "EISDIR"].includes(code)) throw error;
        await mustBePluggedIn();
        return null;
      }
    });
  const moved = async (from: string, to: string): Promise<MoveOutcome> => {
    const [source, target] = await Promise.all([from, to].map((p) => lstat(resolve(p)).catch(() => null)));
    if (source && target) return source.ino === target.ino && source.dev === target.dev && source.isFile() ? "moved" : "taken";
    if (!source && !target) {
      await mustBePluggedIn();
      return "not-there";
    }
    return "moved";
  };
  const listNow = (relative: string): FolderListing | null => {
    const files: SeenFile[] = [];
    const folders: string[] = [];
    try {
      const at = resolve(relative);
      for (const entry of readdirSync(at, { withFileTypes: true })) {
        if (isOwnName(entry.name)) continue;
        if (entry.isDirectory()) folders.push(entry.name);
        // Links are neither followed nor taken for documents.
        else if (entry.isFile()) {
          const s = lstatSync(`${at}/${entry.name}`, { throwIfNoEntry: false });
          if (s) files.push(seen(relative === "" ? entry.name : `${relative}/${entry.name}`, s));
        }
      }
    } catch (error) {
      if (absent.includes(systemCode(error) ?? "")) return null;
      throw error;
    }
    return { folder: relative, files, folders };
  };
  let callMs = 0;
  let calls = 0;
  /** On a disk of this machine a rename is done sooner than it is handed to another thread; on a share that takes its time it must not hold everything up. */
  const soon = async (atOnce: () => void, elsewhere: () => Promise<void>): Promise<void> => {
    const began = performance.now();
    if (callMs < QUICK_MS) atOnce();
    else await elsewhere();
    callMs = callMs * 0.9 + (performance.now() - began) * 0.1;
    if (++calls % BREATH === 0) await new Promise((resolve) => setImmediate(resolve));
  };
  const renameNow = (from: string, to: string): Promise<void> =>
    soon(
      () => renameSync(from, to),
      () => rename(from, to),
    );
  const takeAway = async (relative: string, sha256: Sha256, away: () => Promise<void>): Promise<"gone" | "not-there" | "changed"> => {
    const there = await hashOf(relative);
    if (there === null) return "not-there";
    if (there !== sha256) return "changed";
    await away();
    await syncFolder(path.dirname(resolve(relative)));
    return "gone";
  };
  const repository: Repository = {
    kind: "disk",
    limits: diskLimits,
    powers: { rename: true, renameFolders: true, atomicReplace: true, changeFeed: true, locks: false, links: true },
    hashOf,
    look: (relative) => act(() => look(relative)),
    put: (relative, localFile, sha256) =>
      act(async () => {
        await mustBePluggedIn();
        const target = resolve(relative);
        await makeFolder(path.dirname(target));
        try {
          await copyWhole(localFile, target);
          return { kind: "put" as const };
        } catch (error) {
          if (systemCode(error) !== "EEXIST") throw error;
          const there = await hashOf(relative);
          return there === null || there === sha256 ? { kind: "put" as const } : { kind: "taken" as const, sha256: there };
        }
      }),
    read: (relative) => act(async () => ((await look(relative)) === null ? null : (createReadStream(resolve(relative)) as Readable))),
    move: (from, to) =>
      act(async () => {
        for (let second = false; ; second = true) {
          try {
            // A link fails when the name is taken; a rename would replace what somebody put there.
            await link(resolve(from), resolve(to));
          } catch (error) {
            const code = systemCode(error) ?? "";
            if (absent.includes(code)) {
              if (second || !(await lstat(resolve(from)).catch(() => null))) return moved(from, to);
              await mkdir(path.dirname(resolve(to)), { recursive: true });
              continue;
            }
            const linkless = ["EPERM", "ENOTSUP", "EOPNOTSUPP", "ENOSYS", "EMLINK"].includes(code);
            if (!linkless && code !== "EEXIST") throw error;
            // A share that knows no links: look, then rename.
            if (linkless && !(await lstat(resolve(to)).catch(() => null))) {
              await rename(resolve(from), resolve(to));
              return "moved";
            }
            const outcome = await moved(from, to);
            if (outcome !== "moved") return outcome;
          }
          await unlink(resolve(from)).catch((error: unknown) => {
            if (systemCode(error) !== "ENOENT") throw error;
          });
          return "moved";
        }
      }),
    moveFolder: (from, to) =>
      act(async () => {
        for (let second = false; ; second = true) {
          try {
            // A folder never takes the place of one that holds anything: the system refuses that.
            await renameNow(resolve(from), resolve(to));
            return "moved";
          } catch (error) {
            const code = systemCode(error) ?? "";
            if (["ENOTEMPTY", "EEXIST", "ENOTDIR"].includes(code)) return moved(from, to);
            if (code !== "ENOENT") throw error;
            if (second || !(await lstat(resolve(from)).catch(() => null))) return moved(from, to);
            await mkdir(path.dirname(resolve(to)), { recursive: true });
          }
        }
      }),
    moveAllIn: (from, to, folders) =>
      act(async () => {
        const [source, target] = [resolve(from), resolve(to)];
        let looked: LookedInto;
        try {
          if (!lstatSync(source).isDirectory()) return false;
          looked = lookInto(source, folders);
          if (looked.others.length > 0) return false;
          await renameNow(source, target).catch(async (error: unknown) => {
            if (systemCode(error) !== "ENOENT") throw error;
            await mkdir(path.dirname(target), { recursive: true });
            await renameNow(source, target);
          });
        } catch (error) {
          if ([...absent, "ENOTEMPTY", "EEXIST", "EINVAL"].includes(systemCode(error) ?? "")) return false;
          throw error;
        }
        if (isAsLooked(target, looked)) return true;
        for (const other of lookInto(target, folders).others) {
          const [there, back] = [path.join(target, other), path.join(source, other)];
          try {
            await mkdir(path.dirname(back), { recursive: true });
            // Where a file has that name by now a link fails, and a rename would replace it.
            if (lstatSync(there).isDirectory()) await rename(there, back);
            else {
              await link(there, back);
              await unlink(there);
            }
          } catch {
            // It stays beside those it came along with, where the watch finds it; they have moved all the same.
          }
        }
        return true;
      }),
    takeBack: (relative, sha256) =>
      act(async () => {
        const kept = path.join(root, TAKEN_BACK);
        const outcome = await takeAway(relative, sha256, async () => {
          await mkdir(kept, { recursive: true });
          await rename(resolve(relative), path.join(kept, sha256));
        });
        return outcome === "gone" ? "taken-back" : outcome;
      }),
    remove: (relative, sha256) =>
      act(async () => {
        const outcome = await takeAway(relative, sha256, () => unlink(resolve(relative)));
        return outcome === "gone" ? "removed" : outcome;
      }),
    link: (relative, target) =>
      act(async () => {
        await mustBePluggedIn();
        const at = resolve(relative);
        await mkdir(path.dirname(at), { recursive: true });
        const to = path.relative(path.dirname(at), resolve(target));
        const there = await lstat(at).catch(() => null);
        if (there && !there.isSymbolicLink()) return "taken";
        if (there && (await readlink(at)) === to) return "linked";
        if (there) await unlink(at);
        await symlink(to, at);
        return "linked";
      }),
    unlink: (relative) =>
      act(async () => {
        const there = await lstat(resolve(relative)).catch(() => null);
        if (there?.isSymbolicLink()) await unlink(resolve(relative));
      }),
    makeFolder: (relative) =>
      act(async () => {
        await mustBePluggedIn();
        await makeFolder(resolve(relative));
      }),
    removeEmptyFolder: (relative) =>
      act(async () => {
        if (relative === "") return "kept";
        const at = resolve(relative);
        return soon(
          () => rmdirSync(at),
          () => rmdir(at),
        ).then(
          () => "gone" as const,
          (error: unknown) => {
            const code = systemCode(error) ?? "";
            if (absent.includes(code)) return "gone" as const;
            if (!["ENOTEMPTY", "EEXIST"].includes(code)) throw error;
            return "kept" as const;
          },
        );
      }),
    list: (relative) =>
      act(async () => {
        await mustBePluggedIn();
        return listNow(relative);
      }),
    async *walk() {
      await mustBePluggedIn();
      // Depth first: what is still to do never grows beyond one path's neighbours.
      const line = [""];
      for (let n = 1, at = line.pop(); at !== undefined; at = line.pop(), n++) {
        const found = listNow(at);
        if (!found) continue;
        for (const name of found.folders) line.push(at === "" ? name : `${at}/${name}`);
        yield found;
        if (n % BREATH === 0) await new Promise((resolve) => setImmediate(resolve));
      }
      // What was unplugged on the way looks empty: the walk is worth nothing then.
      await mustBePluggedIn();
    },
    async flush(folders) {
      const few = folders.length > FLUSH_EACH_MAX ? [] : folders;
      const all = new Set(few.flatMap((f) => stepsOf(f).map((_, i, steps) => steps.slice(0, i + 1).join("/"))));
      const each = async (): Promise<true> => {
        for (const folder of ["", ...all]) await syncFolder(resolve(folder));
        return true;
      };
      // A few folders are quicker than the whole disk, on which others write, too; one of them may be gone by now.
      if (few.length === folders.length && all.size <= FLUSH_EACH_MAX && (await each().catch(() => false))) return;
      // By way of the launcher: this process is large, and would stand still for as long as a hundred renames take.
      await flushDisk(root).catch(() => {});
    },
    prepare: () =>
      act(async () => {
        await makeFolder(root);
        if (await isPluggedIn()) return;
        await writeWhole(path.join(root, MARKER), root, async (handle) => {
          await handle.writeFile(JSON.stringify({ what: "Documents filed with Amber Clip live below this folder." }, null, 2));
        });
      }),
    async check() {
      try {
        await mustBePluggedIn();
        await access(root, constants.W_OK | constants.X_OK);
        return (await stat(root)).isDirectory();
      } catch {
        return false;
      }
    },
    probe: (isNew) =>
      probeWith(repository, isNew, {
        async reach() {
          if (!(await stat(root)).isDirectory()) throw new AppError("repository-unreachable", "later", "not a folder");
        },
        async space() {
          const s = await statfs(root);
          return s.bavail * s.bsize;
        },
      }),
    locationOf: (relative) => resolve(relative),
  };
  return repository;
}

/** Gives errors of the system the codes that the port promises. */
function asRepositoryError(error: unknown): unknown {
  const code = systemCode(error) ?? "";
  if (error instanceof AppError) return error;
  if (["ENOSPC", "EDQUOT"].includes(code)) return new AppError("repository-full", "later", code, error);
  if (["EACCES", "EPERM", "EROFS"].includes(code)) return new AppError("repository-refused", "later", code, error);
  if (["EIO", "ESTALE", "ENODEV", "ENXIO", "EHOSTDOWN", "ETIMEDOUT", "ENOTCONN"].includes(code))
    return new AppError("repository-unreachable", "later", code, error);
  return error;
}

/** What was seen in a folder, and when each folder that was looked into had changed last, in nanoseconds. */
interface LookedInto {
  /** Paths in it of what stands beside the known ones. */
  readonly others: readonly string[];
  readonly changed: ReadonlyMap<string, bigint>;
}

/** A folder that changed so shortly before it was looked into may change again without its time telling: some systems keep it to two seconds. */
const TIME_TELLS_AFTER_NS = 3_000_000_000n;

/** What stands in a folder beside these; into these themselves nobody looks. */
function lookInto(top: string, known: FoldersIn): LookedInto {
  const between = new Set<string>();
  for (const folder of known.keys())
    for (let end = folder.length; end > 0; end = folder.lastIndexOf("/", end - 1)) between.add(folder.slice(0, end));
  const changed = new Map<string, bigint>();
  // By name only: to be told of each what it is takes twice as long.
  const look = (at: string): string[] => {
    const names = known.get(at);
    return readdirSync(`${top}/${at}`).flatMap((name) => {
      if (names?.has(name)) return [];
      const here = at === "" ? name : `${at}/${name}`;
      return between.has(here) ? (lookAt(here) ?? [here]) : [here];
    });
  };
  // The time before the look: what comes in during it changes that.
  const lookAt = (at: string): string[] | null => {
    const about = lstatSync(`${top}/${at}`, { bigint: true });
    if (!about.isDirectory()) return null;
    changed.set(at, about.mtimeNs);
    return look(at);
  };
  return { others: lookAt("") ?? [], changed };
}

/** Whether nothing came into folders since they were looked into, as far as their times tell; they may stand elsewhere now. A tenth of another look. */
function isAsLooked(top: string, { changed }: LookedInto): boolean {
  const tells = BigInt(Date.now()) * 1_000_000n - TIME_TELLS_AFTER_NS;
  for (const [at, mtimeNs] of changed) if (mtimeNs > tells || lstatSync(`${top}/${at}`, { bigint: true }).mtimeNs !== mtimeNs) return false;
  return true;
}
