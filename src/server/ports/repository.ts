import { createHash } from "node:crypto";
import type { Readable } from "node:stream";
import type { NamingLimits } from "#core/filing-plan/legal-name.ts";
import { parseSha256, type Sha256 } from "#core/shared/brand.ts";

/** What a kind of repository can do; what it cannot is done another way, slower. */
export interface RepositoryPowers {
  /** A file goes from one name to another in one step. Else it is copied, proven and removed. */
  readonly rename: boolean;
  /** A folder goes with all that is in it. Else each file goes by itself. */
  readonly renameFolders: boolean;
  /** New bytes take a name's place in one step. */
  readonly atomicReplace: boolean;
  /** It says by itself what changes. Else it is looked through now and then. */
  readonly changeFeed: boolean;
  readonly locks: boolean;
  /** One file can stand in several folders without a second copy. Else a small pointer file stands for it. */
  readonly links: boolean;
}

/** Kinds of connection. */
export const repositoryKinds = ["disk", "webdav", "bucket"] as const;
export type RepositoryKind = (typeof repositoryKinds)[number];

/** The outcome of putting a file: it stands there with these bytes, or somebody else's file has the name. */
export type PutOutcome = { readonly kind: "put" } | { readonly kind: "taken"; readonly sha256: Sha256 };
/** The outcome of moving. "moved" also when it had been moved already: source gone, target there. */
export type MoveOutcome = "moved" | "not-there" | "taken";

/** A file as a listing shows it: enough to tell whether it changed since. */
export interface SeenFile {
  readonly path: string;
  readonly sizeBytes: number;
  /** Time of its last change, ms since 1970, whole. */
  readonly modifiedMs: number;
  /** What else tells versions apart (an entity tag); "" when there is nothing. */
  readonly mark: string;
}

/** One line of the check of a connection. */
export interface ProbeStep {
  readonly step: "reach" | "signIn" | "write" | "readBack" | "rename" | "remove" | "clock" | "space";
  readonly outcome: "ok" | "failed" | "skipped" | "unknown";
  /** Seconds of clock difference, or bytes of free space. */
  readonly value?: number;
  /** Code of what went wrong; its words are in the table of refusals. */
  readonly why?: string;
}

/** Names of folders that stand in one, by the path in it of the folder that holds them; "" for itself. */
export type FoldersIn = ReadonlyMap<string, ReadonlySet<string>>;

/**
 * Where filed documents live. Paths are relative, with / between legal names. Everything that changes something may be asked twice and ends the
 * same. Throws AppError `repository-unreachable`, `repository-refused` (credentials or rights) or `repository-full`; nothing is half done then that
 * asking again does not mend.
 */
export interface Repository {
  readonly kind: RepositoryKind;
  readonly limits: NamingLimits;
  readonly powers: RepositoryPowers;
  /**
   * Puts a local file at a path that must be free. The same bytes there already: `put`. Other bytes are never replaced: `taken`. Where the server hashes what
   * it gets, a local file with other bytes than `sha256` throws AppError `bytes-damaged`; elsewhere reading back shows it.
   */
  put(relativePath: string, localFile: string, sha256: Sha256): Promise<PutOutcome>;
  /** Reads a file back and hashes it; null when nothing stands there. */
  hashOf(relativePath: string): Promise<Sha256 | null>;
  /** A file's bytes; null when nothing stands there. */
  read(relativePath: string): Promise<Readable | null>;
  /** A file as a listing shows it; null when no file stands there. */
  look(relativePath: string): Promise<SeenFile | null>;
  /** Moves a file to a path that must be free. Never replaces anything. */
  move(from: string, to: string): Promise<MoveOutcome>;
  /** Moves a folder with all in it. Only where `powers.renameFolders`. */
  moveFolder(from: string, to: string): Promise<MoveOutcome>;
  /**
   * Renames the folder `from` to `to` where nothing but these folders stands in it, which moves all of them at once. False, with nothing changed, where
   * something else does, or something stands at `to`. What comes in meanwhile is put back.
   */
  moveAllIn?(from: string, to: string, folders: FoldersIn): Promise<boolean>;
  /** Takes a file away from its place into the folder of things taken back (nothing is deleted), if its bytes are these. */
  takeBack(relativePath: string, sha256: Sha256): Promise<"taken-back" | "not-there" | "changed">;
  /** Removes a file whose bytes are proven to stand elsewhere, if its bytes are these. */
  remove(relativePath: string, sha256: Sha256): Promise<"removed" | "not-there" | "changed">;
  /** Makes a name at which another file of the repository is found, without a second copy; only where `powers.links`. Replaces a link that leads elsewhere, never a file. */
  link(relativePath: string, target: string): Promise<"linked" | "taken">;
  /** Removes a link. A file of that name stays. */
  unlink(relativePath: string): Promise<void>;
  /** Makes a folder with all above it; nothing when it is there. Where folders are only parts of names, nothing. */
  makeFolder(relativePath: string): Promise<void>;
  /** Removes a folder if nothing is in it. Answers whether there is such a folder now. */
  removeEmptyFolder(relativePath: string): Promise<"gone" | "kept">;
  /** What stands in one folder, by name; our own working files are left out. Null when there is no such folder. */
  list(relativePath: string): Promise<FolderListing | null>;
  /** Every folder with its files, one after the other; memory does not grow with the number. */
  walk(): AsyncIterable<FolderListing>;
  /** What was moved into or out of these folders, or made in them, survives a power cut, where that is for us to say. */
  flush(relativeFolders: readonly string[]): Promise<void>;
  /** Marks an empty place as this connection's, so that one that is not plugged in is not mistaken for one that is empty. */
  prepare(): Promise<void>;
  /** Whether files can be written now; for health. Never throws. */
  check(): Promise<boolean>;
  /** Tries everything the program will do, in a folder of its own that is removed again. A new one is marked as ours; of one that is not new the mark must be there. Never throws. */
  probe(isNew: boolean): Promise<readonly ProbeStep[]>;
  /** The place as a person would open it: a path of this machine, or an address. */
  locationOf(relativePath: string): string;
}

/** A folder and what stands in it, by name. */
export interface FolderListing {
  /** "" is the root. */
  readonly folder: string;
  readonly files: readonly SeenFile[];
  readonly folders: readonly string[];
}

/** Name of the file that marks a repository as ours. */
export const MARKER = ".amber-clip.json";
/** Folder of what was taken back. */
export const TAKEN_BACK = ".taken-back";

/** Names of our own working files, which are never taken for documents. */
export function isOwnName(name: string): boolean {
  return (
    name.startsWith(".") &&
    (name === MARKER || name === TAKEN_BACK || /^\.[0-9a-f-]{36}\.(part|moving)$/.test(name) || /^\.amber-clip-check-/.test(name))
  );
}

/** The steps of a path, after making sure that it stays below the root whatever the database says. */
export function stepsOf(relative: string): readonly string[] {
  const steps = relative === "" ? [] : relative.split("/");
  if (steps.some((s) => s === "" || s === "." || s === ".." || s.includes("\0") || s.includes("\\"))) throw new Error("illegal path");
  return steps;
}

/** Hashes a stream to its end. */
export async function hashStream(stream: Readable): Promise<Sha256> {
  const hash = createHash("sha256");
  for await (const piece of stream) hash.update(piece as Buffer);
  return parseSha256(hash.digest("hex"));
}
