import { isCalendarDay } from "../records/parse-field-values.ts";
import { foldText } from "../shared/fold-text.ts";

/** A day as it stands on a document: `values` are the days it can mean, the likelier first. */
export interface PaperDay {
  /** YYYY-MM-DD; more than one when day and month cannot be told apart. */
  readonly values: readonly string[];
  /** Order it was written in, where it shows: a day above twelve tells how its sender writes. */
  readonly order: "dmy" | "mdy" | "ymd" | null;
}

/** Month names in English, German and French, folded, by their beginnings; longer ones first where one begins with another. */
const months: readonly (readonly [name: string, month: number])[] = [
  ["jan", 1],
  ["janner", 1],
  ["feb", 2],
  ["fev", 2],
  ["fevr", 2],
  ["mar", 3],
  ["maerz", 3],
  ["marz", 3],
  ["mrz", 3],
  ["apr", 4],
  ["avr", 4],
  ["may", 5],
  ["mai", 5],
  ["juil", 7],
  ["jul", 7],
  ["jun", 6],
  ["juin", 6],
  ["aug", 8],
  ["aou", 8],
  ["sep", 9],
  ["oct", 10],
  ["okt", 10],
  ["nov", 11],
  ["dec", 12],
  ["dez", 12],
];

/** Whole names that a word may be, so that "Marine" is no March. */
const whole = new Set(
  (
    "jan january januar janner janvier janv feb february februar fevrier fevr fev mar march marz maerz mars mrz apr april avril avr may mai jun june juni juin " +
    "jul july juli juillet juil aug august aout sep sept september septembre oct october oktober octobre okt nov november novembre dec december dezember decembre dez"
  ).split(" "),
);

/** The month a word names, 1 to 12, with or without a point behind it; null when it names none. */
export function monthNamed(word: string): number | null {
  const folded = foldText(word).replace(/[.,]+$/, "");
  if (!whole.has(folded)) return null;
  const found = months.filter(([name]) => folded.startsWith(name)).sort((a, b) => b[0].length - a[0].length)[0];
  return found ? found[1] : null;
}

/**
 * Reads a day as documents in English, German and French write it: 18 November 2026, 18. Nov. 2026, November 18, 2026, 18/11/2026, 18.11.26,
 * 2026-11-18, 20261118, le 1er mars 2026. Null for what is none. Where day and month could be either, both are given, the day first.
 */
export function parsePaperDay(text: string): PaperDay | null {
  const clean = text.trim().replace(/[,;:]+$/, "");
  const numeric = /^(\d{1,4})\s?([./-])\s?(\d{1,2})\s?\2\s?(\d{2,4})$/.exec(clean);
  if (numeric) {
    const [, a = "", sign = "", b = "", c = ""] = numeric;
    if (a.length === 4) return c.length <= 2 ? only(make(a, b, c), "ymd") : null;
    if (a.length > 2 || c.length === 3) return null;
    const dmy = make(yearOf(c), b, a);
    // Points part days only where the day comes first.
    const mdy = sign === "." ? null : make(yearOf(c), a, b);
    if (dmy && mdy && dmy !== mdy) return { values: [dmy, mdy], order: null };
    if (dmy) return { values: [dmy], order: Number(a) > 12 ? "dmy" : null };
    return mdy ? { values: [mdy], order: "mdy" } : null;
  }
  const packed = /^(20\d{2})(\d{2})(\d{2})$/.exec(clean);
  if (packed) return only(make(packed[1] ?? "", packed[2] ?? "", packed[3] ?? ""), "ymd");
  const parts = clean
    .replace(/^(?:le|den|the|am)\s/i, "")
    .split(/[\s,./-]+/)
    .filter((p) => p !== "" && !/^of$/i.test(p));
  if (parts.length !== 3) return null;
  const [first = "", second = "", third = ""] = parts;
  const figure = (t: string): string | null => /^(\d{1,2})(?:st|nd|rd|th|er|e)?$/i.exec(t)?.[1] ?? null;
  const year = (t: string): string | null => (/^(\d{4}|\d{2})$/.test(t.replace(/^['’]/, "")) ? yearOf(t.replace(/^['’]/, "")) : null);
  const named = monthNamed(second);
  if (named !== null && figure(first) !== null && year(third) !== null)
    return only(make(year(third) ?? "", String(named), figure(first) ?? ""), "dmy");
  const namedFirst = monthNamed(first);
  if (namedFirst !== null && figure(second) !== null && year(third) !== null)
    return only(make(year(third) ?? "", String(namedFirst), figure(second) ?? ""), "mdy");
  return null;
}

function only(day: string | null, order: PaperDay["order"]): PaperDay | null {
  return day === null ? null : { values: [day], order };
}

const yearOf = (text: string): string => (text.length === 2 ? `20${text}` : text);

function make(year: string, month: string, day: string): string | null {
  const made = `${year}-${month.padStart(2, "0")}-${day.padStart(2, "0")}`;
  return isCalendarDay(made) && Number(year) >= 1950 && Number(year) <= 2099 ? made : null;
}
