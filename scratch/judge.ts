import { mkdtempSync, writeFileSync } from "node:fs";
import path from "node:path";
import { makeWorld } from "#scenario/world.ts";
import { foreignPaper } from "#scenario/papers/foreign-layouts.ts";
import { readPdf } from "#server/reading/read-pdf.ts";
import { linesOfPage } from "#core/reading/page-lines.ts";
import { readPaper } from "#core/reading/read-paper.ts";
import { foldReference } from "#core/shared/fold-text.ts";
import { ourselves } from "#scenario/papers/compose.ts";
const dir = mkdtempSync("/tmp/try-");
const ours = Object.values(ourselves).map((o) => ({ name: o.name, vatNumbers: [o.vatNumber], ibans: [] }));
const [from = "0", to = "200", show = "", only = ""] = process.argv.slice(2);
const world = makeWorld();
const stats: Record<string, { n: number; right: number; missing: number; sureWrong: number; bins: number[][] }> = {};
for (let seed = Number(from); seed < Number(to); seed++) {
  const p = await foreignPaper(world, seed);
  const f = path.join(dir, "a.pdf");
  writeFileSync(f, p.pdf);
  if (only) writeFileSync("/tmp/one.pdf", p.pdf);
  const out = await readPdf(f, { pagesMax: 50, fileName: p.fileName, kind: "pdf" });
  const pages = out.pageTexts.map((t) => linesOfPage(t));
  const r = readPaper(pages, { receivedOn: "2026-11-20", ourselves: ours, fileName: p.fileName, hints: [] });
  if (only) { console.log(out.body); console.log(p.truth); console.log(r.readings.map((x) => `${x.field}=${x.value} ${x.certainty} [${x.label}] ${x.others.map(o=>o.value+":"+o.certainty).join(" ")}`).join("\n")); console.log(r.doubts); }
  for (const [field, want] of Object.entries(p.truth.fields)) {
    const s = (stats[field] ??= { n: 0, right: 0, missing: 0, sureWrong: 0, bins: Array.from({ length: 10 }, () => [0, 0]) });
    s.n++;
    const all = r.readings.filter((x) => x.field === field);
    const same = (v: string) => (["orderReference", "documentNumber", "customerNumber"].includes(field) ? foldReference(v) === foldReference(want) : v === want);
    const got = field === "orderReference" || field === "iban" ? (all.find((x) => same(x.value)) ?? all[0]) : all[0];
    if (!got) { s.missing++; if (show === field || show === "all") console.log(seed, p.truth.language, field, "want", want, "missing"); continue; }
    const ok = same(got.value);
    const bin = s.bins[Math.min(9, Math.floor(got.certainty * 10))]!; bin[0]!++; if (ok) bin[1]!++;
    if (ok) s.right++; else { if (got.certainty >= 0.95) s.sureWrong++; if (show === field || show === "all") console.log(seed, p.truth.language, p.truth.documentType, field, "want", want, "got", got.value, got.certainty, `[${got.label}]`); }
  }
  const t = r.readings.find((x) => x.field === "party");
}
for (const [f, s] of Object.entries(stats)) console.log(f.padEnd(16), (100 * s.right / s.n).toFixed(1) + " %", `of ${s.n}`, "missing", s.missing, "sureWrong", s.sureWrong, s.bins.map(([n, k]) => n ? `${k}/${n}` : "-").join(" "));
