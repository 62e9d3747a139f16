import { z } from "zod";
import { arrivalStates } from "#core/arrivals/journey.ts";
import { isCalendarDay } from "#core/records/parse-field-values.ts";
import { arrivalSorts } from "../../arrivals/list-arrivals.ts";

/** One call of the HTTP API: the doors check with these schemas, and openapi.json is made from them. */
export interface Operation {
  readonly method: "GET" | "PUT" | "POST" | "PATCH";
  readonly path: string;
  readonly summary: string;
  readonly params?: z.ZodObject;
  readonly query?: z.ZodObject;
  readonly body?: z.ZodType;
  /** Media type of a body that is streamed and not checked here. */
  readonly streams?: "multipart/form-data" | "text/csv" | "application/json";
  readonly open?: true;
  readonly answers: string;
}

export const limit = z.coerce.number().int().min(1).max(200).default(50);
export const cursor = z
  .string()
  .regex(/^\d{1,12}$/, "is not a cursor")
  .optional();
export const day = z.string().refine(isCalendarDay, "must be a date like 2026-11-18").optional();
export const short = z.string().trim().max(120).optional();
/** A record as `type:key`. */
export const recordReference = z
  .string()
  .max(200)
  .regex(/^[^:]+:.+$/, "must be type:key")
  .optional();
export const company = z.string().max(20).optional();
export const arrivalParams = z.object({ id: z.uuid() });
export const documentParams = z.object({ code: z.string().max(20) });
export const recordParams = z.object({ type: z.string().max(40), key: z.string().max(120) });
export const planParams = z.object({ id: z.uuid() });
export const connectionParams = z.object({ key: z.string().max(40) });
export const page = z.string().max(20);
export const arrivalPageParams = arrivalParams.extend({ page });
export const documentPageParams = documentParams.extend({ page });
export const list = <T extends readonly [string, ...string[]]>(values: T) =>
  z
    .string()
    .transform((t) => t.split(","))
    .pipe(z.array(z.enum(values)))
    .optional();
export const reason = z.object({ reason: z.string().trim().max(300).default("") });
/** The first digits of a content's SHA-256: an address that names it always answers the same, and may be cached for good. */
const of = z
  .string()
  .regex(/^[0-9a-f]{12,64}$/)
  .optional();
export const pictureQuery = z.object({ width: z.coerce.number().int().min(32).max(2400).default(960), of });
export const contentQuery = z.object({
  version: z.coerce.number().int().min(1).optional(),
  download: z.enum(["1"]).optional(),
  of,
});
export const arrivalQuery = z.object({
  state: list(arrivalStates),
  queue: short,
  company,
  source: short,
  kind: short,
  problem: z.enum(["1"]).optional(),
  mine: z.enum(["1"]).optional(),
  /** Those whose record the program is sure of. */
  sure: z.enum(["1"]).optional(),
  sender: z.string().trim().max(300).optional(),
  record: z
    .string()
    .max(200)
    .regex(/^[^:]+:.+$/, "must be type:key")
    .optional(),
  q: short,
  from: day,
  to: day,
  sort: z.enum(arrivalSorts).optional(),
  limit,
  cursor,
});

/** Calls under their names; each keeps the types of its own schemas. */
export const define = <T extends Readonly<Record<string, Operation>>>(operations: T): T => operations;
