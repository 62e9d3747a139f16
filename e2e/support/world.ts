import { readFileSync } from "node:fs";
import path from "node:path";
import { type APIRequestContext, expect, type Page, test as base } from "@playwright/test";
import type { Credentials } from "#scenario/set-up/fill-set-up.ts";

/** The people of the demo by what they do. */
export const people = {
  administrator: "isla.rowe@merrowick.example",
  clerk: "tam.corrigall@merrowick.example",
  salesDesk: "nessa.quill@merrowick.example",
  crewOffice: "maren.holt@merrowick.example",
  auditor: "ferris.dunmore@merrowick.example",
  lightUser: "pell.ashby@merrowick.example",
} as const;

/** Folder that the running demo keeps everything below. */
export const dataFolder = (): string => process.env["AMBER_E2E_DATA"] ?? "";
export const credentials = (): Credentials => JSON.parse(readFileSync(path.join(dataFolder(), "credentials.json"), "utf8")) as Credentials;

/** Sessions of people who have signed in before, by server and person. */
const sessions = new Map<string, Parameters<ReturnType<Page["context"]>["addCookies"]>[0]>();

/** Signs a person in: by the form the first time, later with the session they have. What the form does is tried where signing in is the journey. */
export async function signIn(page: Page, who: keyof typeof people, to = "/arrivals"): Promise<void> {
  const key = `${credentials().url} ${who}`;
  const isThere = (url: URL): boolean => url.pathname + url.search === to;
  const kept = sessions.get(key);
  if (kept) {
    await page.context().addCookies(kept);
    await page.goto(to);
    // It may have been ended meanwhile.
    if (isThere(new URL(page.url()))) return;
  }
  const person = credentials().people.find((p) => p.email === people[who]);
  await page.goto(`/sign-in?to=${encodeURIComponent(to)}`);
  await page.getByLabel("Mail address").fill(people[who]);
  await page.getByLabel("Password").fill(person?.password ?? "");
  await page.getByRole("button", { name: "Sign in" }).click();
  await page.waitForURL(isThere);
  sessions.set(key, await page.context().cookies());
}

/** A call of the HTTP API with a person's key. */
export function api(request: APIRequestContext, key: keyof Credentials["keys"] = "administrator") {
  const headers = { authorization: `Bearer ${credentials().keys[key]}` };
  return {
    get: (address: string, more: Record<string, string> = {}) => request.get(`/api/v1${address}`, { headers: { ...headers, ...more } }),
    post: (address: string, data: unknown = {}, more: Record<string, string> = {}) =>
      request.post(`/api/v1${address}`, { headers: { ...headers, ...more }, data }),
    put: (address: string, data: unknown) => request.put(`/api/v1${address}`, { headers, data }),
    patch: (address: string, data: unknown) => request.patch(`/api/v1${address}`, { headers, data }),
    upload: (
      file: { name: string; mimeType: string; buffer: Buffer },
      fields: Record<string, string> = {},
      more: Record<string, string> = {},
    ) =>
      request.post("/api/v1/arrivals", {
        headers: { ...headers, ...more },
        multipart: { queue: "general", company: "MF", ...fields, file },
      }),
  };
}

/** Confirms the document type where the program is not sure of it and asks before it files. */
export async function confirmType(page: Page): Promise<void> {
  const asks = page.getByRole("button", { name: /^File as/ });
  await asks
    .or(page.getByText(/^Fil(ed|ing): /))
    .first()
    .waitFor();
  if (await asks.isVisible()) await asks.click();
}

/** Waits until an arrival has been read, and answers it. */
export async function readArrival(request: APIRequestContext, id: string): Promise<Record<string, unknown>> {
  let last: Record<string, unknown> = {};
  // Words off pictures take their time on a machine with much to do.
  await expect
    .poll(
      async () => {
        last = (await (await api(request).get(`/arrivals/${id}`)).json()) as Record<string, unknown>;
        return last["state"];
      },
      { timeout: 75_000 },
    )
    .toMatch(/ready|failed/);
  return last;
}

/** Every test also holds to this: nothing goes wrong in the browser behind what is seen. */
export const test = base.extend<{ quiet: void }>({
  quiet: [
    async ({ page }, use) => {
      const heard: string[] = [];
      page.on("pageerror", (error) => heard.push(error.message));
      page.on("console", (message) => {
        // A refusal is answered with 4xx and shown; the browser notes each as an error of its own.
        if (message.type() === "error" && !/Failed to load resource/.test(message.text())) heard.push(message.text());
      });
      await use();
      expect(heard).toEqual([]);
    },
    { auto: true },
  ],
});
export { expect };
