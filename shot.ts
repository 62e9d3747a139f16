import { readFileSync } from "node:fs";
import { chromium } from "playwright-core";
const demo = process.env.DEMO ?? "/tmp/demo";
const [w = 1280, h = 800] = (process.env.SIZE ?? "1280x800").split("x").map(Number);
const [who = "", ...steps] = process.argv.slice(2);
const creds = JSON.parse(readFileSync(`${demo}/credentials.json`, "utf8"));
const person = creds.people.find((p: any) => p.email.includes(who) || p.name.includes(who) || p.roles.includes(who));
const browser = await chromium.launch({ executablePath: "/usr/bin/chromium", args: ["--no-sandbox", "--disable-gpu", "--disable-dev-shm-usage"] });
const context0 = 0; const page = await browser.newPage({ viewport: { width: w, height: h }, colorScheme: (process.env.DARK ? "dark" : "light") as any });
page.on("pageerror", (e) => console.log("PAGEERROR", e.message));
page.on("console", (m) => { if (m.type() === "error") console.log("CONSOLE", m.text()); });
if (process.env.DARK) await page.context().addCookies([{ name: "amber-theme", value: "dark", url: creds.url }]);
await page.goto(`${creds.url}/sign-in`);
await page.getByLabel("Mail address").fill(person.email);
await page.getByLabel("Password").fill(person.password);
await page.getByRole("button", { name: /Sign in/ }).click();
await page.waitForURL((u) => !u.pathname.startsWith("/sign-in"));
for (const step of steps) {
  const [verb = "", ...rest] = step.split(" ");
  const arg = rest.join(" ");
  try {
  if (verb === "go") await page.goto(`${creds.url}${arg}`, { waitUntil: "networkidle" });
  else if (verb === "wait") await page.waitForTimeout(Number(arg));
  else if (verb === "shot") await page.screenshot({ path: arg });
  else if (verb === "text") console.log((await page.locator(arg || "body").first().innerText()).slice(0, 3000));
  else { const f = new Function("p", `return (async () => { ${step} })()`); const r = await f(page); if (r !== undefined) console.log(r); }
  } catch (e: any) { console.log("STEP FAILED", step, e.message.slice(0, 400)); await page.screenshot({ path: "/tmp/failed.png" }); }
}
await browser.close();
