import { randomBytes } from "node:crypto";
import { chmod, mkdir, readFile, writeFile } from "node:fs/promises";
import path from "node:path";
import { buildOnce, buildPrograms, programFile, programsFolder } from "./build.ts";
import { databaseBeside, startCluster } from "./postgres.ts";
import { endLeftOver, freePort, isPortFree, keepRunning, type Kept, projectRoot, waitFor } from "./processes.ts";

export interface InstanceOptions {
  readonly dataFolder: string;
  readonly port: number;
  readonly isTest?: boolean;
  /** Compiles pages when they are opened, so that they follow the sources. */
  readonly isDev?: boolean;
  /** Fills the database before web and worker start. Runs in a process of its own. */
  readonly fill: "demo" | "empty" | "none";
  /** Of the demo's filed documents only every nth: a world that is made quickly. */
  readonly everyNth?: number;
  readonly jobs?: number;
  /** Port that mail is taken in at; a free one when it is not said. */
  readonly mailPort?: number;
  readonly say: (line: string) => void;
}

/** A running Amber Clip: database, web, worker. */
export interface Instance {
  readonly url: string;
  readonly databaseUrl: string;
  readonly env: Readonly<Record<string, string>>;
  readonly processes: Readonly<Record<"postgres" | "web" | "worker", Kept>>;
  /** Simulated repositories that run beside it: their addresses and what they are signed in to with. */
  readonly standIns: StandIns;
  /** The stand-in business system's pages. */
  readonly business: string;
  /** The stand-in scanner's control page. */
  readonly scanner: string;
  /** Where mail is taken in. */
  readonly mail: { readonly host: string; readonly port: number; readonly domain: string };
  stop(): Promise<void>;
}

/** The stand-ins of the demo, as `standins.json` in the data folder says them. */
export type StandIns = Readonly<
  Record<"webdav" | "bucket", { readonly address: string; readonly user: string; readonly password: string; readonly bucket?: string }>
>;

/** How long everything may take to answer after its start, ms. */
const READY_MS = 90_000;
/** What stands behind the @ of the demo's queues. */
const MAIL_DOMAIN = "papers.merrowick.example";

