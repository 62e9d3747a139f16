import { createReadStream } from "node:fs";
import { open, readFile } from "node:fs/promises";
import type { Readable } from "node:stream";

/** Files up to this are sent in one piece, bytes: most documents; a stream costs a small file more than its bytes. */
const WHOLE_MAX = 4 * 1024 * 1024;
/** Files between these are read into memory that is used again, bytes: smaller ones need hardly any, larger ones are few. */
const AGAIN_MIN = 32 * 1024;
const AGAIN_MAX = 1024 * 1024;
/** Pieces of memory that are kept for that. */
const KEPT_MAX = 8;

/** Sends a local file: in one piece when it is small, else as a stream that is closed whatever happens. Answers what sending answers. */
export type WithBody = <T>(localFile: string, sizeBytes: number, send: (body: Buffer | Readable) => Promise<T>) => Promise<T>;

/**
 * Makes what sends local files to one server. New memory for each file costs more than reading it, so it is used again once the server has said that it
 * has the file. Each server has its own: one that says so too early gets nothing but documents that go to it anyway.
 */
export function makeWithBody(): WithBody {
  const kept: Buffer[] = [];
  return async (localFile, sizeBytes, send) => {
    if (sizeBytes > WHOLE_MAX) {
      const stream = createReadStream(localFile);
      try {
        return await send(stream);
      } finally {
        stream.destroy();
      }
    }
    if (sizeBytes < AGAIN_MIN || sizeBytes > AGAIN_MAX) return send(await readFile(localFile));
    const memory = kept.pop() ?? Buffer.allocUnsafeSlow(AGAIN_MAX);
    const answer = await send(await readInto(memory, localFile, sizeBytes));
    // After an error it may still be on its way somewhere: that piece is given up.
    if (kept.length < KEPT_MAX) kept.push(memory);
    return answer;
  };
}

/** Reads a file of a known size. Shorter when the file is. */
async function readInto(memory: Buffer, localFile: string, sizeBytes: number): Promise<Buffer> {
  const handle = await open(localFile);
  try {
    let read = 0;
    while (read < sizeBytes) {
      const { bytesRead } = await handle.read(memory, read, sizeBytes - read, read);
      if (bytesRead === 0) break;
      read += bytesRead;
    }
    return memory.subarray(0, read);
  } finally {
    await handle.close();
  }
}
