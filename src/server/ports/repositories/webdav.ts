import { randomUUID } from "node:crypto";
import { stat } from "node:fs/promises";
import { Readable } from "node:stream";
import { createClient, type FileStat, type WebDAVClient } from "webdav";
import { webdavLimits } from "#core/filing-plan/legal-name.ts";
import { type Sha256 } from "#core/shared/brand.ts";
import { AppError } from "../app-error.ts";
import {
  type FolderListing,
  hashStream,
  isOwnName,
  MARKER,
  type MoveOutcome,
  type Repository,
  type SeenFile,
  stepsOf,
  TAKEN_BACK,
} from "../repository.ts";
import { breakOff } from "./break-off.ts";
import { makeWithBody } from "./body.ts";
import { probeWith } from "./probe.ts";
import { asRemoteError, oneAtATime, statusOf, steady } from "./steady.ts";

/** A call that moves no file is given up on after this, ms. */
const CALL_MS = 20_000;
/** How a server puts files is found out again after this, when it could not be, ms. */
const AGAIN_MS = 60_000;
/** A call that carries a file, ms. */
const CARRY_MS = 10 * 60_000;

const MARK = JSON.stringify({ what: "Documents filed with Amber Clip live below this folder." });

/** How a WebDAV server is reached. */
export interface WebdavAccess {
  readonly address: string;
  /** Folder on the server that everything goes below. */
  readonly root: string;
  readonly user: string;
  readonly password: string;
}

