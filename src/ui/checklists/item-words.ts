import { differenceInCalendarDays } from "date-fns";
import type { ItemState } from "#core/checklists/checklist-state.ts";
import { dayText } from "../kit/words.ts";

interface StatedItem {
  readonly state: ItemState | string;
  readonly dueOn: string | null;
  readonly expiresOn: string | null;
  readonly have?: number;
  readonly want?: number;
}
/** Days ahead that something lapsing or due is said. */
const SOON = 60;
/** Days late that are counted; beyond them the day it was due says more. */
const LATE_DAYS = 30;

const daysTo = (day: string, today: string): number => differenceInCalendarDays(new Date(`${day}T12:00:00`), new Date(`${today}T12:00:00`));

/** What is to be said beside an item's name, in a few words; empty when there is nothing to do. `isUrgent`: it is due by today. */
export function itemHint(item: StatedItem, today: string): { readonly words: string; readonly isUrgent: boolean } {
  const part = item.want !== undefined && item.want > 1 && item.state !== "waived" ? `${item.have ?? 0} of ${item.want}` : "";
  const join = (words: string): string => [part, words].filter(Boolean).join(", ");
  if (item.state === "expired")
    return { words: join(item.expiresOn ? `expired ${shortDay(item.expiresOn, today)}` : "expired"), isUrgent: true };
  if (item.state === "complete" && item.expiresOn !== null) {
    const days = daysTo(item.expiresOn, today);
    return { words: join(days <= SOON ? `until ${shortDay(item.expiresOn, today)}` : ""), isUrgent: false };
  }
  if (item.state === "outstanding" && item.dueOn !== null) {
    const days = daysTo(item.dueOn, today);
    if (days < -LATE_DAYS) return { words: join(`overdue since ${shortDay(item.dueOn, today)}`), isUrgent: true };
    if (days < 0) return { words: join(days === -1 ? "1 day overdue" : `${-days} days overdue`), isUrgent: true };
    if (days === 0) return { words: join("due today"), isUrgent: true };
    return { words: join(days === 1 ? "due tomorrow" : `due ${shortDay(item.dueOn, today)}`), isUrgent: false };
  }
  if (item.state === "received") return { words: join("check it"), isUrgent: false };
  return { words: part, isUrgent: false };
}

/** A day without its year when that is this one. */
const shortDay = (day: string, today: string): string => {
  const text = dayText(day);
  return day.slice(0, 4) === today.slice(0, 4) ? text.slice(0, -5) : text;
};
