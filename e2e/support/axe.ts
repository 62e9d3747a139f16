import { readFileSync } from "node:fs";
import { createRequire } from "node:module";
import type { Page } from "@playwright/test";

const axe = readFileSync(createRequire(import.meta.url).resolve("axe-core/axe.min.js"), "utf8");

/** What axe finds wrong by WCAG 2.2 AA in the light set, and in the dark one, which differs in its colours only; as lines that name the rule and the place. */
export async function findings(page: Page): Promise<readonly string[]> {
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
