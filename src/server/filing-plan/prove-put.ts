import { createReadStream } from "node:fs";
import type { Sha256 } from "#core/shared/brand.ts";
import { hashStream, type Repository } from "../ports/repository.ts";

/**
 * Reads back what was put and says what is wrong with it; null when it is proven (promise 3). Where the local file is not what it should be, what was put
 * of it is taken back: it would stand there under our name, and each further try would put one more beside it.
 */
export async function provePut(
  repository: Repository,
  path: string,
  localFile: string,
  sha256: Sha256,
): Promise<"not-proven" | "bytes-damaged" | null> {
  const there = await repository.hashOf(path);
  if (there === sha256) return null;
  const held = await hashStream(createReadStream(localFile));
  if (held === sha256) return "not-proven";
  if (there === held) await repository.takeBack(path, held);
  return "bytes-damaged";
}
