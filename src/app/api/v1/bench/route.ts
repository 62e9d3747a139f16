import { door, refused } from "#server/api/door.ts";
import { loadBench } from "#server/bench/load-bench.ts";
import { SOURCES_MAX } from "#server/bench/load-sources.ts";
import { takeApart } from "#server/bench/take-apart.ts";

export const GET = door("bench", async ({ actor, query }) => {
  const sources = [...(query.arrivals ?? []).map((arrival) => ({ arrival })), ...(query.documents ?? []).map((document) => ({ document }))];
  return sources.length === 0 || sources.length > SOURCES_MAX ? refused("bad-input") : loadBench(actor, sources);
});

export const POST = door("takeApart", ({ actor, body }) => takeApart(actor, body));
