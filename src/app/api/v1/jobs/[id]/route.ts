import { ok, refuse } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { loadJob } from "#server/records/import-records.ts";

export const GET = door("job", async ({ actor, params }) => {
  const job = await loadJob(actor, params.id);
  return job ? ok(job) : refuse("not-found");
});
