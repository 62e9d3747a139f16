import { createHash } from "node:crypto";
import { stat } from "node:fs/promises";
import type { Readable } from "node:stream";
import {
  CopyObjectCommand,
  DeleteObjectCommand,
  GetObjectCommand,
  HeadBucketCommand,
  HeadObjectCommand,
  ListObjectsV2Command,
  PutObjectCommand,
  S3Client,
} from "@aws-sdk/client-s3";
import { bucketLimits } from "#core/filing-plan/legal-name.ts";
import { type Sha256 } from "#core/shared/brand.ts";
import type { RefusalCode } from "#core/shared/result.ts";
import { AppError } from "../app-error.ts";
import { type FolderListing, hashStream, isOwnName, MARKER, type Repository, type SeenFile, stepsOf, TAKEN_BACK } from "../repository.ts";
import { makeWithBody } from "./body.ts";
import { probeWith } from "./probe.ts";
import { oneAtATime, statusOf, steady } from "./steady.ts";

/** Seconds until a call is given up on when nothing moves. */
const QUIET_MS = 20_000;

/** An answer that the bucket is ours holds for what was on its way when it was asked, up to this, ms. */
const FRESH_MS = 1000;

const MARK = JSON.stringify({ what: "Documents filed with Amber Clip live in this bucket." });
const MARK_SHA256 = createHash("sha256").update(MARK).digest("hex");

/** How an S3-compatible bucket is reached. */
export interface BucketAccess {
  readonly address: string;
  readonly region: string;
  readonly bucket: string;
  /** Beginning of every key; may be empty. */
  readonly root: string;
  readonly user: string;
  readonly password: string;
}

/** What each error code of the S3 protocol says about why nobody was let in. */
const signInCodes: Readonly<Record<string, RefusalCode>> = {
  NoSuchBucket: "bucket-missing",
  InvalidBucketName: "bucket-missing",
  NotFound: "bucket-missing",
  InvalidAccessKeyId: "repository-password",
  SignatureDoesNotMatch: "repository-password",
  InvalidToken: "repository-password",
  AccessDenied: "repository-rights",
  AllAccessDisabled: "repository-rights",
  MethodNotAllowed: "repository-address",
  NotImplemented: "repository-address",
};

/** An error of signing in with a code that tells address, bucket, rights and password apart; others as they came. */
function asSignInError(error: unknown): unknown {
  const said = error instanceof Error ? error.name : "";
  const status = statusOf(error);
  const code =
    signInCodes[said] ??
    (status === 401 ? "repository-password" : status === 403 ? "repository-rights" : status === 404 ? "bucket-missing" : undefined) ??
    // An answer that is no answer of a bucket server.
    (error instanceof SyntaxError || (status !== null && status < 500) ? "repository-address" : undefined);
  return code === undefined ? error : new AppError(code, "later", `${said} ${status ?? ""}`.trim());
}

