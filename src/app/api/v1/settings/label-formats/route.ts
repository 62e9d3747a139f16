import { ok } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { loadLabelFormats, saveLabelFormats } from "#server/settings/load-settings.ts";

export const GET = door("labelFormats", async () => ok({ items: await loadLabelFormats() }));
export const PUT = door("putLabelFormats", async ({ actor, body }) => {
  const saved = await saveLabelFormats(actor, body.formats);
  return saved.ok ? ok({ items: saved.value }) : saved;
});
