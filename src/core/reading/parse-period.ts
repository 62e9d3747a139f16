import { foldText } from "../shared/fold-text.ts";
import { monthNamed, parsePaperDay } from "./parse-paper-day.ts";

/** A stretch of days, both YYYY-MM-DD, the first no later than the last. */
export interface Period {
  readonly from: string;
  readonly to: string;
}

/** What stands between the first and the last day. */
const joiner = /\s*(?:[-–—]|\bto\b|\buntil\b|\btill\b|\bbis(?: zum)?\b|\bau\b|\bjusqu['’ ]?au\b)\s*/giu;
/** Longer ones are contracts, not deliveries. */
const DAYS_MAX = 800;

/**
 * Reads a period as documents in English, German and French write it: 1 to 31 October 2026, 01.10.–31.10.2026, from 1 October 2026 until 31 October 2026,
 * du 1er au 31 octobre 2026, Oktober 2026, 10/2026. Null for what is none. `order` says what comes first in days that could be read either way.
 */
export function parsePeriod(text: string, order: "dmy" | "mdy" | null): Period | null {
  const clean = text
    .trim()
    .replace(/^(?:from|von|vom|du|de|im|in)\s+/i, "")
    .replace(/[.,;:)]+$/, "");
  const month = wholeMonth(clean);
  if (month) return month;
  // A dash also stands within days: every place where it may part two of them is tried.
  for (const found of clean.matchAll(joiner)) {
    const [first, last] = [clean.slice(0, found.index), clean.slice(found.index + found[0].length)];
    const to = dayOf(last, order);
    if (to === null) continue;
    const from = dayOf(first, order) ?? beginning(first, to);
    if (from !== null && from <= to && Date.parse(to) - Date.parse(from) <= DAYS_MAX * 86_400_000) return { from, to };
  }
  return null;
}

function dayOf(text: string, order: "dmy" | "mdy" | null): string | null {
  const day = parsePaperDay(text.replace(/^(?:the|den|dem|le|zum)\s+/i, ""));
  if (!day) return null;
  return (order === "mdy" && day.values.length === 2 ? day.values[1] : day.values[0]) ?? null;
}

/** The first day of a period that leaves out what the last says already: "1", "01.10.", "1 October", "1er". */
function beginning(text: string, to: string): string | null {
  const [year = "", month = ""] = to.split("-");
  const bare = foldText(text).replace(/^(?:the|den|dem|le)\s+/, "");
  const day = /^(\d{1,2})(?:st|nd|rd|th|er|\.)?$/.exec(bare)?.[1];
  if (day !== undefined) return dayOf(`${year}-${month}-${day.padStart(2, "0")}`, null);
  const dotted = /^(\d{1,2})[./](\d{1,2})\.?$/.exec(bare);
  if (dotted) return dayOf(`${year}-${dotted[2]?.padStart(2, "0")}-${dotted[1]?.padStart(2, "0")}`, null);
  return dayOf(`${bare} ${year}`, null);
}

function wholeMonth(text: string): Period | null {
  const words = text.split(/\s+/);
  const named = words.length === 2 && /^\d{4}$/.test(words[1] ?? "") ? monthNamed(words[0] ?? "") : null;
  const figures = /^(\d{1,2})[./](\d{4})$/.exec(text);
  const [month, year] = named !== null ? [named, Number(words[1])] : figures ? [Number(figures[1]), Number(figures[2])] : [0, 0];
  if (month < 1 || month > 12 || year < 1950 || year > 2099) return null;
  const iso = (day: number): string => `${year}-${String(month).padStart(2, "0")}-${String(day).padStart(2, "0")}`;
  return { from: iso(1), to: iso(new Date(Date.UTC(year, month, 0)).getUTCDate()) };
}
