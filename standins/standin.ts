import { access } from "node:fs/promises";
import net from "node:net";
import path from "node:path";
import { parseArgs } from "node:util";

/** What every stand-in is started with. */
export interface StandInArguments {
  readonly port: number;
  readonly folder: string;
  readonly user: string;
  readonly password: string;
  readonly bucket: string;
  /** Keeps to no condition, and leaves half of what breaks off, as some servers do. */
  readonly careless: boolean;
}

/** Reads a stand-in's arguments; ends with a line that says what is missing. */
export function argumentsOf(): StandInArguments {
  const { values } = parseArgs({
    options: {
      port: { type: "string" },
      folder: { type: "string" },
      user: { type: "string", default: "amber" },
      password: { type: "string", default: "clip" },
      bucket: { type: "string", default: "merrowick" },
      careless: { type: "boolean", default: false },
    },
  });
  const port = Number(values.port);
  if (!Number.isInteger(port) || port < 1 || port > 65_535 || values.folder === undefined) {
    console.error("--port N and --folder DIR are needed");
    process.exit(1);
  }
  return {
    port,
    folder: path.resolve(values.folder),
    user: values.user,
    password: values.password,
    bucket: values.bucket,
    careless: values.careless,
  };
}

/** A port of loopback that nobody has. */
export function freeLoopbackPort(): Promise<number> {
  return new Promise((resolve, reject) => {
    const server = net.createServer();
    server.once("error", reject);
    server.listen(0, "127.0.0.1", () => {
      const at = server.address();
      server.close(() => resolve(typeof at === "object" && at ? at.port : 0));
    });
  });
}

/** Ends this process on the usual signals, and when whoever started it is gone. */
export function endWithParent(): void {
  for (const signal of ["SIGTERM", "SIGINT"] as const) process.on(signal, () => process.exit(0));
  const parent = process.ppid;
  setInterval(() => {
    if (process.ppid !== parent) process.exit(0);
  }, 2000).unref();
}

/** Whether a file stands below a folder at the path of an address. */
export async function standsBelow(folder: string, url: string, ending = ""): Promise<boolean> {
  const at = path.resolve(folder, `.${decodeURIComponent(new URL(url, "http://x").pathname)}${ending}`);
  if (!at.startsWith(folder + path.sep)) return false;
  return access(at).then(
    () => true,
    () => false,
  );
}