/** A repository in an S3-compatible bucket. Folders are only parts of keys: nothing is made or renamed there, every file goes by itself. */
export function bucketRepository(at: BucketAccess): Repository {
  const client = new S3Client({
    endpoint: at.address,
    region: at.region,
    forcePathStyle: true,
    credentials: { accessKeyId: at.user, secretAccessKey: at.password },
    maxAttempts: 1,
    requestChecksumCalculation: "WHEN_REQUIRED",
    responseChecksumValidation: "WHEN_REQUIRED",
    requestHandler: { connectionTimeout: 5000, requestTimeout: QUIET_MS, httpsAgent: { maxSockets: 64 }, httpAgent: { maxSockets: 64 } },
  });
  const withBody = makeWithBody();
  const base = stepsOf(at.root.replace(/^\/+|\/+$/g, "")).join("/");
  const keyOf = (relative: string): string => [...(base === "" ? [] : [base]), ...stepsOf(relative)].join("/");
  const Bucket = at.bucket;
  const orNull = async <T>(act: () => Promise<T>): Promise<T | null> => {
    try {
      return await act();
    } catch (error) {
      if (statusOf(error) === 404) return null;
      throw error;
    }
  };
  const head = (relative: string) => orNull(() => client.send(new HeadObjectCommand({ Bucket, Key: keyOf(relative) })));
  const look = (relative: string): Promise<SeenFile | null> =>
    steady(async () => {
      const found = await head(relative);
      return found
        ? {
            path: relative,
            sizeBytes: found.ContentLength ?? 0,
            modifiedMs: Math.trunc((found.LastModified?.getTime() ?? 0) / 1000) * 1000,
            mark: found.ETag ?? "",
          }
        : null;
    });
  const mustBeOurs = async (): Promise<void> => {
    if (!(await look(MARKER))) throw new AppError("repository-unreachable", "later", "the bucket is not there or not ours");
  };
  let turn = 0;
  let asked: { readonly turn: number; readonly at: number; readonly answer: Promise<void> } | null = null;
  /** The same, asked once for all that are on their way at that moment. `begun` is the turn in which one's own way began. */
  const confirmOurs = (begun: number): Promise<void> => {
    if (!asked || asked.turn < begun || performance.now() - asked.at > FRESH_MS)
      asked = { turn: ++turn, at: performance.now(), answer: mustBeOurs() };
    return asked.answer;
  };
  const hashNow = async (relative: string): Promise<Sha256 | null> => {
    const found = await orNull(() => client.send(new GetObjectCommand({ Bucket, Key: keyOf(relative) })));
    if (!found?.Body) return null;
    const stream = found.Body as Readable;
    let bytes = 0;
    stream.on("data", (piece: Buffer) => (bytes += piece.length));
    const sha256 = await hashStream(stream);
    if (found.ContentLength !== undefined && bytes < found.ContentLength)
      throw new AppError("repository-unreachable", "later", "the line dropped");
    return sha256;
  };
  const hashOf = (relative: string): Promise<Sha256 | null> => steady(() => hashNow(relative));
  const drop = (relative: string) => steady(() => orNull(() => client.send(new DeleteObjectCommand({ Bucket, Key: keyOf(relative) }))));
  const put = (relative: string, Body: Readable | Buffer | string, size: number, sha256: string) => {
    const command = new PutObjectCommand({ Bucket, Key: keyOf(relative), Body, ContentLength: size, IfNoneMatch: "*" });
    command.middlewareStack.add(
      (next) => (args) => {
        // Signed with what it is known to be instead of what is read once more: the server refuses other bytes, and streams are covered as well.
        (args.request as { headers: Record<string, string> }).headers["x-amz-content-sha256"] = sha256;
        return next(args);
      },
      { step: "build", name: "knownHash" },
    );
    return client.send(command);
  };
  let refuses: boolean | null = null;
  /** Whether the server keeps to the condition that nothing is replaced; not all do. Found out once, on the mark that stands there anyway. */
  const refusesToReplace = async (): Promise<boolean> => {
    if (refuses !== null) return refuses;
    await mustBeOurs();
    try {
      await put(MARKER, MARK, Buffer.byteLength(MARK), MARK_SHA256);
      return (refuses = false);
    } catch (error) {
      if (statusOf(error) !== 412) return false;
      return (refuses = true);
    }
  };
  /** One level of keys, all pages of it. */
  async function* pages(prefix: string): AsyncGenerator<{ readonly files: SeenFile[]; readonly folders: string[] }> {
    let token: string | undefined;
    do {
      const page = await steady(() =>
        client.send(
          new ListObjectsV2Command({
            Bucket,
            Prefix: prefix,
            Delimiter: "/",
            MaxKeys: 1000,
            ...(token ? { ContinuationToken: token } : {}),
          }),
        ),
      );
      const relative = (key: string): string => (base === "" ? key : key.slice(base.length + 1));
      const nameOf = (key: string): string => key.slice(prefix.length);
      yield {
        files: (page.Contents ?? [])
          .filter((o) => o.Key !== undefined && o.Key !== prefix && !isOwnName(nameOf(o.Key)))
          .map((o) => ({
            path: relative(o.Key ?? ""),
            sizeBytes: o.Size ?? 0,
            modifiedMs: Math.trunc((o.LastModified?.getTime() ?? 0) / 1000) * 1000,
            mark: o.ETag ?? "",
          })),
        folders: (page.CommonPrefixes ?? []).map((p) => nameOf(p.Prefix ?? "").replace(/\/$/, "")).filter((n) => n !== "" && !isOwnName(n)),
      };
      token = page.IsTruncated ? page.NextContinuationToken : undefined;
    } while (token !== undefined);
  }
  const list = async (relative: string): Promise<FolderListing | null> => {
    const files: SeenFile[] = [];
    const folders: string[] = [];
    const key = keyOf(relative);
    for await (const page of pages(key === "" ? "" : `${key}/`)) {
      files.push(...page.files);
      folders.push(...page.folders);
    }
    return relative !== "" && files.length === 0 && folders.length === 0 ? null : { folder: relative, files, folders };
  };
  const repository: Repository = {
    kind: "bucket",
    limits: bucketLimits,
    powers: { rename: false, renameFolders: false, atomicReplace: true, changeFeed: false, locks: false, links: false },
    hashOf,
    look,
    async put(relative, localFile, sha256) {
      const size = (await stat(localFile)).size;
      return oneAtATime(`${at.address} ${Bucket} ${keyOf(relative)}`, () =>
        steady(async () => {
          // A server that refuses to replace by itself need not be asked whether the name is free.
          if (!(await refusesToReplace()) && (await head(relative))) {
            const there = await hashNow(relative);
            if (there !== null) return there === sha256 ? { kind: "put" as const } : { kind: "taken" as const, sha256: there };
          }
          const begun = ++turn;
          try {
            await withBody(localFile, size, (body) => put(relative, body, size, sha256));
          } catch (error) {
            if (error instanceof Error && error.name === "XAmzContentSHA256Mismatch")
              throw new AppError("bytes-damaged", "later", "the local file does not have the right hash");
            // It may have been done all the same: asked twice, or the answer was lost.
            const now = await hashNow(relative);
            if (now === null) throw error;
            if (now !== sha256) return { kind: "taken" as const, sha256: now };
          }
          // Many are put at once: that the bucket is ours is asked once for all of them. What went into another's is taken out again.
          await confirmOurs(begun).catch(async (error: unknown) => {
            await drop(relative).catch(() => {});
            throw error;
          });
          return { kind: "put" as const };
        }),
      );
    },
    read: (relative) =>
      steady(async () => {
        const found = await orNull(() => client.send(new GetObjectCommand({ Bucket, Key: keyOf(relative) })));
        return (found?.Body as Readable | undefined) ?? null;
      }),
    async move(from, to) {
      const source = await hashOf(from);
      const target = await hashOf(to);
      if (source === null) {
        if (target !== null) return "moved";
        await mustBeOurs();
        return "not-there";
      }
      if (target !== null && target !== source) return "taken";
      if (target === null) {
        await steady(() =>
          client.send(new CopyObjectCommand({ Bucket, Key: keyOf(to), CopySource: encodeURI(`${Bucket}/${keyOf(from)}`) })),
        );
        // The source goes only after the copy was read back.
        if ((await hashOf(to)) !== source) throw new AppError("repository-unreachable", "later", "the copy is not whole");
      }
      await drop(from);
      return "moved";
    },
    moveFolder: () => Promise.reject(new Error("folders are not moved in a bucket")),
    async takeBack(relative, sha256) {
      const there = await hashOf(relative);
      if (there === null) return "not-there";
      if (there !== sha256) return "changed";
      await repository.move(relative, `${TAKEN_BACK}/${sha256}`);
      return "taken-back";
    },
    async remove(relative, sha256) {
      const there = await hashOf(relative);
      if (there === null) return "not-there";
      if (there !== sha256) return "changed";
      await drop(relative);
      return "removed";
    },
    link: () => Promise.reject(new Error("there are no links here")),
    unlink: () => Promise.reject(new Error("there are no links here")),
    makeFolder: mustBeOurs,
    // Folders are only parts of names here.
    removeEmptyFolder: () => Promise.resolve("gone"),
    list,
    async *walk() {
      await mustBeOurs();
      const line = [""];
      for (let folder = line.pop(); folder !== undefined; folder = line.pop()) {
        const found = await list(folder);
        if (!found) continue;
        for (const name of found.folders) line.push(folder === "" ? name : `${folder}/${name}`);
        yield found;
      }
    },
    async flush() {},
    prepare: () =>
      steady(async () => {
        if (await head(MARKER)) return;
        await put(MARKER, MARK, Buffer.byteLength(MARK), MARK_SHA256).catch(async (error: unknown) => {
          if (!(await head(MARKER))) throw error;
        });
      }),
    check: () =>
      mustBeOurs().then(
        () => true,
        () => false,
      ),
    probe: (isNew) =>
      probeWith(repository, isNew, {
        reach: () =>
          steady(async () => {
            await client.send(new HeadBucketCommand({ Bucket })).catch((error: unknown) => {
              const status = statusOf(error);
              if (status === null || status >= 500) throw error;
            });
          }),
        async signIn() {
          await steady(() =>
            client.send(new ListObjectsV2Command({ Bucket, Prefix: base, MaxKeys: 2 })).catch((error: unknown) => {
              throw asSignInError(error);
            }),
          );
        },
        space: () => Promise.resolve(null),
      }),
    locationOf: (relative) =>
      `${at.address.replace(/\/$/, "")}/${[Bucket, ...keyOf(relative).split("/")].map(encodeURIComponent).join("/")}`,
  };
  return repository;
}
