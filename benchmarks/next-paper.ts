import { chromium } from "@playwright/test";
import { makeWorld } from "#scenario/world.ts";
import { chromiumFlags, chromiumPath } from "../e2e/support/chromium.ts";
import { invoiceOf } from "../e2e/support/invoices.ts";
import { pdfFile } from "../e2e/support/papers.ts";
import type { Call } from "./call.ts";
import { percentile, print, short, sized } from "./measure.ts";
import { signedIn } from "./signed-in.ts";

const PAPERS = sized(24, 3);
/** For so long a person looks at a document before filing it, ms. */
const LOOKS_MS = 1200;
const pause = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));
/** A document that is not there by then counts as this, ms. */
const LONGEST = 5000;

/** From F until the next document, its record, its values and the place it will get are on screen, in a real browser. */
export async function benchNextPaper(call: Call, folder: string, url: string): Promise<void> {
  const world = makeWorld();
  const orders = world.of("MF", "purchaseOrder").slice(120, 120 + PAPERS);
  const ids: string[] = [];
  for (const [i, order] of orders.entries()) {
    const file = await pdfFile(`next ${String(i).padStart(2, "0")}.pdf`, invoiceOf(world, order, `NX-${i}`));
    ids.push((await call.upload(file.name, new Uint8Array(file.buffer), "payables")).id);
  }
  for (const id of ids) while ((await call.get<{ state: string }>(`/arrivals/${id}`)).state !== "ready") await pause(300);
  const browser = await chromium.launch({ executablePath: chromiumPath, args: [...chromiumFlags] });
  try {
    const page = await signedIn(browser, url, folder, "/arrivals");
    await page.goto("/arrivals?q=next&sort=name");
    const place = page.locator(".will-be strong");
    const taken: number[] = [];
    for (let i = 0; i + 1 < orders.length; i++) {
      // As a person does who has looked at it.
      await place.filter({ hasText: `NX-${i}` }).waitFor();
      await pause(LOOKS_MS);
      taken.push(await page.evaluate(untilNext, [orders[i + 1]?.key ?? "", `NX-${i + 1}`, LONGEST] as const));
    }
    print("from F to the next document with its sheet", {
      papers: taken.length,
      medianMs: short(percentile(taken, 0.5)),
      p95Ms: short(percentile(taken, 0.95)),
      longestMs: short(Math.max(...taken)),
      wantedMs: 100,
    });
  } finally {
    await browser.close();
  }
}

/** Runs in the page: presses F and answers how long it takes until the next one is whole, ms. */
function untilNext([key, number, longest]: readonly [string, string, number]): Promise<number> {
  return new Promise((resolve) => {
    const LOOK_EACH_MS = 4;
    const began = performance.now();
    window.dispatchEvent(new KeyboardEvent("keydown", { key: "f", bubbles: true, cancelable: true }));
    // Only functions without a name: what keeps names while this runs uncompiled is not there in the page.
    const timer = setInterval(() => {
      const picture = document.querySelector<HTMLImageElement>('[aria-label="Pages"] img');
      const isThere =
        document.querySelector(".clip-card.is-main .mono")?.textContent === key &&
        picture?.complete === true &&
        picture.naturalWidth > 0 &&
        [...document.querySelectorAll("input")].some((field) => field.value === number) &&
        (document.querySelector(".will-be strong")?.textContent ?? "").includes(number);
      const took = performance.now() - began;
      if (!isThere && took <= longest) return;
      clearInterval(timer);
      // It is on screen with the next picture that is painted.
      requestAnimationFrame(() => resolve(performance.now() - began));
    }, LOOK_EACH_MS);
  });
}
