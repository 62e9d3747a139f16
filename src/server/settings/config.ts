import { availableParallelism } from "node:os";
import { z } from "zod";
import { speakPlainly } from "#core/shared/field-words.ts";
import { keptInMemory } from "./kept.ts";

// Every process of the program reads its settings before it checks what others send.
speakPlainly();

const configSchema = z.object({
  AMBER_DATABASE_URL: z.string().min(1),
  /** Folder below which everything is kept: landing, pictures, repository. */
  AMBER_DATA: z.string().min(1),
  /** Address people use; cookies and origin checks hold to it. */
  AMBER_URL: z.url(),
  /** Signs sessions; at least 32 characters. */
  AMBER_SECRET: z.string().min(32),
  /** Key that passwords of connections are kept under, 64 hex digits; by default a file below AMBER_DATA. */
  AMBER_KEY: z
    .string()
    .regex(/^[0-9a-fA-F]{64}$/)
    .optional(),
  /** Root of the folder-on-disk repository; by default below AMBER_DATA. */
  AMBER_REPOSITORY: z.string().optional(),
  /** Folder whose sub-folders are watched, one for each queue; by default below AMBER_DATA. */
  AMBER_WATCHED: z.string().optional(),
  /** Connections to the database that one process holds at most. */
  AMBER_POOL: z.coerce.number().int().min(2).max(200).default(12),
  /** Jobs that one worker does side by side. */
  AMBER_JOBS: z.coerce.number().int().min(1).max(64).default(2),
  /** Pages that one worker looks at side by side: one core each, at low priority. By default as many as there are cores. */
  AMBER_LOOK: z.coerce.number().int().min(1).max(64).optional(),
  /** Languages that words are read in off pictures, as tesseract calls them; their data has to be installed. */
  AMBER_LANGUAGES: z
    .string()
    .regex(/^[a-zA-Z_]{2,20}(\+[a-zA-Z_]{2,20}){0,9}$/)
    .default("eng+deu+fra"),
  /** Port that the worker takes mail in at; without it no mail is taken in. */
  AMBER_MAIL_PORT: z.coerce.number().int().min(1).max(65535).optional(),
  /** Address of this machine that mail is taken in at. */
  AMBER_MAIL_HOST: z.string().min(1).default("127.0.0.1"),
  /** Address of the business system that drafts are sent to, and the key that is shown to it; without them drafts wait. */
  AMBER_BUSINESS_URL: z.url().optional(),
  AMBER_BUSINESS_KEY: z.string().min(8).optional(),
  /** What the business system signs its messages with. */
  AMBER_BUSINESS_SECRET: z.string().min(16).optional(),
  /** What stands behind the @ of the queues' addresses. */
  AMBER_MAIL_DOMAIN: z
    .string()
    .regex(/^[a-z0-9.-]+$/i)
    .default("papers.localhost"),
});

/** What the process was started with. */
export interface Config {
  readonly databaseUrl: string;
  readonly dataFolder: string;
  readonly repositoryFolder: string;
  readonly watchedFolder: string;
  readonly secretKeyHex: string | null;
  readonly url: string;
  readonly secret: string;
  readonly poolSize: number;
  readonly jobsAtOnce: number;
  readonly looksAtOnce: number;
  readonly languages: string;
  readonly business: { readonly address: string; readonly key: string } | null;
  readonly businessSecret: string | null;
  readonly mail: { readonly port: number | null; readonly host: string; readonly domain: string };
}

let loaded: Config | null = null;
keptInMemory(() => (loaded = null));

/** Reads the settings from the environment once. Throws with the names (never the values) of what is missing or wrong. */
export function config(): Config {
  if (loaded) return loaded;
  const parsed = configSchema.safeParse(process.env);
  if (!parsed.success) throw new Error(`settings missing or wrong: ${parsed.error.issues.map((i) => i.path.join(".")).join(", ")}`);
  const env = parsed.data;
  loaded = {
    databaseUrl: env.AMBER_DATABASE_URL,
    dataFolder: env.AMBER_DATA,
    repositoryFolder: env.AMBER_REPOSITORY ?? `${env.AMBER_DATA}/repository`,
    watchedFolder: env.AMBER_WATCHED ?? `${env.AMBER_DATA}/watched`,
    secretKeyHex: env.AMBER_KEY ?? null,
    url: env.AMBER_URL,
    secret: env.AMBER_SECRET,
    poolSize: env.AMBER_POOL,
    jobsAtOnce: env.AMBER_JOBS,
    looksAtOnce: env.AMBER_LOOK ?? availableParallelism(),
    languages: env.AMBER_LANGUAGES,
    business:
      env.AMBER_BUSINESS_URL !== undefined && env.AMBER_BUSINESS_KEY !== undefined
        ? { address: env.AMBER_BUSINESS_URL, key: env.AMBER_BUSINESS_KEY }
        : null,
    businessSecret: env.AMBER_BUSINESS_SECRET ?? null,
    mail: { port: env.AMBER_MAIL_PORT ?? null, host: env.AMBER_MAIL_HOST, domain: env.AMBER_MAIL_DOMAIN },
  };
  return loaded;
}
