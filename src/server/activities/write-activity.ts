import { Readable } from "node:stream";
import { type Activity, activityFile, activityWords } from "#core/activities/activity.ts";
import { diskLimits, legalName } from "#core/filing-plan/legal-name.ts";
import { refuse, type Result } from "#core/shared/result.ts";
import { landFile, takeIn } from "../arrivals/receive.ts";
import { readArrival } from "../arrivals/read-arrival.ts";
import { fileAway, type Filed } from "../documents/file-away.ts";
import type { Actor } from "../people/load-actor.ts";
import { loadDocumentType } from "../records/load-types.ts";
import type { record } from "../records/tables.ts";

/** The document type that activities are filed as. */
export const ACTIVITY_TYPE = "activity";

/**
 * Writes an activity down as a document of its record: kept, placed, found and listed like any other. It goes the whole way of an arrival, so that it is in the
 * register too. Refuses unknown-type where there is no document type for activities, and what filing refuses; then it waits in Arrivals and is not lost.
 */
export async function writeActivity(actor: Actor, row: typeof record.$inferSelect, activity: Activity): Promise<Result<Filed>> {
  const type = await loadDocumentType(ACTIVITY_TYPE);
  if (!type) return refuse("unknown-type", ACTIVITY_TYPE);
  const { title, text } = activityFile(activity, row);
  const landed = await landFile(Readable.from([Buffer.from(text, "utf8")]));
  if (!landed.ok) return landed;
  const taken = await takeIn(actor, landed.value, {
    fileName: legalName(title, diskLimits, ".txt"),
    queue: actor.queues[0] ?? "general",
    source: "written",
    company: row.company,
    record: `${row.type}:${row.key}`,
    documentType: ACTIVITY_TYPE,
  });
  if (!taken.ok) return taken;
  await readArrival(taken.value.id, { suggests: false });
  const said: Readonly<Record<string, string>> = {
    documentDate: activity.on,
    kindOfActivity: activityWords[activity.kind],
    with: activity.with,
  };
  // A type that was set up otherwise takes what it knows.
  const properties = Object.fromEntries(type.properties.flatMap((p) => (said[p.key] ? [[p.key, said[p.key]]] : [])));
  return fileAway(actor, taken.value.id, {
    documentType: ACTIVITY_TYPE,
    clips: [{ company: row.company, type: row.type, key: row.key }],
    title,
    properties,
    onSameName: "separate",
  });
}
