import { createReadStream } from "node:fs";
import { readFile } from "node:fs/promises";
import type { Readable } from "node:stream";

/** Files up to this are sent in one piece, bytes: most papers; a stream costs a small file more than its bytes. */
const WHOLE_MAX = 4 * 1024 * 1024;

/** Sends a local file: in one piece when it is small, else as a stream that is closed whatever happens. */
export async function withBody<T>(localFile: string, sizeBytes: number, send: (body: Buffer | Readable) => Promise<T>): Promise<T> {
  if (sizeBytes <= WHOLE_MAX) return send(await readFile(localFile));
  const stream = createReadStream(localFile);
  try {
    return await send(stream);
  } finally {
    stream.destroy();
  }
}