/** Builds if needed, starts database, web and worker below a data folder, and waits until health is 200. Whatever it started is stopped again when it fails. */
export async function startInstance(options: InstanceOptions): Promise<Instance> {
  const { dataFolder, port, say } = options;
  const runFolder = path.join(dataFolder, "run");
  for (const folder of [runFolder, path.join(dataFolder, "repository"), path.join(dataFolder, "landing"), path.join(dataFolder, "logs")])
    await mkdir(folder, { recursive: true });
  for (const name of ["web", "worker", "webdav", "bucket", "scanner", "business"])
    await endLeftOver(path.join(runFolder, `${name}.pid`), dataFolder);
  await endLeftOver(path.join(dataFolder, "postgres", "pid"), dataFolder);
  if (!(await isPortFree(port))) throw new Error(`port ${port} is in use; choose another with --port`);
  await (options.isDev ? buildPrograms() : buildOnce());
  const secretFile = path.join(dataFolder, "secret");
  const secret = await readFile(secretFile, "utf8").catch(() => randomBytes(32).toString("hex"));
  await writeFile(secretFile, secret, { mode: 0o600 });
  await chmod(secretFile, 0o600);
  const scenario = options.fill === "none" ? null : await import("#scenario/fill-world.ts");
  const begun = options.fill === "demo" && scenario?.isFilled(dataFolder) === false ? scenario.beginWorld(options.everyNth) : undefined;
  const started: Kept[] = [];
  const stop = async (): Promise<void> => {
    for (const kept of started.toReversed()) await kept.stop();
  };
  try {
    say("Starting PostgreSQL");
    const cluster = await startCluster(path.join(dataFolder, "postgres"), { dataFolder, ...(options.isTest ? { isTest: true } : {}) });
    started.push(cluster.kept);
    const url = `http://127.0.0.1:${port}`;
    const mail = { host: "127.0.0.1", port: options.mailPort ?? (await freePort()), domain: MAIL_DOMAIN };
    const business = `http://127.0.0.1:${await freePort()}`;
    const [businessKey, businessSecret] = [randomBytes(16).toString("hex"), randomBytes(32).toString("hex")];
    const env: Record<string, string> = {
      PATH: process.env["PATH"] ?? "/usr/bin:/bin",
      HOME: process.env["HOME"] ?? "/",
      NODE_ENV: "production",
      NEXT_TELEMETRY_DISABLED: "1",
      TZ: process.env["TZ"] ?? "Europe/London",
      AMBER_PROGRAMS: programsFolder,
      AMBER_DATABASE_URL: cluster.url,
      AMBER_DATA: dataFolder,
      AMBER_URL: url,
      AMBER_SECRET: secret,
      AMBER_JOBS: String(options.jobs ?? 2),
      AMBER_MAIL_PORT: String(mail.port),
      AMBER_MAIL_HOST: mail.host,
      AMBER_MAIL_DOMAIN: mail.domain,
      AMBER_BUSINESS_URL: business,
      AMBER_BUSINESS_KEY: businessKey,
      AMBER_BUSINESS_SECRET: businessSecret,
      // The pinned client library for buckets runs on this Node; its notice would only fill the logs.
      AWS_SDK_JS_NODE_VERSION_SUPPORT_WARNING_DISABLED: "true",
    };
    // For tools that look at a running instance (bin/check). Holds secrets, like the file it stands beside.
    await writeFile(path.join(runFolder, "environment.json"), JSON.stringify(env), { mode: 0o600 });
    const { migrateDatabase } = await import("#server/db/migrate.ts");
    await migrateDatabase(cluster.url);
    if (scenario) {
      Object.assign(process.env, env);
      await scenario.fillWorld({ withRecords: options.fill === "demo", say, url, dataFolder, begun });
    }
    const log = (name: string): string => path.join(dataFolder, "logs", `${name}.log`);
    const pid = (name: string): string => path.join(runFolder, `${name}.pid`);
    const web = keepRunning("web", {
      command: process.execPath,
      args: [
        path.join(projectRoot, "node_modules/next/dist/bin/next"),
        options.isDev ? "dev" : "start",
        "-p",
        String(port),
        "-H",
        "127.0.0.1",
      ],
      env: options.isDev ? { ...env, NODE_ENV: "development" } : env,
      logFile: log("web"),
      pidFile: pid("web"),
      cwd: projectRoot,
    });
    started.push(web);
    const worker = keepRunning("worker", {
      command: process.execPath,
      args: [programFile("worker")],
      env,
      logFile: log("worker"),
      pidFile: pid("worker"),
      cwd: projectRoot,
    });
    started.push(worker);
    const standIns = {
      webdav: { address: `http://127.0.0.1:${await freePort()}`, user: "amber", password: "clip" },
      bucket: { address: `http://127.0.0.1:${await freePort()}`, user: "S3RVER", password: "S3RVER", bucket: "merrowick" },
    };
    for (const kind of ["webdav", "bucket"] as const)
      started.push(
        keepRunning(kind, {
          command: process.execPath,
          args: [
            // The bucket server makes its page tokens with an old cipher that OpenSSL keeps apart.
            "--openssl-legacy-provider",
            programFile(kind),
            "--port",
            new URL(standIns[kind].address).port,
            "--folder",
            path.join(dataFolder, "standins", kind),
          ],
          // The variable says whose process it is, so that one that is left over is found and ended.
          env: { PATH: env["PATH"] ?? "", HOME: env["HOME"] ?? "/", AMBER_DATA: dataFolder },
          logFile: log(kind),
          pidFile: pid(kind),
          cwd: projectRoot,
        }),
      );
    const scanner = `http://127.0.0.1:${await freePort()}`;
    started.push(
      keepRunning("scanner", {
        command: process.execPath,
        args: [
          programFile("scanner"),
          "--port",
          new URL(scanner).port,
          "--folder",
          path.join(dataFolder, "standins", "scanner"),
          "--url",
          url,
          "--watched",
          path.join(dataFolder, "watched"),
        ],
        env: { PATH: env["PATH"] ?? "", HOME: env["HOME"] ?? "/", AMBER_DATA: dataFolder, AMBER_SCANNER_KEY: await scannerKey(dataFolder) },
        logFile: log("scanner"),
        pidFile: pid("scanner"),
        cwd: projectRoot,
      }),
    );
    started.push(
      keepRunning("business", {
        command: process.execPath,
        args: [programFile("business"), "--port", new URL(business).port, "--hook", `${url}/api/v1/business-system/events`],
        env: {
          PATH: env["PATH"] ?? "",
          HOME: env["HOME"] ?? "/",
          AMBER_DATA: dataFolder,
          BUSINESS_DATABASE_URL: await databaseBeside(cluster.url, "business"),
          BUSINESS_KEY: businessKey,
          BUSINESS_HOOK_SECRET: businessSecret,
        },
        logFile: log("business"),
        pidFile: pid("business"),
        cwd: projectRoot,
      }),
    );
    if (options.fill === "demo") await loadBusiness(business, businessKey, path.join(dataFolder, "business-filled"));
    await writeFile(path.join(dataFolder, "ways-in.json"), JSON.stringify({ mail, scanner, business, businessKey }, null, 2), {
      mode: 0o600,
    });
    await writeFile(path.join(dataFolder, "standins.json"), JSON.stringify(standIns, null, 2), { mode: 0o600 });
    const ready = await waitFor(async () => (await fetch(`${url}/api/v1/health`)).status === 200, READY_MS, 150);
    if (!ready) throw new Error(`it does not answer; see ${path.join(dataFolder, "logs")}`);
    return {
      url,
      databaseUrl: cluster.url,
      env,
      processes: { postgres: cluster.kept, web, worker },
      mail,
      scanner,
      business,
      standIns,
      stop,
    };
  } catch (error) {
    begun?.endDrawing();
    await stop();
    throw error;
  }
}

