import { randomUUID } from "node:crypto";
import { mkdtemp, rm, writeFile } from "node:fs/promises";
import os from "node:os";
import path from "node:path";
import { Readable } from "node:stream";
import { systemCode } from "../system-code.ts";
import { hashStream, type ProbeStep, type Repository } from "../repository.ts";

const steps = ["reach", "signIn", "write", "readBack", "rename", "remove", "clock", "space"] as const;

/**
 * Tries what the program will do with a repository, in a folder of its own: reach, sign in, write, read back, rename, remove; then the clock
 * difference and the free space. What cannot be tried because an earlier step failed is skipped. Never throws.
 */
export async function probeWith(
  repository: Repository,
  isNew: boolean,
  kind: { readonly reach: () => Promise<void>; readonly signIn?: () => Promise<void>; readonly space: () => Promise<number | null> },
): Promise<readonly ProbeStep[]> {
  const done: ProbeStep[] = [];
  const local = await mkdtemp(path.join(os.tmpdir(), "amber-check-"));
  const file = path.join(local, "check.txt");
  const text = `A check of this connection ${randomUUID()}\n`;
  const folder = `.amber-clip-check-${randomUUID().slice(0, 8)}`;
  const [first, second] = [`${folder}/Chëck 1.txt`, `${folder}/Chëck 2.txt`];
  let broken = false;
  const attempt = async (step: ProbeStep["step"], act: () => Promise<void>): Promise<void> => {
    if (broken) return void done.push({ step, outcome: "skipped" });
    try {
      await act();
      done.push({ step, outcome: "ok" });
    } catch (error) {
      broken = true;
      done.push({ step, outcome: "failed", why: systemCode(error) ?? "unknown" });
    }
  };
  try {
    await writeFile(file, text);
    const sha256 = await hashStream(Readable.from([Buffer.from(text)]));
    await attempt("reach", kind.reach);
    await attempt("signIn", async () => {
      await kind.signIn?.();
      if (isNew) await repository.prepare();
      else await repository.makeFolder(folder);
    });
    await attempt("write", async () => {
      if ((await repository.put(first, file, sha256)).kind !== "put") throw Object.assign(new Error("taken"), { code: "not-proven" });
    });
    const writtenMs = Date.now();
    let clock: number | null = null;
    await attempt("readBack", async () => {
      if ((await repository.hashOf(first)) !== sha256) throw Object.assign(new Error("other bytes"), { code: "not-proven" });
      const seen = await repository.look(first);
      clock = seen && seen.modifiedMs > 0 ? Math.round((seen.modifiedMs - writtenMs) / 1000) : null;
    });
    await attempt("rename", async () => {
      if ((await repository.move(first, second)) !== "moved" || (await repository.hashOf(second)) !== sha256)
        throw Object.assign(new Error("not moved"), { code: "not-proven" });
    });
    await attempt("remove", async () => {
      await repository.remove(second, sha256);
      if ((await repository.look(second)) !== null) throw Object.assign(new Error("still there"), { code: "not-proven" });
      await repository.removeEmptyFolder(folder);
    });
    done.push(
      broken
        ? { step: "clock", outcome: "skipped" }
        : clock === null
          ? { step: "clock", outcome: "unknown" }
          : { step: "clock", outcome: "ok", value: clock },
    );
    const space = broken ? null : await kind.space().catch(() => null);
    done.push(
      broken
        ? { step: "space", outcome: "skipped" }
        : space === null
          ? { step: "space", outcome: "unknown" }
          : { step: "space", outcome: "ok", value: space },
    );
    return done;
  } catch {
    return [...done, ...steps.slice(done.length).map((step) => ({ step, outcome: "skipped" as const }))];
  } finally {
    await rm(local, { recursive: true, force: true });
  }
}
