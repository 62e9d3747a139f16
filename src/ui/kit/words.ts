import { differenceInCalendarDays, format, formatDistanceToNowStrict, isSameDay, isSameYear } from "date-fns";
import { enGB } from "date-fns/locale";

/** A day for people: 18 Nov 2026. Takes YYYY-MM-DD or an instant. */
export function dayText(value: string | null | undefined): string {
  if (!value) return "";
  // What is no day yet (somebody is putting it right) is shown as it is; Date would make a day of almost anything.
  if (!/^\d{4}-\d{2}-\d{2}/.test(value)) return value;
  const date = new Date(value.length === 10 ? `${value}T12:00:00` : value);
  return Number.isNaN(date.getTime()) ? value : format(date, "d MMM yyyy", { locale: enGB });
}

/** An instant: relative up to a day, then the day; without the year when it is this one. */
export function whenText(value: string): string {
  const date = new Date(value);
  const age = Date.now() - date.getTime();
  if (age >= 0 && age < 24 * 3600_000) return age < 60_000 ? "just now" : `${formatDistanceToNowStrict(date, { locale: enGB })} ago`;
  return format(date, isSameYear(date, new Date()) ? "d MMM HH:mm" : "d MMM yyyy", { locale: enGB });
}

/** An instant for narrow lists: the time today, else the day. */
export function briefTime(value: string): string {
  const date = new Date(value);
  return format(date, isSameDay(date, new Date()) ? "HH:mm" : isSameYear(date, new Date()) ? "d MMM" : "d MMM yy", { locale: enGB });
}

/** The day something came in, with how long it has waited since: "Today", "20 Nov 2026, waiting 5 days". */
export function waitingDay(value: string): string {
  const days = differenceInCalendarDays(new Date(), new Date(value));
  const day = format(new Date(value), "d MMM yyyy", { locale: enGB });
  return days <= 0 ? "Today" : days === 1 ? "Yesterday" : `${day}, waiting ${days} days`;
}

/** The full time, for hovering over a short one. */
export function fullTime(value: string): string {
  return format(new Date(value), "EEEE d MMMM yyyy, HH:mm:ss", { locale: enGB });
}

/** An amount with its currency: 5,835.00 GBP. Empty when there is none. */
export function amountText(value: string | null | undefined, currency: string | null | undefined): string {
  if (!value) return "";
  const [whole = "", places = "00"] = value.split(".");
  return `${whole.replace(/\B(?=(\d{3})+(?!\d))/g, ",")}.${places.padEnd(2, "0")}${currency ? ` ${currency}` : ""}`;
}

/** A size for people: 84 kB, 3.2 MB. The number and its unit stay on one line. */
export function sizeText(bytes: number): string {
  if (bytes < 1000) return `${bytes}\u00a0bytes`;
  if (bytes < 1_000_000) return `${Math.round(bytes / 1000)}\u00a0kB`;
  return `${(bytes / 1_000_000).toFixed(bytes < 10_000_000 ? 1 : 0)}\u00a0MB`;
}

/** A probability for people: 97 %. Never 100 %, since nothing read off a page is certain. */
export const percentText = (probability: number): string => `${Math.min(99, Math.round(probability * 100))}\u00a0%`;

/** "1 paper", "2 papers". */
export function countText(count: number, one: string, many = `${one}s`): string {
  return `${count.toLocaleString("en-GB")} ${count === 1 ? one : many}`;
}

/** How a document came in. */
export const sourceWords: Readonly<Record<string, string>> = {
  drop: "dropped",
  api: "program",
  mail: "mail",
  scanner: "scanner",
  folder: "watched folder",
  phone: "phone",
  bench: "bench",
  written: "written here",
};
/** Words of an arrival's state. */
export const stateWords: Readonly<Record<string, string>> = {
  waiting: "waiting",
  reading: "reading",
  ready: "ready",
  failed: "cannot be read",
  filed: "filed",
  setAside: "set aside",
  split: "split",
  joined: "joined",
};

/** Today's calendar day where the person is, YYYY-MM-DD. */
export function todayText(): string {
  return format(new Date(), "yyyy-MM-dd");
}
