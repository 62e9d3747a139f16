import { createHash } from "node:crypto";
import { writeFileSync } from "node:fs";
import { mkdir } from "node:fs/promises";
import path from "node:path";
import { PutObjectCommand, S3Client } from "@aws-sdk/client-s3";
import { createClient } from "webdav";
import { parseSha256, type Sha256 } from "#core/shared/brand.ts";
import type { StandIns } from "#ops/instance.ts";
import { bucketRepository } from "#server/ports/repositories/bucket.ts";
import { webdavRepository } from "#server/ports/repositories/webdav.ts";
import { print, seconds, short, sideBySide, sized } from "./measure.ts";

/** Files carried to each server behind a line, and how many at once. */
const CARRIED = sized(300, 6);
const AT_ONCE = 8;
/** Turns that each takes; the middle one counts. */
const TURNS = sized(5, 1);

/** Sizes of the files, bytes: a letter as text, and a page from the scanner. */
const SIZES = [30_000, 400_000];

/** What WebDAV and S3 cost above their bare client libraries, for small and for usual documents. */
export async function benchCarrying(dataFolder: string, standIns: StandIns): Promise<void> {
  const webdav = webdavRepository({ ...standIns.webdav, root: "bench" });
  await webdav.prepare();
  const dav = createClient(standIns.webdav.address, { username: standIns.webdav.user, password: standIns.webdav.password });
  const s3 = standIns.bucket;
  const access = { address: s3.address, region: "us-east-1", bucket: s3.bucket ?? "", user: s3.user, password: s3.password };
  const bucket = bucketRepository({ ...access, root: "bench" });
  await bucket.prepare();
  const bareS3 = new S3Client({
    endpoint: s3.address,
    region: access.region,
    forcePathStyle: true,
    credentials: { accessKeyId: s3.user, secretAccessKey: s3.password },
    requestChecksumCalculation: "WHEN_REQUIRED",
  });
  for (const size of SIZES) {
    const files = await makeFiles(path.join(dataFolder, "carried"), size);
    await dav.createDirectory(`/bare${size}`);
    await webdav.makeFolder(`documents${size}`);
    print("carrying to WebDAV", {
      bytes: size,
      ...(await carried(
        files,
        (name, f) => dav.putFileContents(`/bare${size}/${name}`, f.body),
        (name, f) => webdav.put(`documents${size}/${name}`, f.file, f.sha256),
      )),
    });
    print("carrying to a bucket", {
      bytes: size,
      ...(await carried(
        files,
        (name, f) => bareS3.send(new PutObjectCommand({ Bucket: access.bucket, Key: `bare${size}/${name}`, Body: f.body })),
        (name, f) => bucket.put(`documents${size}/${name}`, f.file, f.sha256),
      )),
    });
  }
}

interface LocalFile {
  readonly file: string;
  readonly body: Buffer;
  readonly sha256: Sha256;
}

async function makeFiles(folder: string, size: number): Promise<readonly LocalFile[]> {
  await mkdir(folder, { recursive: true });
  return Array.from({ length: CARRIED }, (_, i) => {
    const body = Buffer.alloc(size, `${i} `);
    const file = path.join(folder, String(i));
    writeFileSync(file, body);
    return { file, body, sha256: parseSha256(createHash("sha256").update(body).digest("hex")) };
  });
}

/** The same files, bare and through the port, with the same number at once; in turns, so that both meet the same machine. */
async function carried(
  files: readonly LocalFile[],
  bare: (name: string, file: LocalFile) => Promise<unknown>,
  ours: (name: string, file: LocalFile) => Promise<unknown>,
): Promise<Record<string, number>> {
  const all = (turn: number, act: (name: string, file: LocalFile) => Promise<unknown>): Promise<number> =>
    seconds(() =>
      sideBySide(
        files.map((f, i) => () => act(`${turn}-${i}`, f)),
        AT_ONCE,
      ),
    );
  const bareTimes: number[] = [];
  const ourTimes: number[] = [];
  for (let turn = 0; turn < TURNS; turn++) {
    bareTimes.push(await all(turn, bare));
    ourTimes.push(await all(turn, ours));
  }
  const middle = (times: readonly number[]): number => [...times].sort((a, b) => a - b)[Math.floor(times.length / 2)] ?? 0;
  const bareSeconds = middle(bareTimes);
  const ourSeconds = middle(ourTimes);
  return {
    files: CARRIED,
    atOnce: AT_ONCE,
    filesPerSecond: short(CARRIED / ourSeconds),
    bareFilesPerSecond: short(CARRIED / bareSeconds),
    share: short(bareSeconds / ourSeconds),
  };
}
