import { createHash } from "node:crypto";
import { mkdir, mkdtemp, readFile, rename, rm, writeFile } from "node:fs/promises";
import net from "node:net";
import os from "node:os";
import path from "node:path";
import { parseSha256 } from "#core/shared/brand.ts";
import { bucketRepository } from "./repositories/bucket.ts";
import { folderRepository } from "./repositories/disk.ts";
import { webdavRepository } from "./repositories/webdav.ts";
import { describeRepository } from "./repository.contract.ts";
import { startStandIn, type StandIn } from "../../../standins/start-standin.ts";
import { GetObjectCommand, PutObjectCommand, S3Client } from "@aws-sdk/client-s3";

/** Each server as most are, and as some are: it keeps to no condition and leaves half of what breaks off. */
const servers = ["webdav", "bucket", "careless-webdav", "careless-bucket"] as const;
type Server = (typeof servers)[number];
const standIns: Partial<Record<Server, StandIn>> = {};
let folder = "";
const freePort = (): Promise<number> =>
  new Promise((resolve) => {
    const server = net.createServer().listen(0, "127.0.0.1", () => {
      const at = server.address();
      server.close(() => resolve(typeof at === "object" && at ? at.port : 0));
    });
  });
beforeAll(async () => {
  folder = await mkdtemp(path.join(os.tmpdir(), "amber-standins-"));
  const ports = new Set<number>();
  while (ports.size < servers.length) ports.add(await freePort());
  await Promise.all(
    servers.map(async (name, i) => {
      const careless = name.startsWith("careless");
      const kind = name.endsWith("webdav") ? "webdav" : "bucket";
      standIns[name] = await startStandIn(kind, { port: [...ports][i] ?? 0, folder: path.join(folder, name), careless });
    }),
  );
  // Beside the journeys, which go first, four programs take their time to start.
}, 180_000);
afterAll(async () => {
  for (const standIn of Object.values(standIns)) await standIn.stop();
  await rm(folder, { recursive: true, force: true });
});
const standIn = (name: Server): StandIn => {
  const found = standIns[name];
  if (!found) throw new Error("not started");
  return found;
};
const sha256Of = (text: string) => parseSha256(createHash("sha256").update(text).digest("hex"));
const bucketAt = (server: StandIn, root: string) =>
  bucketRepository({ address: server.url, region: "us-east-1", bucket: "merrowick", root, user: "S3RVER", password: "S3RVER" });
/** Every test gets a root of its own on the same server. */
let roots = 0;

describeRepository("a folder on disk", async () => {
  const root = await mkdtemp(path.join(os.tmpdir(), "amber-repository-"));
  return {
    repository: folderRepository(root),
    putBehind: async (relative, text) => {
      await mkdir(path.dirname(path.join(root, relative)), { recursive: true });
      await writeFile(path.join(root, relative), text);
    },
    readBehind: (relative) => readFile(path.join(root, relative), "utf8"),
    unplug: async () => {
      // A share that is not mounted leaves an empty folder.
      await rename(root, `${root}-away`);
      await mkdir(root);
      return async () => {
        await rm(root, { recursive: true });
        await rename(`${root}-away`, root);
      };
    },
    end: () => rm(root, { recursive: true, force: true }),
  };
});

for (const [what, name] of [
  ["a WebDAV server", "webdav"],
  ["a careless WebDAV server", "careless-webdav"],
] as const)
  describeRepository(what, async () => {
    const root = `root ${roots++}`;
    const behind = (relative: string): string => path.join(folder, name, root, relative);
    const server = standIn(name);
    return {
      repository: webdavRepository({ address: server.url, root, user: "amber", password: "clip" }),
      putBehind: async (relative, text) => {
        await mkdir(path.dirname(behind(relative)), { recursive: true });
        await writeFile(behind(relative), text);
      },
      readBehind: (relative) => readFile(behind(relative), "utf8"),
      unplug: async () => {
        await server.setFaults({ away: true });
        return () => server.setFaults({});
      },
      setFaults: server.setFaults,
      end: () => server.setFaults({}),
    };
  });

for (const [what, name] of [
  ["a bucket", "bucket"],
  ["a careless bucket", "careless-bucket"],
] as const)
  describeRepository(what, async () => {
    const root = `root-${roots++}`;
    const server = standIn(name);
    const other = new S3Client({
      endpoint: server.url,
      region: "us-east-1",
      forcePathStyle: true,
      credentials: { accessKeyId: "S3RVER", secretAccessKey: "S3RVER" },
      requestChecksumCalculation: "WHEN_REQUIRED",
    });
    const key = (relative: string): string => `${root}/${relative}`;
    return {
      repository: bucketAt(server, root),
      putBehind: async (relative, text) => {
        await other.send(new PutObjectCommand({ Bucket: "merrowick", Key: key(relative), Body: text }));
      },
      readBehind: async (relative) =>
        (await (await other.send(new GetObjectCommand({ Bucket: "merrowick", Key: key(relative) }))).Body?.transformToString()) ?? "",
      unplug: async () => {
        await server.setFaults({ away: true });
        return () => server.setFaults({});
      },
      setFaults: server.setFaults,
      end: () => server.setFaults({}),
    };
  });

