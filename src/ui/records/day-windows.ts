import { shiftDay } from "#core/shared/parse-day.ts";
import { todayText } from "../kit/words.ts";

/** Windows of days around today, as they stand in the address: kept filters mean the day they are used on. */
export const dayWindows = [
  { key: "last7", label: "Last 7 days", from: -7, to: -1 },
  { key: "last30", label: "Last 30 days", from: -30, to: -1 },
  { key: "last90", label: "Last 90 days", from: -90, to: -1 },
  { key: "next7", label: "Today and next 7 days", from: 0, to: 7 },
  { key: "next30", label: "Today and next 30 days", from: 0, to: 30 },
] as const;
export type DayWindow = (typeof dayWindows)[number]["key"];

/** First and last day of a window; nothing for none. */
export function windowOf(key: string | null | undefined, today = todayText()): { readonly from?: string; readonly to?: string } {
  const window = dayWindows.find((w) => w.key === key);
  return window ? { from: shiftDay(today, window.from), to: shiftDay(today, window.to) } : {};
}
