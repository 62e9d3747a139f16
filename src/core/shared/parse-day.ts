import { isCalendarDay } from "../records/parse-field-values.ts";

const months = ["jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec"] as const;

/**
 * A day as people type it in Britain: 18 Nov 2026, 18.11.26, 18/11, 181126, 2026-11-18, today, yesterday. Day before month; two-figure
 * years are of this century; without a year the one that brings the day nearest to `today` (YYYY-MM-DD). Null when it is no day.
 */
export function parseTypedDay(typed: string, today: string): string | null {
  const text = typed.trim().toLowerCase();
  if (text === "") return null;
  if (text === "today") return today;
  if (text === "yesterday") return shiftDay(today, -1);
  if (isCalendarDay(text)) return text;
  const packed = /^(\d{2})(\d{2})(\d{2}|\d{4})$/.exec(text);
  if (packed) return dayOf(packed[1], packed[2], packed[3], today);
  const parts = text.split(/[\s./-]+|,\s*/).filter((p) => p !== "");
  if (parts.length < 2 || parts.length > 3) return null;
  const [first = "", second = "", third] = parts;
  const named = monthNamed(second);
  if (named !== null) return dayOf(first.replace(/(st|nd|rd|th)$/, ""), named, third, today);
  const namedFirst = monthNamed(first);
  if (namedFirst !== null) return dayOf(second.replace(/(st|nd|rd|th)$/, ""), namedFirst, third, today);
  return dayOf(first, second, third, today);
}

/** A calendar day so many days later (earlier when negative). */
export function shiftDay(day: string, days: number): string {
  return new Date(Date.parse(`${day}T00:00:00Z`) + days * 86_400_000).toISOString().slice(0, 10);
}

function monthNamed(text: string): string | null {
  const at = text.length < 3 ? -1 : months.findIndex((m) => text.startsWith(m));
  return at === -1 ? null : String(at + 1);
}

function dayOf(day: string | undefined, month: string | undefined, year: string | undefined, today: string): string | null {
  if (!/^\d{1,2}$/.test(day ?? "") || !/^\d{1,2}$/.test(month ?? "")) return null;
  const make = (y: number): string | null => {
    const made = `${String(y).padStart(4, "0")}-${(month ?? "").padStart(2, "0")}-${(day ?? "").padStart(2, "0")}`;
    return isCalendarDay(made) ? made : null;
  };
  if (year !== undefined) return /^(\d{2}|\d{4})$/.test(year) ? make(year.length === 2 ? 2000 + Number(year) : Number(year)) : null;
  const now = Date.parse(today);
  const thisYear = Number(today.slice(0, 4));
  const near = [thisYear - 1, thisYear, thisYear + 1].map(make).filter((d) => d !== null);
  return near.sort((a, b) => Math.abs(Date.parse(a) - now) - Math.abs(Date.parse(b) - now))[0] ?? null;
}
