import { z } from "zod";
import { isCalendarDay } from "../records/parse-field-values.ts";

/** What can be written down about a record in place of a document. */
export const activityKinds = ["call", "visit", "message", "meeting"] as const;
export type ActivityKind = (typeof activityKinds)[number];
export const activityWords: Readonly<Record<ActivityKind, string>> = {
  call: "Call",
  visit: "Visit",
  message: "Message",
  meeting: "Meeting note",
};

/** Longest text of one, letters. */
const TEXT_MAX = 20_000;

export const activitySchema = z.object({
  kind: z.enum(activityKinds),
  /** What it was about, in a line. */
  about: z.string().trim().min(1).max(120),
  /** The day it happened. */
  on: z.string().refine(isCalendarDay, "must be a date like 2026-11-18"),
  /** With whom; may be empty. */
  with: z.string().trim().max(120).default(""),
  text: z.string().trim().max(TEXT_MAX).default(""),
});
export type Activity = z.output<typeof activitySchema>;

/** An activity as the file that is kept of it: plain text that any program can read, with what it is on top. */
export function activityFile(
  activity: Activity,
  record: { readonly key: string; readonly title: string },
): { readonly title: string; readonly text: string } {
  const head = [
    `${activityWords[activity.kind]}: ${activity.about}`,
    `Date: ${activity.on}`,
    ...(activity.with === "" ? [] : [`With: ${activity.with}`]),
    `Record: ${record.key} ${record.title}`,
  ];
  return { title: `${activityWords[activity.kind]}: ${activity.about}`, text: `${head.join("\n")}\n\n${activity.text}\n` };
}
