import { ownDomain, parseVatNumber, shapeOf } from "../reading/identifiers.ts";
import { foldReference, foldText } from "../shared/fold-text.ts";
import type { FieldValues } from "./record-type.ts";

/** What a record can be recognised by on a document. */
export const referenceKinds = [
  "key",
  "shape",
  "digits",
  "number",
  "yourReference",
  "order",
  "iban",
  "vatNumber",
  "mail",
  "domain",
  "name",
  "batch",
] as const;
export type ReferenceKind = (typeof referenceKinds)[number];

export interface RecordReference {
  readonly kind: ReferenceKind;
  /** Folded: letters and figures only; mail addresses and domains in small letters. */
  readonly reference: string;
}

/** Changes when what is entered here changes; records entered with an older one are entered again. */
export const REFERENCES_VERSION = 1;
/** A shorter reference is met on any document. */
const SHORTEST = 3;
/** Figures of a key that are a reference without their letters. */
const DIGITS_MIN = 4;

/** Everything by which a document can name a record: its key in its spellings, numbers, identifiers, and the name of a standing one. */
export function referencesOf(record: {
  readonly key: string;
  readonly title: string;
  readonly isStanding: boolean;
  readonly fields: FieldValues;
}): readonly RecordReference[] {
  const found: RecordReference[] = [];
  const put = (kind: ReferenceKind, reference: string | null): void => {
    if (
      reference !== null &&
      reference.length >= SHORTEST &&
      reference.length <= 120 &&
      !found.some((f) => f.kind === kind && f.reference === reference)
    )
      found.push({ kind, reference });
  };
  const text = (field: string): string => {
    const value = record.fields[field];
    return typeof value === "string" ? value : "";
  };
  const key = foldReference(record.key);
  put("key", key);
  if (/\d/.test(key)) put("shape", shapeOf(key));
  const digits = key.replace(/^[a-z]+0*/, "");
  if (digits !== key && /^\d+$/.test(digits) && digits.length >= DIGITS_MIN) put("digits", digits);
  put("number", foldReference(text("documentNumber")));
  put("yourReference", foldReference(text("yourReference")));
  put("order", foldReference(text("orderNumber")));
  put("batch", foldReference(text("batch")));
  put("number", foldReference(text("imo")));
  put("iban", foldReference(text("iban")));
  put("vatNumber", foldReference(parseVatNumber(text("vatNumber")) ?? text("vatNumber")));
  const mail = foldText(text("email"));
  if (mail.includes("@")) {
    put("mail", mail);
    put("domain", ownDomain(mail));
  }
  if (record.isStanding) {
    put("name", nameOf(record.title));
    put("name", nameOf(text("name")));
  }
  return found;
}

/** Forms of companies that a name is written with or without. */
const forms = /\b(ltd|limited|llp|plc|inc|llc|gmbh|mbh|ag|kg|co|sarl|sa|sas|bv|nv)\b\.?/g;

/** A name as it is compared: folded, without the company's form, blanks and points. Empty for names that are nothing else. */
export function nameOf(name: string): string {
  const folded = foldText(name).replace(/\./g, "").replace(/&/g, " and ");
  return foldReference(folded.replace(forms, " ")) || foldReference(folded);
}

/** One word of a name as it is compared: the names of runs of words are these, joined. Empty for a company's form. */
export function namePart(word: string): string {
  const folded = foldText(word).replace(/\./g, "").replace(/&/g, "and");
  return foldReference(folded.replace(forms, " "));
}
