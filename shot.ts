import { chromium } from "playwright-core";
import { readFileSync } from "node:fs";
const [who, ...steps] = process.argv.slice(2);
const dir = process.env["DEMO"] ?? "/tmp/demo";
const cred = JSON.parse(readFileSync(dir + "/credentials.json", "utf8"));
const person = cred.people.find((p: any) => p.email.startsWith(who));
const [w, h] = (process.env["SIZE"] ?? "1280x800").split("x").map(Number);
const browser = await chromium.launch({ executablePath: "/usr/bin/chromium", args: ["--no-sandbox"] });
const p = await (await browser.newContext({ viewport: { width: w!, height: h! }, baseURL: cred.url, hasTouch: w! < 500 })).newPage();
await p.goto("/sign-in");
await p.getByLabel("Mail address").fill(person.email);
await p.getByLabel("Password").fill(person.password);
await p.getByRole("button", { name: "Sign in" }).click();
await p.waitForURL((u) => u.pathname === "/desk", { timeout: 20000 });
for (const s of steps) {
  const [what, ...rest] = s.split(" ");
  const arg = rest.join(" ");
  if (what === "go") await p.goto(arg);
  else if (what === "wait") await p.waitForTimeout(Number(arg));
  else if (what === "shot") await p.screenshot({ path: arg });
  else await (Object.getPrototypeOf(async function () {}).constructor("p", s))(p);
}
await browser.close();
