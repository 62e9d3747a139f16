import { door } from "#server/api/door.ts";
import { comparePapers } from "#server/matching/compare-papers.ts";

export const GET = door("compareArrival", ({ actor, params, query }) => comparePapers(actor, params.id, query.with));
