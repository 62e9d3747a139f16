import { createReadStream } from "node:fs";
import { Readable } from "node:stream";
import { packFile } from "../packs/make-pack.ts";
import type { Actor } from "../people/load-actor.ts";
import { problem } from "./door.ts";
import { disposition, shut } from "./serve-content.ts";

/** Serves a pack of the person's own, streamed. */
export async function servePack(actor: Actor, id: string): Promise<Response> {
  const pack = await packFile(actor, id);
  if (!pack.ok) return problem(pack.refusal);
  const { file, name, sizeBytes, type } = pack.value;
  return new Response(Readable.toWeb(createReadStream(file)) as ReadableStream, {
    headers: { ...shut, "content-type": type, "content-length": String(sizeBytes), "content-disposition": disposition("attachment", name) },
  });
}
