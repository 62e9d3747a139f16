import { z } from "zod";
import { labelFormatsSchema } from "#core/codes/label-format.ts";
import { pilesSchema } from "../../bench/suggest-piles.ts";
import { apartSchema } from "../../bench/take-apart.ts";
import { SOURCES_MAX } from "../../bench/load-sources.ts";
import { sheetsSchema } from "../../codes/print-sheets.ts";
import { filingSchema } from "../../documents/file-away.ts";
import { arrivalParams, define } from "./operation.ts";

const turn = z.union([z.literal(0), z.literal(90), z.literal(180), z.literal(270)]);
const ids = z
  .string()
  .max(SOURCES_MAX * 40)
  .transform((t) => t.split(",").filter((id) => id !== ""))
  .optional();

/** Calls about the bench, and about the codes that divide papers. */
export const benchOperations = define({
  bench: {
    method: "GET",
    path: "/bench",
    summary: "The pages of some arrivals and documents, with proposed cuts and what their codes say",
    query: z.object({ arrivals: ids, documents: ids }),
    answers: "{sources, cuts, codes}",
  },
  takeApart: {
    method: "POST",
    path: "/bench",
    summary: "Make parts of the pages of some arrivals and documents, and file them",
    body: apartSchema,
    answers: "{parts}",
  },
  suggestPiles: {
    method: "POST",
    path: "/bench/suggestions",
    summary: "What piles of pages on the bench are and which records they belong to, before they are cut",
    body: pilesSchema,
    answers: "{piles}, null for a pile that is not read yet",
  },
  splitArrival: {
    method: "POST",
    path: "/arrivals/{id}/split",
    summary: "Split an arrival into parts; pages in no part are left out",
    params: arrivalParams,
    body: z.object({
      parts: z
        .array(
          z.object({
            pages: z.array(z.number().int().min(1)).min(1).max(20_000),
            turn: z.record(z.string().regex(/^\d{1,5}$/), turn).optional(),
            file: filingSchema.optional(),
          }),
        )
        .min(1)
        .max(2_000),
    }),
    answers: "{parts}",
  },
  putBack: {
    method: "POST",
    path: "/arrivals/{id}/put-back",
    summary: "Undo what the bench made of an arrival, while none of it is filed",
    params: arrivalParams,
    answers: "{restored}",
  },
  sheets: {
    method: "POST",
    path: "/codes/sheets",
    summary: "Cover sheets, labels or separator sheets to print",
    body: sheetsSchema,
    answers: "application/pdf",
  },
  labelFormats: { method: "GET", path: "/settings/label-formats", summary: "The business system's barcodes", answers: "{items}" },
  putLabelFormats: {
    method: "PUT",
    path: "/settings/label-formats",
    summary: "Say what the business system's barcodes look like",
    body: z.object({ formats: labelFormatsSchema }),
    answers: "{items}",
  },
});
