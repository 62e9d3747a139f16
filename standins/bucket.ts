/**
 * An S3-compatible server on loopback over a folder, for the demo and the tests: path-style addresses, signed requests, objects, copies,
 * listings by prefix. Does not imitate: conditional writes, versions, several parts, permissions of buckets. It knows one key pair, S3RVER/S3RVER.
 */
import { mkdir } from "node:fs/promises";
import S3rver from "s3rver";
import { startFaults } from "./faults.ts";
import { argumentsOf, endWithParent, freeLoopbackPort } from "./standin.ts";

const { port, folder, bucket } = argumentsOf();
await mkdir(folder, { recursive: true });
const behind = await freeLoopbackPort();
await new S3rver({
  address: "127.0.0.1",
  port: behind,
  silent: true,
  directory: folder,
  configureBuckets: [{ name: bucket, configs: [] }],
}).run();
await startFaults({ port, behind });
endWithParent();
console.log(`ready http://127.0.0.1:${port}`);
