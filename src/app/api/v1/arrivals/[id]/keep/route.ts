import { parseArrivalId } from "#core/shared/brand.ts";
import { refuse } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { keepOfMail } from "#server/arrivals/keep-of-mail.ts";

export const POST = door("keepOfMail", async ({ actor, params, body }) => {
  const id = parseArrivalId(params.id);
  return id ? keepOfMail(actor, id, body.keeps) : refuse("not-found");
});
