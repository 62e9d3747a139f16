import { refuse } from "#core/shared/result.ts";
import { door, readText } from "#server/api/door.ts";
import { EVENT_BYTES_MAX, takeEvent } from "#server/drafts/take-event.ts";

export const POST = door("businessEvent", async ({ request }) => {
  // Signed over its very bytes, so it is read before anything of it is believed.
  const body = await readText(request, EVENT_BYTES_MAX);
  return body === null ? refuse("too-large") : takeEvent(request.headers, body);
});
