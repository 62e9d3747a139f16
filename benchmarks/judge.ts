import { parseArgs } from "node:util";
import { PDFDocument } from "@cantoo/pdf-lib";
import { foreignPaper, type JudgedPaper } from "#scenario/papers/foreign-layouts.ts";
import { scanPages, scanPdf } from "#scenario/papers/draw-scan.ts";
import { chance } from "#scenario/random.ts";
import { makeWorld } from "#scenario/world.ts";
import { type Call, callAs } from "./call.ts";
import { withThrowaway } from "./throwaway.ts";
import { sideBySide } from "./measure.ts";

/**
 * Judges reading and finding on documents of known truth that nothing was learnt from: suppliers of the demo world in layouts of their own, in three
 * languages, digital and scanned. Each goes the whole way through a running instance. Prints a table in Markdown and one line of JSON.
 */
const { values } = parseArgs({
  options: {
    documents: { type: "string", default: "200" },
    scanned: { type: "string", default: "60" },
    from: { type: "string", default: "1000" },
    show: { type: "boolean", default: false },
  },
});

interface Arrival {
  readonly id: string;
  readonly state: string;
  readonly readings: readonly {
    readonly field: string;
    readonly value: string;
    readonly certainty: number;
    readonly page: number | null;
    readonly box: readonly number[] | null;
    readonly text: string;
  }[];
  readonly suggestions: readonly {
    readonly type: string;
    readonly key: string;
    readonly certainty: number;
    readonly verdict: string;
    readonly reasons: readonly { readonly kind: string; readonly text: string; readonly page?: number; readonly box?: readonly number[] }[];
  }[];
  readonly proposedType: { readonly type: string; readonly certainty: number } | null;
  readonly none: number | null;
}
interface Judged {
  readonly paper: JudgedPaper;
  readonly isScanned: boolean;
  readonly arrival: Arrival;
  readonly untrue: number;
}

const folded = (text: string): string => text.toLowerCase().replace(/[^\p{L}\p{N}]/gu, "");
const references = new Set(["documentNumber", "orderReference", "customerNumber"]);

async function judgeOne(call: Call, paper: JudgedPaper, isScanned: boolean): Promise<Judged> {
  const bytes = isScanned
    ? await scanPdf(await scanPages(paper.pdf, chance(paper.truth.seed), await pagesOf(paper.pdf)), "2026-11-20")
    : paper.pdf;
  const made = await call.upload(isScanned ? `scan-${paper.truth.seed}.pdf` : paper.fileName, bytes, "payables");
  let arrival = await call.get<Arrival>(`/arrivals/${made.id}`);
  while (arrival.state === "waiting" || arrival.state === "reading") {
    await new Promise((go) => setTimeout(go, 150));
    arrival = await call.get<Arrival>(`/arrivals/${made.id}`);
  }
  return { paper, isScanned, arrival, untrue: await untrueReasons(call, arrival) };
}

const pagesOf = async (pdf: Uint8Array): Promise<number> => (await PDFDocument.load(pdf)).getPageCount();

/** Reasons and readings that point at a place where their words do not stand (promise 8). */
async function untrueReasons(call: Call, arrival: Arrival): Promise<number> {
  const words = new Map<number, readonly { readonly text: string; readonly box: readonly number[] }[]>();
  let untrue = 0;
  for (const at of [...arrival.readings, ...arrival.suggestions.flatMap((s) => s.reasons)]) {
    if (at.page == null || !at.box) continue;
    if (!words.has(at.page))
      words.set(
        at.page,
        (await call.get<{ words: { text: string; box: number[] }[] }>(`/arrivals/${arrival.id}/pages/${at.page}.words`)).words,
      );
    const [x = 0, y = 0, width = 0, height = 0] = at.box;
    const there = (words.get(at.page) ?? [])
      .filter(
        (w) =>
          (w.box[0] ?? 0) < x + width &&
          (w.box[0] ?? 0) + (w.box[2] ?? 0) > x &&
          (w.box[1] ?? 0) < y + height &&
          (w.box[1] ?? 0) + (w.box[3] ?? 0) > y,
      )
      .map((w) => folded(w.text))
      .join(" ");
    if (!at.text.split(" ").every((w) => there.includes(folded(w)))) untrue++;
  }
  return untrue;
}

interface FieldScore {
  readonly asked: number;
  readonly right: number;
  readonly missing: number;
  readonly sureAndWrong: number;
}

function scoreFields(judged: readonly Judged[]): ReadonlyMap<string, FieldScore> {
  const scores = new Map<string, { asked: number; right: number; missing: number; sureAndWrong: number }>();
  for (const { paper, arrival } of judged)
    for (const [field, want] of Object.entries(paper.truth.fields)) {
      const score = scores.get(field) ?? { asked: 0, right: 0, missing: 0, sureAndWrong: 0 };
      scores.set(field, score);
      score.asked++;
      const same = (v: string): boolean => (references.has(field) ? folded(v) === folded(want) : v === want);
      const all = arrival.readings.filter((r) => r.field === field);
      const got = field === "orderReference" || field === "iban" ? (all.find((r) => same(r.value)) ?? all[0]) : all[0];
      if (!got) {
        score.missing++;
        if (values.show) console.error(`${paper.truth.seed} ${field}: ${want} not read`);
      } else if (same(got.value)) score.right++;
      else {
        if (got.certainty >= 0.95) score.sureAndWrong++;
        if (values.show) console.error(`${paper.truth.seed} ${field}: ${want} read as ${got.value} (${got.certainty})`);
      }
    }
  return scores;
}

