import { z } from "zod";
import { parseFieldValues } from "../records/parse-field-values.ts";
import type { Field } from "../records/record-type.ts";

/** A Zod schema for the values of typed fields: the sheet in the browser and the filing on the server check with the same one. */
export function fieldValuesSchema(fields: readonly Field[], options: { readonly partial?: boolean } = {}) {
  return z.record(z.string(), z.unknown()).transform((raw, context) => {
    const { values, errors } = parseFieldValues(fields, raw, { ...options, at: "" });
    for (const error of errors) context.addIssue({ code: "custom", message: error.message, path: [error.path.replace(/^\./, "")] });
    return values;
  });
}
