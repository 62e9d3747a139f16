import { z } from "zod";
import { packWishSchema } from "../../packs/choose-records.ts";
import { define } from "./operation.ts";

const packParams = z.object({ id: z.uuid() });

/** Calls about papers that are taken out together. */
export const packsOperations = define({
  makePack: {
    method: "POST",
    path: "/packs",
    summary: "Take the papers of records out together: one PDF, or a folder with proofs (BagIt)",
    body: packWishSchema,
    answers: "201 {id}",
  },
  packs: { method: "GET", path: "/packs", summary: "One's packs, newest first", answers: "{items, next}" },
  pack: { method: "GET", path: "/packs/{id}", summary: "One pack and how far it is", params: packParams, answers: "the pack" },
  packContent: { method: "GET", path: "/packs/{id}/content", summary: "Its bytes", params: packParams, answers: "the bytes" },
});
