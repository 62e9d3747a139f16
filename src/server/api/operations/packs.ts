import { z } from "zod";
import { packWishSchema } from "../../packs/choose-records.ts";
import { define } from "./operation.ts";

const packParams = z.object({ id: z.uuid() });

/** Calls about documents that are taken out together. */
export const packsOperations = define({
  makePack: {
    method: "POST",
    path: "/packs",
    summary: "Create a pack of records' documents: one PDF, or a BagIt folder with hashes",
    body: packWishSchema,
    answers: "201 {id}",
  },
  packs: { method: "GET", path: "/packs", summary: "List one's packs, newest first", answers: "{items, next}" },
  pack: { method: "GET", path: "/packs/{id}", summary: "Get a pack and its progress", params: packParams, answers: "the pack" },
  packContent: { method: "GET", path: "/packs/{id}/content", summary: "Get its bytes", params: packParams, answers: "the bytes" },
});
