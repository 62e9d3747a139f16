import { readFileSync } from "node:fs";
import { createRequire } from "node:module";
import type { Page } from "@playwright/test";
import { expect, signIn, test } from "./support/world.ts";

const axe = readFileSync(createRequire(import.meta.url).resolve("axe-core/axe.min.js"), "utf8");

/** What axe finds wrong by WCAG 2.2 AA in the light set, and in the dark one, which differs in its colours only; as lines that name the rule and the place. */
async function findings(page: Page): Promise<readonly string[]> {
  // Put in as text of our own: the page's policy lets no other scripts in, and needs no hole for this.
  await page.evaluate(axe);
  return page.evaluate(async () => {
    const { axe: tool } = window as unknown as {
      axe: {
        run(
          what: { include: string[][]; exclude: string[][] },
          options: unknown,
        ): Promise<{ violations: { id: string; nodes: { target: string[]; failureSummary?: string }[] }[] }>;
      };
    };
    // Of rows that are made alike the first is looked at: a list has hundreds of them.
    for (const list of document.querySelectorAll("tbody, ul, [role=listbox], [role=rowgroup]")) {
      const seen = new Set<string>();
      for (const row of list.children) {
        const parts = [row, ...row.querySelectorAll("*")];
        const made = parts
          .map((e) => [e.tagName, e.className, e.getAttribute("role"), e.getAttribute("style"), e.hasAttribute("aria-label")].join(" "))
          .join();
        if (seen.has(made)) row.setAttribute("data-alike", "");
        seen.add(made);
      }
    }
    const what = { include: [["html"]], exclude: [["[data-alike]"]] };
    const look = async (set: string, options: object): Promise<readonly string[]> => {
      const { violations } = await tool.run(what, { ...options, resultTypes: ["violations"] });
      return violations.flatMap((v) =>
        v.nodes.slice(0, 3).map((n) => `${set}, ${v.id}: ${n.target.join(" ")} ${n.failureSummary?.split("\n")[1] ?? ""}`),
      );
    };
    const root = document.documentElement;
    const set = root.dataset["bsTheme"] ?? "light";
    const light = await look(set, {
      runOnly: ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"],
      rules: { region: { enabled: false } },
    });
    // As the button in the frame does it; colours that are still changing would be measured half way.
    const still = document.head.appendChild(document.createElement("style"));
    still.textContent = "*, *::before, *::after { transition: none !important }";
    root.dataset["bsTheme"] = "dark";
    const dark = await look("dark", { runOnly: { type: "rule", values: ["color-contrast"] } });
    root.dataset["bsTheme"] = set;
    // Drawn once while still, or they would be on their way back when the next view is looked at.
    await new Promise((drawn) => requestAnimationFrame(() => requestAnimationFrame(drawn)));
    still.remove();
    return [...light, ...dark];
  });
}

const views = [
  ["Desk", "/desk"],
  ["Arrivals", "/arrivals"],
  ["Arrivals in groups", "/arrivals?group=sender"],
  ["Arrivals as pictures", "/arrivals?view=pictures"],
  ["Camera", "/capture"],
  ["Empty bench", "/bench"],
  ["Bench", "/bench?documents=AC-000477"],
  ["Register", "/arrivals/register"],
  ["Filed hands-free", "/arrivals/hands-free"],
  ["Records", "/records"],
  ["A record type", "/records/freightBooking"],
  ["A record", "/records/freightBooking/B-20418?company=MF&scope=chain"],
  ["What is missing", "/records/missing"],
  ["Flip through", "/records/freightBooking/B-20418/flip?company=MF&scope=chain"],
  ["Checklists", "/filing-plan/checklists?type=freightBooking"],
  ["Sections", "/filing-plan/sections?type=freightBooking"],
  ["Sections in a window", "/sections/freightBooking/B-20418?company=MF"],
  ["A document", "/documents/AC-000477"],
  ["Find", "/find?q=toner"],
  ["Filing plan", "/filing-plan?type=freightBooking"],
  ["Set-up", "/set-up"],
  ["Repository", "/repository"],
  ["Locations", "/repository?view=locations"],
  ["Adrift", "/repository?view=adrift"],
  ["Move plans", "/filing-plan/moves"],
  ["A new connection", "/set-up/connections/connection2"],
] as const;

