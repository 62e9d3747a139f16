/**
 * An S3-compatible server on loopback over a folder, for the demo and the tests: path-style addresses, signed requests, objects, copies,
 * listings by prefix, writes under the condition that nothing stands there. Does not imitate: versions, several parts, permissions of buckets. It knows one key pair, S3RVER/S3RVER.
 */
import { mkdir } from "node:fs/promises";
import S3rver from "s3rver";
import { startFaults } from "./faults.ts";
import { argumentsOf, endWithParent, freeLoopbackPort, standsBelow } from "./standin.ts";

/** Ending under which the server keeps an object's bytes. */
const OBJECT = "._S3rver_object";

const { port, folder, bucket, careless } = argumentsOf();
await mkdir(folder, { recursive: true });
const behind = await freeLoopbackPort();
await new S3rver({
  address: "127.0.0.1",
  port: behind,
  silent: true,
  directory: folder,
  configureBuckets: [{ name: bucket, configs: [] }],
}).run();
await startFaults({ port, behind, careless, stands: (url) => standsBelow(folder, url, OBJECT) });
endWithParent();
console.log(`ready http://127.0.0.1:${port}`);
