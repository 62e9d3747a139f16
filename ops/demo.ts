import { readFile, rm } from "node:fs/promises";
import path from "node:path";
import { parseArgs } from "node:util";

const { values } = parseArgs({
  options: {
    port: { type: "string", default: "4080" },
    data: { type: "string", default: ".demo" },
    fresh: { type: "boolean", default: false },
    empty: { type: "boolean", default: false },
    dev: { type: "boolean", default: false },
    "mail-port": { type: "string" },
    help: { type: "boolean", default: false },
  },
});
if (values.help) {
  console.log(
    "bin/demo [--port N] [--data DIR] [--fresh] [--empty] [--dev] [--mail-port N]\n  --port   port of the web address (4080)\n  --data   folder that all data is stored in (.demo)\n  --fresh  delete what is in that folder\n  --empty  set-up, people and keys only: no records, no documents\n  --dev    pages are compiled when they are opened and follow the sources\n  --mail-port  loopback port that receives mail (a free one)",
  );
  process.exit(0);
}
const port = Number(values.port);
if (!Number.isInteger(port) || port < 1 || port > 65535) {
  console.error("--port takes a number from 1 to 65535");
  process.exit(1);
}
const mailPort = values["mail-port"] === undefined ? undefined : Number(values["mail-port"]);
if (mailPort !== undefined && (!Number.isInteger(mailPort) || mailPort < 1 || mailPort > 65535)) {
  console.error("--mail-port takes a number from 1 to 65535");
  process.exit(1);
}
// Ports above the system's own that browsers never open, by the Fetch standard: the program would run and nobody could reach it.
const refusedByBrowsers = [
  1719, 1720, 1723, 2049, 3659, 4045, 4190, 5060, 5061, 6000, 6566, 6665, 6666, 6667, 6668, 6669, 6679, 6697, 10080,
];
if (refusedByBrowsers.includes(port)) {
  console.error(`browsers refuse to open port ${port}; choose another with --port`);
  process.exit(1);
}
// The default stands in the project; a folder that was named is meant from where the command was called.
const dataFolder = values.data === ".demo" ? path.resolve(".demo") : path.resolve(process.env["AMBER_CALLER_DIR"] ?? ".", values.data);

let stopWanted = false;
let stopNow: (() => Promise<void>) | null = null;
const onSignal = (): void => {
  if (stopWanted) return;
  stopWanted = true;
  if (stopNow) void stopNow().then(() => process.exit(0));
  // A world that is filled by half is worth nothing: it is filled to its end first.
  else console.error("Stopping once started");
};
process.on("SIGINT", onSignal);
process.on("SIGTERM", onSignal);

try {
  if (values.fresh) {
    // Only a folder that we made is forgotten: a wrong --data must not cost anybody their files.
    const isOurs = await readFile(path.join(dataFolder, "secret"), "utf8").then(
      () => true,
      () => false,
    );
    const isThere = await import("node:fs").then((fs) => fs.existsSync(dataFolder) && fs.readdirSync(dataFolder).length > 0);
    if (isThere && !isOurs) throw new Error(`${dataFolder} was not created by bin/demo; nothing was changed`);
    await rm(dataFolder, { recursive: true, force: true });
  }
  // Only now: what is wrong with the command is said at once.
  const { startInstance } = await import("./instance.ts");
  const instance = await startInstance({
    dataFolder,
    port,
    fill: values.empty ? "empty" : "demo",
    isDev: values.dev,
    say: (line) => console.error(line),
    ...(mailPort === undefined ? {} : { mailPort }),
  });
  stopNow = instance.stop;
  if (stopWanted) {
    await instance.stop();
    process.exit(0);
  }
  const credentials = JSON.parse(await readFile(path.join(dataFolder, "credentials.json"), "utf8")) as {
    people: { name: string; email: string; password: string; roles: string[] }[];
  };
  console.log(`ready ${instance.url}`);
  console.log(`\nWho can sign in (all with the password ${credentials.people[0]?.password ?? ""}):`);
  for (const person of credentials.people) console.log(`  ${person.email.padEnd(34)} ${person.name}, ${person.roles.join(", ")}`);
  console.log(
    `\nKeys for the HTTP API: ${path.join(dataFolder, "credentials.json")}\nRepository: ${path.join(dataFolder, "repository")}\nFurther repositories to connect (WebDAV, S3): ${path.join(dataFolder, "standins.json")}\nMail is received at ${instance.mail.host}:${instance.mail.port}, for example to payables@${instance.mail.domain}\nSimulated scanner with a pile of documents: ${instance.scanner}\nSimulated business system: ${instance.business}\nStop with Ctrl-C.`,
  );
} catch (error) {
  console.error(error instanceof Error ? error.message : String(error));
  process.exit(1);
}
