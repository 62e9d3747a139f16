import { door } from "#server/api/door.ts";
import { changeWeights, loadWeightsAnswer } from "#server/matching/weights.ts";

export const GET = door("weights", ({ actor }) => loadWeightsAnswer(actor));
export const POST = door("changeWeights", ({ actor, body }) => changeWeights(actor, body));