/** A repository on a WebDAV server (RFC 4918). */
export function webdavRepository(at: WebdavAccess): Repository {
  const client: WebDAVClient = createClient(at.address, {
    username: at.user,
    password: at.password,
    maxBodyLength: Infinity,
    maxContentLength: Infinity,
  });
  const withBody = makeWithBody();
  const base = `/${stepsOf(at.root.replace(/^\/+|\/+$/g, "")).join("/")}`.replace(/\/$/, "");
  const on = (relative: string): string => [base, ...stepsOf(relative)].join("/") || "/";
  const call = () => ({ signal: AbortSignal.timeout(CALL_MS) });
  const carry = () => ({ signal: AbortSignal.timeout(CARRY_MS) });
  const made = new Set<string>();
  const orNull = async <T>(act: () => Promise<T>): Promise<T | null> => {
    try {
      return await act();
    } catch (error) {
      if ([404, 409].includes(statusOf(error) ?? 0)) return null;
      throw error;
    }
  };
  const statOf = (relative: string): Promise<FileStat | null> =>
    steady(() => orNull(async () => (await client.stat(on(relative), call())) as FileStat));
  const seen = (relative: string, s: FileStat): SeenFile => ({
    path: relative,
    sizeBytes: s.size,
    modifiedMs: Date.parse(s.lastmod) || 0,
    mark: s.etag ?? "",
  });
  const mustBeOurs = async (): Promise<void> => {
    if (!(await statOf(MARKER))) throw new AppError("repository-unreachable", "later", "the folder is not there or not ours");
  };
  const makeFolder = async (relative: string): Promise<void> => {
    const steps = stepsOf(relative);
    for (let n = 1; n <= steps.length; n++) {
      const part = steps.slice(0, n).join("/");
      if (made.has(part)) continue;
      await steady(async () => {
        try {
          await client.createDirectory(on(part), call());
        } catch (error) {
          // 405: it is there already.
          if (statusOf(error) !== 405 && !(await orNull(() => client.stat(on(part), call())))) throw error;
        }
      });
      made.add(part);
    }
  };
  const parentOf = (relative: string): string => relative.split("/").slice(0, -1).join("/");
  /** Forgets which folders are known to be there, at and below a path, and above it. */
  const forget = (relative: string): void => {
    for (const known of made)
      if (known === relative || known.startsWith(`${relative}/`) || relative.startsWith(`${known}/`)) made.delete(known);
  };
  const hashOf = (relative: string): Promise<Sha256 | null> =>
    steady(async () => {
      const there = await orNull(async () => (await client.stat(on(relative), call())) as FileStat);
      if (!there || there.type !== "file") return null;
      return orNull(() => readHash(relative, there.size));
    });
  const readHash = async (relative: string, size: number): Promise<Sha256> => {
    const stream = client.createReadStream(on(relative), carry()) as unknown as Readable;
    let bytes = 0;
    stream.on("data", (piece: Buffer) => (bytes += piece.length));
    const sha256 = await hashStream(stream);
    // A line that drops in the middle can end a stream as if it were whole.
    if (bytes < size) throw new AppError("repository-unreachable", "later", "the line dropped");
    return sha256;
  };
  const moveAny = async (from: string, to: string): Promise<MoveOutcome> => {
    for (let second = false; ; second = true) {
      const [source, target] = [await statOf(from), await statOf(to)];
      if (source && target) {
        // A server may copy and then remove: one cut off in between leaves the same bytes at both.
        if (source.type === "file" && target.type === "file" && second && source.size === target.size) {
          const there = await hashOf(to);
          if (there !== null && there === (await hashOf(from))) {
            await steady(() => orNull(() => client.deleteFile(on(from), call())));
            return "moved";
          }
        }
        return "taken";
      }
      if (!source) {
        if (target) return "moved";
        await mustBeOurs();
        return "not-there";
      }
      await makeFolder(parentOf(to));
      try {
        await client.moveFile(on(from), on(to), { overwrite: false, ...carry() });
      } catch (error) {
        if (second) {
          await steady(() => Promise.reject(error as Error));
        }
        forget(parentOf(to));
        // What came of it is looked at again.
        if (!second) continue;
      }
      forget(from);
      if (await statOf(to)) return "moved";
      if (second) throw new AppError("repository-unreachable", "later", "the move did not happen");
    }
  };
  /** Gives a file that was put under another name its own; a line that drops is tried again as long as it is still under the other. */
  const moveOnce = (from: string, to: string): Promise<void> =>
    steady(async () => {
      try {
        await client.moveFile(on(from), on(to), { overwrite: false, ...call() });
      } catch (error) {
        if (await orNull(() => client.stat(on(from), call()))) throw error;
      }
    });
  let isDirect: Promise<boolean> | null = null;
  /**
   * Whether a file may be put straight under its name: the server keeps to the condition that nothing is replaced, and leaves nothing behind of a
   * file that breaks off in the middle. Found out once, on our mark and on a file that is broken off on purpose; whatever goes wrong means no.
   */
  const putsDirectly = (): Promise<boolean> => {
    isDirect ??= (async () => {
      const body = Buffer.alloc(64 * 1024, " ");
      const none = { "If-None-Match": "*" };
      if (!(await orNull(() => client.stat(on(MARKER), call())))) throw new AppError("repository-unreachable", "later", "not ours");
      const onMark = await client.putFileContents(on(MARKER), MARK, { headers: none, ...call() }).then(
        () => 200,
        (error: unknown) => statusOf(error),
      );
      if (onMark !== 412) return false;
      const half = `.${randomUUID()}.part`;
      await breakOff(client.getFileUploadLink(on(half)), body);
      const left = await orNull(() => client.stat(on(half), call()));
      if (left) await orNull(() => client.deleteFile(on(half), call()));
      return !left;
    })().catch((error: unknown) => {
      // Not known now is not known for good.
      setTimeout(() => (isDirect = null), AGAIN_MS).unref();
      if (asRemoteError(error) instanceof AppError) return false;
      throw error;
    });
    return isDirect;
  };
  const listing = (relative: string, found: readonly FileStat[]): FolderListing => {
    const inside = (name: string): string => (relative === "" ? name : `${relative}/${name}`);
    const own = found.filter((f) => !isOwnName(f.basename) && f.filename.replace(/\/$/, "") !== on(relative));
    return {
      folder: relative,
      files: own.filter((f) => f.type === "file").map((f) => seen(inside(f.basename), f)),
      folders: own.filter((f) => f.type === "directory").map((f) => f.basename),
    };
  };
  const list = async (relative: string): Promise<FolderListing | null> => {
    const found = await steady(() => orNull(async () => (await client.getDirectoryContents(on(relative), call())) as FileStat[]));
    return found ? listing(relative, found) : null;
  };
  const repository: Repository = {
    kind: "webdav",
    limits: webdavLimits,
    powers: { rename: true, renameFolders: true, atomicReplace: true, changeFeed: false, locks: true, links: false },
    hashOf,
    async look(relative) {
      const found = await statOf(relative);
      return found?.type === "file" ? seen(relative, found) : null;
    },
    async put(relative, localFile, sha256) {
      const size = (await stat(localFile)).size;
      const onTheWay = `${parentOf(relative)}/.${randomUUID()}.part`.replace(/^\//, "");
      return oneAtATime(`${at.address} ${on(relative)}`, () =>
        steady(async () => {
          // Nobody is asked first whether the name is free: giving the file its own name is refused when it is not, and that is looked at then.
          if (!made.has(parentOf(relative))) await mustBeOurs();
          await makeFolder(parentOf(relative));
          const isStraight = await putsDirectly();
          try {
            // Where a line that drops in the middle might leave half a document under its name it goes under another one first.
            const target = isStraight ? relative : onTheWay;
            const headers: Record<string, string> = isStraight ? { "If-None-Match": "*" } : {};
            await withBody(localFile, size, (body) =>
              client.putFileContents(on(target), body as never, { overwrite: true, contentLength: size, headers, ...carry() }),
            );
            if (!isStraight) await moveOnce(onTheWay, relative);
          } catch (error) {
            forget(parentOf(relative));
            const now = await hashOf(relative);
            if (!isStraight) await orNull(() => client.deleteFile(on(onTheWay), call())).catch(() => {});
            if (now === null) {
              if ([404, 409, 412].includes(statusOf(error) ?? 0))
                throw new AppError("repository-unreachable", "later", "the folder went away");
              throw error;
            }
            return now === sha256 ? { kind: "put" as const } : { kind: "taken" as const, sha256: now };
          }
          return { kind: "put" as const };
        }),
      );
    },
    read: (relative) =>
      steady(async () => {
        const there = await orNull(async () => (await client.stat(on(relative), call())) as FileStat);
        return there?.type === "file" ? (client.createReadStream(on(relative), carry()) as unknown as Readable) : null;
      }),
    move: moveAny,
    moveFolder: moveAny,
    async takeBack(relative, sha256) {
      const there = await hashOf(relative);
      if (there === null) return "not-there";
      if (there !== sha256) return "changed";
      const outcome = await moveAny(relative, `${TAKEN_BACK}/${sha256}`);
      // It was taken back before under the same bytes: one is enough.
      if (outcome === "taken") await steady(() => orNull(() => client.deleteFile(on(relative), call())));
      return "taken-back";
    },
    async remove(relative, sha256) {
      const there = await hashOf(relative);
      if (there === null) return "not-there";
      if (there !== sha256) return "changed";
      await steady(() => orNull(() => client.deleteFile(on(relative), call())));
      return "removed";
    },
    link: () => Promise.reject(new Error("there are no links here")),
    unlink: () => Promise.reject(new Error("there are no links here")),
    async makeFolder(relative) {
      await mustBeOurs();
      await makeFolder(relative);
    },
    async removeEmptyFolder(relative) {
      if (relative === "") return "kept";
      const found = await list(relative);
      if (!found) return "gone";
      if (found.files.length > 0 || found.folders.length > 0) return "kept";
      forget(relative);
      await steady(() => orNull(() => client.deleteFile(on(relative), call())));
      return "gone";
    },
    list,
    async *walk() {
      await mustBeOurs();
      const line = [""];
      for (let at = line.pop(); at !== undefined; at = line.pop()) {
        const found = await list(at);
        if (!found) continue;
        for (const name of found.folders) line.push(at === "" ? name : `${at}/${name}`);
        yield found;
      }
      await mustBeOurs();
    },
    async flush() {},
    async prepare() {
      await steady(async () => {
        for (let n = 1; n <= stepsOf(base.slice(1)).length; n++) {
          const part = `/${base.slice(1).split("/").slice(0, n).join("/")}`;
          if (!(await orNull(() => client.stat(part, call())))) await client.createDirectory(part, call());
        }
        if (await orNull(() => client.stat(on(MARKER), call()))) return;
        await client.putFileContents(on(MARKER), MARK, {
          overwrite: true,
          ...call(),
        });
      });
    },
    check: () =>
      mustBeOurs().then(
        () => true,
        () => false,
      ),
    probe: (isNew) =>
      probeWith(repository, isNew, {
        // Any answer at all is reached; whether it lets us in is the next line.
        reach: () =>
          steady(async () => {
            await client.stat("/", call()).catch((error: unknown) => {
              const status = statusOf(error);
              if (status === null || status >= 500) throw error;
            });
          }),
        async signIn() {
          await steady(() =>
            client.getDirectoryContents("/", call()).catch((error: unknown) => {
              const status = statusOf(error);
              const code = { 401: "repository-password", 403: "repository-rights", 404: "repository-address", 405: "repository-address" }[
                status ?? 0
              ];
              throw code === undefined ? error : new AppError(code, "later", `status ${status}`);
            }),
          );
        },
        async space() {
          const quota = (await client.getQuota(call())) as { available: number | "unknown" | "unlimited" } | null;
          return typeof quota?.available === "number" ? quota.available : null;
        },
      }),
    locationOf: (relative) => `${at.address.replace(/\/$/, "")}${on(relative).split("/").map(encodeURIComponent).join("/")}`,
  };
  return repository;
}