test("axe finds nothing wrong on the main views, light and dark", async ({ page }) => {
  test.setTimeout(180_000);
  await page.goto("/sign-in");
  await expect(page.getByLabel("Mail address")).toBeVisible();
  expect(await findings(page), "Sign in").toEqual([]);
  await signIn(page, "administrator", "/desk");
  for (const [name, address] of views) {
    await page.goto(address);
    await expect(page.locator("h1")).toBeVisible();
    await expect(page.locator("[aria-busy=true]")).toHaveCount(0);
    expect(await findings(page), name).toEqual([]);
  }
  await page.goto("/records/freightBooking/B-20418?company=MF");
  await page.getByRole("button", { name: "Columns" }).click();
  await page.getByRole("checkbox", { name: "Place", exact: true }).check();
  expect(await findings(page), "The columns of papers").toEqual([]);
  await page.keyboard.press("Escape");
  await page.getByRole("button", { name: "Filter" }).click();
  await expect(page.getByLabel("Place contains")).toBeVisible();
  expect(await findings(page), "A filter in each column").toEqual([]);
  await page.getByRole("button", { name: "Columns" }).click();
  await page.getByRole("button", { name: "The short list" }).click();
  await page.goto("/documents/AC-000477");
  await page.getByRole("button", { name: /^Change/ }).click();
  await page.getByRole("button", { name: /seen here only|also seen by/ }).click();
  expect(await findings(page), "Who else sees it").toEqual([]);
  await page.goto("/arrivals");
  await page.getByLabel("Look up a record").fill("6127");
  await expect(page.getByRole("listbox", { name: "Records" }).getByRole("option").first()).toBeVisible();
  expect(await findings(page), "The look-up").toEqual([]);
  await page.keyboard.press("Enter");
  await expect(page.locator(".will-be")).toContainText("Suppliers");
  expect(await findings(page), "The filing sheet").toEqual([]);
  await page.goto("/arrivals?q=October");
  await expect(page.getByText("2 missing")).toBeVisible();
  await page.keyboard.press("c");
  await expect(page.getByRole("region", { name: "Lines beside each other" })).toBeVisible();
  expect(await findings(page), "A statement beside the invoices").toEqual([]);
  await page.goto("/arrivals?q=INV20923");
  await expect(page.getByText("more than ordered")).toBeVisible();
  await page.keyboard.press("c");
  await expect(page.getByRole("region", { name: "Lines beside each other" })).toBeVisible();
  expect(await findings(page), "An invoice beside its order").toEqual([]);
  await page.keyboard.press("n");
  await expect(page.getByRole("heading", { name: "New record" })).toBeVisible();
  expect(await findings(page), "A record made from a paper").toEqual([]);
  await page.keyboard.press("Control+k");
  await expect(page.getByRole("dialog")).toBeVisible();
  await page.keyboard.type("orrin");
  await expect(page.getByRole("dialog").getByRole("option").first()).toBeVisible();
  expect(await findings(page), "The jump field").toEqual([]);
});

test("everything on the sheet is reached and done with the keyboard alone", async ({ page }) => {
  await signIn(page, "clerk");
  await expect(page.getByAltText("Page 1")).toBeVisible();
  await page.keyboard.press("/");
  await page.keyboard.type("PO-6125");
  await page.keyboard.press("Enter");
  await expect(page.locator(".clip-card.is-main")).toContainText("PO-6125");
  await page.keyboard.press("e");
  await expect(page.locator(":focus")).toHaveAttribute("id", "sheet-type");
  await page.keyboard.press("Tab");
  await expect(page.locator(":focus")).toHaveAttribute("id", "sheet-title");
  await page.keyboard.press("Escape");
  await page.keyboard.press("s");
  await expect(page.getByRole("dialog")).toBeVisible();
  await page.keyboard.press("Escape");
  await expect(page.getByRole("dialog")).toHaveCount(0);
});
