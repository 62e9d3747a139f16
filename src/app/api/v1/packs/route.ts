import { ok } from "#core/shared/result.ts";
import { door } from "#server/api/door.ts";
import { beginPack, listPacks } from "#server/packs/make-pack.ts";

export const GET = door("packs", async ({ actor }) => ok({ items: await listPacks(actor), next: null }));
export const POST = door("makePack", async ({ actor, body }) => {
  const begun = await beginPack(actor, body);
  return begun.ok ? Response.json(begun.value, { status: 201 }) : begun;
});
