import type { Label } from "./label-of.ts";
import type { ReadPage } from "./page-lines.ts";
import type { Ourselves } from "./paper-context.ts";
import type { Reading } from "./reading.ts";
import type { Spot } from "./spot-values.ts";

/** A probability to three places, never quite sure. */
export const tidy = (p: number): number => Math.round(Math.min(0.995, Math.max(0.01, p)) * 1000) / 1000;

/** The currency: of the total, else the one that is named most. */
export function currencyReading(money: readonly Spot[], readings: readonly Reading[], pages: readonly ReadPage[]): readonly Reading[] {
  const total = readings.find((r) => r.field === "total");
  const beside = money.find((s) => s.currency !== null && total && s.page === total.page && s.text.includes(total.text));
  const counts = new Map<string, number>();
  for (const spot of money) if (spot.currency !== null) counts.set(spot.currency, (counts.get(spot.currency) ?? 0) + 1);
  for (const page of pages)
    for (const phrase of page.lines.flat())
      for (const word of phrase.words) {
        const named =
          /^[(]?(GBP|EUR|USD|CHF|NOK|SEK|DKK)[):.,]?$/.exec(word.text)?.[1] ??
          (/[£]/.test(word.text) ? "GBP" : /€/.test(word.text) ? "EUR" : null);
        if (named !== null) counts.set(named, (counts.get(named) ?? 0) + 0.5);
      }
  const sorted = [...counts].sort((a, b) => b[1] - a[1] || (a[0] < b[0] ? -1 : 1));
  const value = beside?.currency ?? sorted[0]?.[0];
  if (value === undefined || value === null) return [];
  const shown = beside ?? money.find((s) => s.currency === value);
  const share =
    (counts.get(value) ?? 0) /
    Math.max(
      1,
      sorted.reduce((s, [, n]) => s + n, 0),
    );
  const on = shown && pages.find((p) => p.number === shown.page);
  return [
    {
      field: "currency",
      value,
      certainty: tidy(beside ? Math.max(0.9, 0.8 + 0.19 * share) : 0.6 + 0.35 * share),
      page: shown && on?.isShown ? shown.page : null,
      box: shown && on?.isShown ? shown.box : null,
      text: shown?.text ?? value,
      label: null,
      others: [],
      from: on?.isDrawn ? "page" : "text",
    },
  ];
}

/** Account and VAT numbers that are not our own. */
export function identifierReadings(
  kind: "iban" | "vatNumber",
  spots: readonly { readonly spot: Spot; readonly page: ReadPage; readonly labels: readonly Label[] }[],
  context: { readonly ourselves: Ourselves },
): readonly Reading[] {
  const ours = new Set(
    context.ourselves.flatMap((o) => (kind === "iban" ? o.ibans : o.vatNumbers)).map((t) => t.replace(/\s/g, "").toUpperCase()),
  );
  const seen = new Map<string, Reading>();
  for (const { spot, page, labels } of spots) {
    const value = spot.values[0];
    if (spot.kind !== kind || value === undefined || ours.has(value) || seen.has(value)) continue;
    const label = labels.find((l) => l.meanings.some((m) => m.meaning === kind)) ?? null;
    seen.set(value, {
      field: kind,
      value,
      certainty: tidy((kind === "iban" ? 0.97 : label ? 0.96 : 0.85) - (spot.mended ? 0.07 : 0)),
      page: page.isShown ? spot.page : null,
      box: page.isShown ? spot.box : null,
      text: spot.text,
      label: label?.text ?? null,
      others: [],
      from: page.isDrawn ? "page" : "text",
    });
  }
  return [...seen.values()].slice(0, 4);
}

/** The due date out of its terms, such as "30 days net", when no due date is written. */
export function termReading(readings: readonly Reading[], pages: readonly ReadPage[]): readonly Reading[] {
  const date = readings.find((r) => r.field === "documentDate");
  if (!date || readings.some((r) => r.field === "dueDate")) return [];
  for (const page of pages)
    for (const phrase of page.lines.flat()) {
      const days =
        /(?:\b(?:net|within|terms|innerhalb(?: von)?|binnen|sous|a|à|in)\b[^\d]{0,12}(\d{1,3})|^(\d{1,3}))\s?(?:days?|tagen?|tage|jours?)\b/i.exec(
          phrase.text.slice(0, 200),
        );
      const n = Number(days?.[1] ?? days?.[2] ?? 0);
      if (!days || n < 1 || n > 180 || /skonto|discount|escompte|deliver|liefer|livr/i.test(phrase.text)) continue;
      const value = new Date(Date.parse(`${date.value}T00:00:00Z`) + n * 86_400_000).toISOString().slice(0, 10);
      return [
        {
          field: "dueDate",
          value,
          certainty: tidy(0.8 * date.certainty),
          page: page.isShown ? page.number : null,
          box: page.isShown ? phrase.box : null,
          text: phrase.text,
          label: null,
          others: [],
          from: page.isDrawn ? "page" : "text",
        },
      ];
    }
  return [];
}
