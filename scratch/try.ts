import { mkdtempSync, writeFileSync } from "node:fs";
import path from "node:path";
import { makeWorld } from "#scenario/world.ts";
import { waitingPapers } from "#scenario/papers/waiting-papers.ts";
import { readPdf } from "#server/reading/read-pdf.ts";
import { linesOfPage } from "#core/reading/page-lines.ts";
import { readPaper } from "#core/reading/read-paper.ts";
import { ourselves } from "#scenario/papers/compose.ts";
const dir = mkdtempSync("/tmp/try-");
const ours = Object.values(ourselves).map((o) => ({ name: o.name, vatNumbers: [o.vatNumber], ibans: [] }));
const only = process.argv[2];
let right = 0, all = 0;
for (const p of waitingPapers(makeWorld())) {
  if (!p.fileName.endsWith(".pdf") || /scan|confid|cut off|medical/.test(p.fileName)) continue;
  if (only && !p.fileName.includes(only)) continue;
  const f = path.join(dir, "a.pdf");
  writeFileSync(f, await p.make());
  const out = await readPdf(f, { pagesMax: 50, fileName: p.fileName, kind: "pdf" });
  const pages = out.pageTexts.map((t) => linesOfPage(t));
  const r = readPaper(pages, { receivedOn: "2026-11-20", ourselves: ours, fileName: p.fileName, hints: [] });
  const wrong: string[] = [];
  for (const field of ["documentNumber", "documentDate", "total", "currency"] as const) {
    const want = p.truth[field]; if (!want) continue;
    all++;
    const got = r.readings.find((x) => x.field === field);
    if (got?.value === want) right++; else wrong.push(`${field}: want ${want} got ${got?.value} (${got?.certainty}) ${got?.others.map(o=>o.value+":"+o.certainty).join(" ")}`);
  }
  if (wrong.length || only) console.log(p.fileName, wrong, r.doubts);
  if (only) { console.log(out.body); console.log(r.readings.map((x) => `${x.field}=${x.value} ${x.certainty} [${x.label}] ${x.others.map(o=>o.value+":"+o.certainty).join(" ")}`).join("\n")); }
}
console.log(right, all);
