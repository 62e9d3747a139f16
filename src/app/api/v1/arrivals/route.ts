import { ok } from "#core/shared/result.ts";
import { door, pageOf, problem } from "#server/api/door.ts";
import { receiveUpload } from "#server/api/receive-upload.ts";
import { listArrivals } from "#server/arrivals/list-arrivals.ts";

export const GET = door("arrivals", async ({ actor, query }) => {
  const offset = Number(query.cursor ?? 0);
  const { state, problem: withProblem, mine, sure, ...wish } = query;
  const found = await listArrivals(actor, {
    ...wish,
    states: state,
    problem: withProblem === "1",
    mine: mine === "1",
    sure: sure === "1",
    offset,
  });
  return ok(pageOf(found.items, found.total, offset));
});

export const POST = door("postArrival", async ({ actor, request }) => {
  const taken = await receiveUpload(actor, request);
  return taken.ok ? Response.json(taken.value, { status: 201 }) : problem(taken.refusal);
});
