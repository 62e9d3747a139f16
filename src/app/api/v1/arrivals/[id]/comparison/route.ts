import { door } from "#server/api/door.ts";
import { loadComparison } from "#server/comparing/load-comparison.ts";

export const GET = door("comparison", ({ actor, params, query }) => loadComparison(actor, params.id, query));
