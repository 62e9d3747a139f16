import { mkdtempSync, writeFileSync } from "node:fs";
import path from "node:path";
import { makeWorld } from "#scenario/world.ts";
import { waitingPapers } from "#scenario/papers/waiting-papers.ts";
import { readPdf } from "#server/reading/read-pdf.ts";
import { linesOfPage } from "#core/reading/page-lines.ts";
import { readPaper } from "#core/reading/read-paper.ts";
import { probePaper } from "#core/matching/probe-paper.ts";
import { judgeType, tellingWords, emptyModel } from "#core/reading/judge-type.ts";
const dir = mkdtempSync("/tmp/try-");
const pages = [];
for (const p of waitingPapers(makeWorld()).slice(0, 12)) {
  const f = path.join(dir, "a.pdf");
  writeFileSync(f, await p.make());
  pages.push((await readPdf(f, { pagesMax: 50, fileName: p.fileName, kind: "pdf" })).pageTexts.map((t) => t));
}
const ctx = { receivedOn: "2026-11-20", ourselves: [], fileName: "a.pdf", hints: [] };
for (const [name, act] of [["lines", (t: any) => t.map((x: any) => linesOfPage(x))], ["read", (t: any) => readPaper(t.map((x: any) => linesOfPage(x)), ctx)], ["probe", (t: any) => probePaper(t.map((x: any) => linesOfPage(x)), { fileName: "a.pdf", subject: null, sender: null })]] as const) {
  for (let i = 0; i < 3; i++) for (const t of pages) act(t);
  const at = performance.now();
  for (let i = 0; i < 5; i++) for (const t of pages) act(t);
  console.log(name, ((performance.now() - at) / 5 / pages.length).toFixed(2), "ms/page");
}
console.log(probePaper(pages[0]!.map((x: any) => linesOfPage(x)), { fileName: "a.pdf", subject: null, sender: null }).length, "probes");
