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

/** Calls about the bench, and about the codes that divide documents. */
export const benchOperations = define({
  bench: {
    method: "GET",
    path: "/bench",
    summary: "Get the pages of arrivals and documents with proposed cuts and barcodes",
    query: z.object({ arrivals: ids, documents: ids }),
    answers: "{sources, cuts, codes}",
  },
  takeApart: {
    method: "POST",
    path: "/bench",
    summary: "Split and join pages of arrivals and documents into parts, and file them",
    body: apartSchema,
    answers: "{parts}",
  },
  suggestPiles: {
    method: "POST",
    path: "/bench/suggestions",
    summary: "Suggest type and record for piles of pages before they are cut",
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
    summary: "Undo a split or join while none of its parts is filed",
    params: arrivalParams,
    answers: "{restored}",
  },
  sheets: {
    method: "POST",
    path: "/codes/sheets",
    summary: "Create a PDF of cover sheets, labels or separator sheets",
    body: sheetsSchema,
    answers: "application/pdf",
  },
  labelFormats: {
    method: "GET",
    path: "/settings/label-formats",
    summary: "List the barcode patterns of the business system",
    answers: "{items}",
  },
  putLabelFormats: {
    method: "PUT",
    path: "/settings/label-formats",
    summary: "Set the barcode patterns of the business system",
    body: z.object({ formats: labelFormatsSchema }),
    answers: "{items}",
  },
});
