import { ok } from "#core/shared/result.ts";
import { door, pageOf } from "#server/api/door.ts";
import { listFindings } from "#server/repository/decide-findings.ts";

export const GET = door("findings", async ({ actor, query }) => {
  const offset = Number(query.cursor ?? 0);
  const found = await listFindings(actor, { ...query, offset });
  return found.ok ? ok({ ...pageOf(found.value.items, found.value.total, offset), kinds: found.value.kinds }) : found;
});
