import { foldReference, foldText } from "../shared/fold-text.ts";
import type { FieldValues } from "./record-type.ts";

/** Characters of it that are kept: fields may hold long descriptions. */
const LOOKUP_MAX = 4000;

/** What a record is looked up by: its key in both spellings, title and all its texts, folded. */
export function lookupTextOf(key: string, title: string, fields: FieldValues): string {
  return foldText([key, foldReference(key), title, ...Object.values(fields).filter((v) => typeof v === "string")].join(" ")).slice(
    0,
    LOOKUP_MAX,
  );
}