/** Records of the demo world sent to the stand-in business system in one call. */
const LOADED_AT_ONCE = 500;

/** Sends the demo world's records to the stand-in business system, once: what it tells of is what Amber Clip has a copy of. */
async function loadBusiness(address: string, key: string, doneFile: string): Promise<void> {
  const isDone = await readFile(doneFile).then(
    () => true,
    () => false,
  );
  if (isDone) return;
  if (!(await waitFor(async () => (await fetch(address)).ok, READY_MS, 150)))
    throw new Error("the stand-in business system does not answer");
  const { makeWorld } = await import("#scenario/world.ts");
  const { asBusinessRecord } = await import("#scenario/business-records.ts");
  const { records } = makeWorld();
  for (let at = 0; at < records.length; at += LOADED_AT_ONCE) {
    const sent = await fetch(`${address}/api/load`, {
      method: "POST",
      headers: { authorization: `Bearer ${key}` },
      body: JSON.stringify(records.slice(at, at + LOADED_AT_ONCE).map(asBusinessRecord)),
    });
    if (!sent.ok) throw new Error(`the stand-in business system does not take the records: ${sent.status}`);
  }
  await writeFile(doneFile, "");
}

/** The key that the stand-in scanner sends with: the clerk's of the demo; none where there is no demo world. */
async function scannerKey(dataFolder: string): Promise<string> {
  try {
    const value: unknown = JSON.parse(await readFile(path.join(dataFolder, "credentials.json"), "utf8"));
    return (value as { keys?: { clerk?: string } }).keys?.clerk ?? "";
  } catch {
    return "";
  }
}