test("wrong credentials are said to be wrong, in the check too", async () => {
  const wrong = [
    webdavRepository({ address: standIn("webdav").url, root: "x", user: "amber", password: "guess" }),
    bucketRepository({
      address: standIn("bucket").url,
      region: "us-east-1",
      bucket: "merrowick",
      root: "",
      user: "guess",
      password: "guess",
    }),
  ];
  for (const repository of wrong) {
    await expect(repository.list("")).rejects.toMatchObject({ code: "repository-refused" });
    const steps = await repository.probe(true);
    expect(steps.find((s) => s.step === "reach")?.outcome).toBe("ok");
    expect(steps.find((s) => s.step === "signIn")).toMatchObject({ outcome: "failed", why: "repository-password" });
    expect(steps.find((s) => s.step === "write")?.outcome).toBe("skipped");
  }
});
test("a bucket that is not there is said to be missing, not its password wrong", async () => {
  const repository = bucketRepository({
    address: standIn("bucket").url,
    region: "us-east-1",
    bucket: "merrowic",
    root: "",
    user: "S3RVER",
    password: "S3RVER",
  });
  const steps = await repository.probe(true);
  expect(steps.find((s) => s.step === "reach")?.outcome).toBe("ok");
  expect(steps.find((s) => s.step === "signIn")).toMatchObject({ outcome: "failed", why: "bucket-missing" });
});
test("an address where nobody answers is said to be away", async () => {
  const nobody = webdavRepository({ address: `http://127.0.0.1:${await freePort()}`, root: "", user: "a", password: "b" });
  await expect(nobody.hashOf("a.pdf")).rejects.toMatchObject({ code: "repository-unreachable" });
  expect((await nobody.probe(true))[0]).toMatchObject({ step: "reach", outcome: "failed", why: "repository-unreachable" });
});

test.each([
  ["a small one", "torn"],
  // Larger ones are not held in memory: they are signed all the same.
  ["one that flows", "torn".repeat(1_500_000)],
])("a server that hashes what it gets keeps nothing of a damaged file: %s", async (_, text) => {
  const bucket = bucketAt(standIn("bucket"), `torn-${roots++}`);
  await bucket.prepare();
  const file = path.join(folder, "torn.txt");
  await writeFile(file, text);
  await expect(bucket.put("a.txt", file, sha256Of("whole"))).rejects.toMatchObject({ code: "bytes-damaged" });
  expect(await bucket.look("a.txt")).toBeNull();
  expect(await bucket.put("a.txt", file, sha256Of(text))).toEqual({ kind: "put" });
  expect(await bucket.hashOf("a.txt")).toBe(sha256Of(text));
});

test("whether the bucket is ours is asked once for all that are on their way, and again for what comes later", async () => {
  const server = standIn("bucket");
  const bucket = bucketAt(server, `many-${roots++}`);
  await bucket.prepare();
  const putOne = async (name: string): Promise<void> => {
    const file = path.join(folder, `${name}.txt`);
    await writeFile(file, name);
    expect(await bucket.put(`a/${name}.txt`, file, sha256Of(name))).toEqual({ kind: "put" });
  };
  await putOne("first");
  const before = await server.calls();
  await Promise.all(Array.from({ length: 8 }, (_, n) => putOne(`side ${n}`)));
  const after = await server.calls();
  expect(after - before).toBeGreaterThanOrEqual(9);
  // Each put and a question for each would be 16; who begins before the first has ended shares its question.
  expect(after - before).toBeLessThanOrEqual(12);
  await putOne("last");
  expect((await server.calls()) - after).toBe(2);
});

describe("Putting takes no more calls than a server needs to be trusted with it", () => {
  const file = async (text: string) => {
    const at = path.join(folder, "to-put.txt");
    await writeFile(at, text);
    return { at, sha256: sha256Of(text) };
  };
  test.each([
    // A careful one: the file. A careless one: the file under another name, then its own.
    ["webdav", 1],
    ["careless-webdav", 2],
    // A careful one: the file, then our mark. A careless one is asked for the name first.
    ["bucket", 2],
    ["careless-bucket", 3],
  ] as const)("%s: %d", async (name, calls) => {
    const server = standIn(name);
    const root = `calls-${roots++}`;
    const repository = name.endsWith("webdav")
      ? webdavRepository({ address: server.url, root, user: "amber", password: "clip" })
      : bucketAt(server, root);
    await repository.prepare();
    const first = await file("the first");
    await repository.put("Orders/first.txt", first.at, first.sha256);
    const before = await server.calls();
    const second = await file("the second");
    expect(await repository.put("Orders/second.txt", second.at, second.sha256)).toEqual({ kind: "put" });
    expect((await server.calls()) - before).toBe(calls);
    const foreign = await file("not the first");
    expect(await repository.put("Orders/first.txt", foreign.at, foreign.sha256)).toMatchObject({ kind: "taken", sha256: first.sha256 });
    expect(await repository.hashOf("Orders/first.txt")).toBe(first.sha256);
  });
});