function scoreFinding(judged: readonly Judged[]) {
  const nameOf = (s: Arrival["suggestions"][number] | undefined): string | null => (s ? `${s.type}:${s.key}` : null);
  const isRight = (j: Judged, s: Arrival["suggestions"][number] | undefined): boolean => nameOf(s) === j.paper.truth.record;
  const clear = judged.filter((j) => j.paper.truth.isClear && j.paper.truth.record !== null);
  const first = (j: Judged): Arrival["suggestions"][number] | undefined => j.arrival.suggestions[0];
  const sure = judged.filter((j) => first(j)?.verdict === "sure");
  const strangers = judged.filter((j) => j.paper.truth.record === null);
  const bins = Array.from({ length: 5 }, (_, i) =>
    judged.filter((j) => first(j) && Math.min(4, Math.floor((first(j)?.certainty ?? 0) * 5)) === i),
  );
  // The largest share that could be filed without a person while 99.5 % of it are right.
  const ranked = [...judged]
    .sort((a, b) => (first(b)?.certainty ?? 0) - (first(a)?.certainty ?? 0))
    .filter((j) => first(j)?.verdict === "sure");
  let automaticFiling = 0;
  let wrong = 0;
  ranked.forEach((j, i) => {
    if (!isRight(j, first(j))) wrong++;
    if (1 - wrong / (i + 1) >= 0.995) automaticFiling = i + 1;
  });
  if (values.show)
    for (const { paper, arrival } of judged)
      if (arrival.proposedType?.type !== paper.truth.documentType)
        console.error(
          `${paper.truth.seed} ${paper.truth.documentType}: taken for ${arrival.proposedType?.type} (${arrival.proposedType?.certainty})`,
        );
  if (values.show)
    for (const j of judged)
      if (j.paper.truth.isClear && !isRight(j, first(j)))
        console.error(
          `${j.paper.truth.seed} ${j.paper.truth.documentType}: ${j.paper.truth.record} found as ${nameOf(first(j))} (${first(j)?.certainty}, ${first(j)?.verdict})`,
        );
  return {
    papers: judged.length,
    clear: clear.length,
    first: clear.filter((j) => isRight(j, first(j))).length,
    firstThree: clear.filter((j) => j.arrival.suggestions.slice(0, 3).some((s) => isRight(j, s))).length,
    sure: sure.length,
    sureAndWrong: sure.filter((j) => j.paper.truth.isClear && !isRight(j, first(j))).length,
    strangers: strangers.length,
    strangersSure: strangers.filter((j) => first(j)?.verdict === "sure").length,
    automaticFilingShare: judged.length === 0 ? 0 : automaticFiling / judged.length,
    types: judged.filter((j) => j.arrival.proposedType?.type === j.paper.truth.documentType).length,
    untrueReasons: judged.reduce((s, j) => s + j.untrue, 0),
    calibration: bins.map((b, i) => ({ from: i / 5, papers: b.length, right: b.filter((j) => isRight(j, first(j))).length })),
  };
}

const percent = (n: number, of: number): string => (of === 0 ? "–" : `${((100 * n) / of).toFixed(1)} %`);

function table(name: string, judged: readonly Judged[]): void {
  const finding = scoreFinding(judged);
  console.log(`\n### ${name}: ${judged.length} documents\n\n| field | asked | right | missing | sure and wrong |\n|---|---|---|---|---|`);
  for (const [field, s] of scoreFields(judged))
    console.log(`| ${field} | ${s.asked} | ${percent(s.right, s.asked)} | ${s.missing} | ${s.sureAndWrong} |`);
  console.log(`\n| finding | |\n|---|---|`);
  const rows: readonly (readonly [string, string])[] = [
    ["right record first, where a person could be sure", `${percent(finding.first, finding.clear)} of ${finding.clear}`],
    ["among the first three", percent(finding.firstThree, finding.clear)],
    ["sure", percent(finding.sure, finding.papers)],
    ["sure and wrong", `${finding.sureAndWrong} of ${finding.papers}`],
    ["of none of our records, yet sure", `${finding.strangersSure} of ${finding.strangers}`],
    ["share that could be filed automatically at 99.5 % precision", percent(finding.automaticFilingShare * 1000, 1000)],
    ["document type right", percent(finding.types, finding.papers)],
    ["reasons and readings that do not stand where they point", String(finding.untrueReasons)],
    ["certainty against truth, in fifths", finding.calibration.map((b) => (b.papers === 0 ? "–" : `${b.right}/${b.papers}`)).join(" · ")],
  ];
  for (const [label, value] of rows) console.log(`| ${label} | ${value} |`);
  console.log(`\n${JSON.stringify({ judge: name, ...finding })}`);
}

await withThrowaway("judge", async (instance, folder) => {
  const call = await callAs(folder, instance.url);
  const world = makeWorld();
  const [from, papers, scanned] = [Number(values.from), Number(values.documents), Number(values.scanned)];
  const judged: Judged[] = [];
  await sideBySide(
    Array.from({ length: papers + scanned }, (_, i) => async () => {
      judged.push(await judgeOne(call, await foreignPaper(world, from + i), i >= papers));
      if (judged.length % 50 === 0) console.error(`  ${judged.length} judged`);
    }),
    4,
  );
  judged.sort((a, b) => a.paper.truth.seed - b.paper.truth.seed);
  table(
    "Digital",
    judged.filter((j) => !j.isScanned),
  );
  if (scanned > 0)
    table(
      "Scanned",
      judged.filter((j) => j.isScanned),
    );
});
process.exit(0);
