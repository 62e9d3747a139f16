import { ok } from "#core/shared/result.ts";
import { csvOf, wantsCsv } from "#server/api/csv.ts";
import { door, pageOf } from "#server/api/door.ts";
import { eachLocation, listLocations, locationColumns } from "#server/repository/browse.ts";

export const GET = door("locations", async ({ actor, query, request }) => {
  const offset = Number(query.cursor ?? 0);
  const { order, cursor: _cursor, ...rest } = query;
  const wish = { ...rest, down: order === "down", offset };
  if (wantsCsv(request)) return csvOf("locations.csv", locationColumns, eachLocation(actor, wish));
  const found = await listLocations(actor, wish);
  return ok(pageOf(found.items, found.total, offset));
});
