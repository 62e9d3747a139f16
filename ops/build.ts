import { spawn } from "node:child_process";
import { createHash } from "node:crypto";
import { open, readdir, readFile, rm, writeFile } from "node:fs/promises";
import path from "node:path";
import { build } from "esbuild";
import { isAlive, projectRoot, waitFor } from "./processes.ts";

const stamp = path.join(projectRoot, ".next", "amber-build");
/** Programs that run beside the web program, each built to one file: that starts in a third of the time of the sources, and after a crash every second counts. */
const programs = {
  worker: "src/worker/main.ts",
  "office-child": "src/server/reading/office-child.ts",
  webdav: "standins/webdav.ts",
  bucket: "standins/bucket.ts",
  scanner: "standins/scanner.ts",
  business: "standins/business-system/main.ts",
} as const;
export type Program = keyof typeof programs;
export const programsFolder = path.join(projectRoot, ".next", "programs");

/** The built file of a program; made by `buildOnce`. */
export const programFile = (name: Program): string => path.join(programsFolder, `${name}.mjs`);

const lockFile = path.join(projectRoot, ".amber-build.lock");

/** Hash of all that goes into the build. */
async function sourceHash(): Promise<string> {
  const hash = createHash("sha256");
  const add = async (file: string): Promise<void> => void hash.update(`${file}\n`).update(await readFile(path.join(projectRoot, file)));
  for (const file of ["package-lock.json", "next.config.ts", "tsconfig.json"]) await add(file);
  for (const folder of ["src", "standins", "scenario"]) {
    const entries = await readdir(path.join(projectRoot, folder), { recursive: true, withFileTypes: true });
    const files = entries
      .filter((e) => e.isFile() && !/\.test\.tsx?$/.test(e.name))
      .map((e) => path.relative(projectRoot, path.join(e.parentPath, e.name)))
      .sort();
    for (const file of files) await add(file);
  }
  return hash.digest("hex");
}

/** Builds the web program unless the build that is there was made of the same sources. Two that start at once build once. */
export async function buildOnce(): Promise<void> {
  const hash = await sourceHash();
  const isBuilt = async (): Promise<boolean> => (await readFile(stamp, "utf8").catch(() => "")) === hash;
  if (await isBuilt()) return;
  const mine = await waitFor(takeLock, 15 * 60_000, 500);
  if (!mine) throw new Error(`another build is still running; if not, remove ${lockFile} if there is none`);
  try {
    if (await isBuilt()) return;
    console.error("Building (once, about a minute)");
    await new Promise<void>((resolve, reject) => {
      const child = spawn(process.execPath, [path.join(projectRoot, "node_modules/next/dist/bin/next"), "build"], {
        cwd: projectRoot,
        stdio: ["ignore", "pipe", "inherit"],
        env: { ...process.env, NEXT_TELEMETRY_DISABLED: "1", NODE_ENV: "production" },
      });
      let out = "";
      child.stdout.on("data", (piece: Buffer) => (out += piece.toString()));
      child.on("error", reject);
      child.on("exit", (code) => (code === 0 ? resolve() : reject(new Error(`the build failed\n${out.slice(-4000)}`))));
    });
    await buildPrograms();
    await writeFile(stamp, hash);
  } finally {
    await rm(lockFile, { force: true });
  }
}

/** Builds the programs that run beside the web program: some seconds. */
export async function buildPrograms(): Promise<void> {
  await build({
    entryPoints: programs,
    outdir: programsFolder,
    outExtension: { ".js": ".mjs" },
    absWorkingDir: projectRoot,
    bundle: true,
    platform: "node",
    format: "esm",
    target: "node20",
    packages: "external",
    logLevel: "error",
  });
}

async function takeLock(): Promise<boolean> {
  try {
    const handle = await open(lockFile, "wx");
    await handle.write(String(process.pid));
    await handle.close();
    return true;
  } catch {
    const holder = Number(await readFile(lockFile, "utf8").catch(() => "0"));
    if (holder > 0 && !isAlive(holder)) await rm(lockFile, { force: true });
    return false;
  }
}
