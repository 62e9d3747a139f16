import { apiKey } from "@better-auth/api-key";
import { betterAuth } from "better-auth";
import { drizzleAdapter } from "better-auth/adapters/drizzle";
import { db } from "../db/connect.ts";
import { config } from "../settings/config.ts";
import { keptInMemory } from "../settings/kept.ts";
import { countFailures, refuseAfterFailures } from "./sign-in-guard.ts";
import { account, apikey, rateLimit, session, user, verification } from "./tables.ts";

function makeAuth() {
  return betterAuth({
    appName: "Amber Clip",
    baseURL: config().url,
    basePath: "/api/auth",
    secret: config().secret,
    trustedOrigins: [config().url],
    telemetry: { enabled: false },
    database: drizzleAdapter(db(), { provider: "pg", schema: { user, session, account, verification, apikey, rateLimit } }),
    // People are made by an administrator; nobody signs up by themselves.
    emailAndPassword: { enabled: true, disableSignUp: true, minPasswordLength: 10 },
    session: { expiresIn: 60 * 60 * 12, updateAge: 60 * 60 },
    // Against floods only, since many people share one address on the network; guessing is slowed down by the guard.
    rateLimit: {
      enabled: true,
      storage: "database",
      window: 10,
      max: 600,
      customRules: { "/sign-in/email": { window: 10, max: 120 } },
    },
    hooks: { before: refuseAfterFailures, after: countFailures },
    advanced: {
      cookiePrefix: "amber-clip",
      defaultCookieAttributes: { sameSite: "lax", httpOnly: true, secure: config().url.startsWith("https:") },
    },
    plugins: [apiKey({ defaultPrefix: "ac_", rateLimit: { enabled: false }, enableMetadata: false })],
    logger: { level: "error" },
  });
}

const shared = globalThis as typeof globalThis & { amberAuth?: ReturnType<typeof makeAuth> | undefined };
keptInMemory(() => (shared.amberAuth = undefined));

/** The sign-in library, set up once in this process. */
export function auth(): ReturnType<typeof makeAuth> {
  shared.amberAuth ??= makeAuth();
  return shared.amberAuth;
}
