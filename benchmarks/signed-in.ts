import { readFile } from "node:fs/promises";
import path from "node:path";
import type { Browser, Page } from "@playwright/test";
import type { Credentials } from "#scenario/set-up/fill-set-up.ts";

/** A page of a browser in which the administrator of an instance is signed in, at an address of it. */
export async function signedIn(browser: Browser, url: string, folder: string, to: string): Promise<Page> {
  const { people } = JSON.parse(await readFile(path.join(folder, "credentials.json"), "utf8")) as Credentials;
  const person = people.find((p) => p.roles.some((r) => /administrator/i.test(r)));
  const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, baseURL: url, locale: "en-GB" });
  const page = await context.newPage();
  await page.goto(`/sign-in?to=${encodeURIComponent(to)}`);
  await page.getByLabel("Mail address").fill(person?.email ?? "");
  await page.getByLabel("Password").fill(person?.password ?? "");
  await page.getByRole("button", { name: "Sign in" }).click();
  await page.waitForURL((u) => u.pathname === to);
  return page;
}
