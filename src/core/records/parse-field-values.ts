import type { FieldError } from "../shared/result.ts";
import type { Field, FieldValue, FieldValues } from "./record-type.ts";

/** Longest text a single field may hold, in characters: fields are shown in one line and searched. */
export const FIELD_TEXT_MAX = 2000;

/**
 * Checks raw values against typed fields. Unknown keys, wrong kinds and missing required ones are listed; what is right
 * comes back normalised. Empty strings count as absent (null). `partial` leaves out the check for required fields.
 */
export function parseFieldValues(
  fields: readonly Field[],
  raw: Readonly<Record<string, unknown>>,
  options: { readonly partial?: boolean; readonly at?: string } = {},
): { readonly values: FieldValues; readonly errors: readonly FieldError[] } {
  const at = options.at ?? "fields";
  const values: Record<string, FieldValue> = {};
  const errors: FieldError[] = [];
  for (const key of Object.keys(raw)) {
    if (!fields.some((f) => f.key === key)) errors.push({ path: `${at}.${key}`, message: "is not a field of this type" });
  }
  for (const field of fields) {
    const given = raw[field.key];
    const blank = given === undefined || given === null || (typeof given === "string" && given.trim() === "");
    if (blank) {
      if (field.required && !options.partial) errors.push({ path: `${at}.${field.key}`, message: "is required" });
      if (given !== undefined) values[field.key] = null;
      continue;
    }
    const parsed = parseOne(field, given);
    if (parsed.ok) values[field.key] = parsed.value;
    else errors.push({ path: `${at}.${field.key}`, message: parsed.why });
  }
  return { values, errors };
}

type One = { readonly ok: true; readonly value: FieldValue } | { readonly ok: false; readonly why: string };

function parseOne(field: Field, given: unknown): One {
  switch (field.kind) {
    case "yesNo": {
      if (typeof given === "boolean") return { ok: true, value: given };
      const word = typeof given === "string" ? given.trim().toLowerCase() : "";
      if (["yes", "true", "1", "y"].includes(word)) return { ok: true, value: true };
      if (["no", "false", "0", "n"].includes(word)) return { ok: true, value: false };
      return { ok: false, why: "must be yes or no" };
    }
    case "date": {
      if (typeof given !== "string" || !isCalendarDay(given.trim().slice(0, 10)))
        return { ok: false, why: "must be a date like 2026-11-18" };
      return { ok: true, value: given.trim().slice(0, 10) };
    }
    case "number":
    case "amount": {
      const text = typeof given === "number" ? decimalText(given) : typeof given === "string" ? ungrouped(given.trim()) : "";
      if (!/^-?\d{1,15}(\.\d{1,6})?$/.test(text)) return { ok: false, why: "must be a number like 1234.56" };
      return { ok: true, value: field.kind === "amount" ? withTwoPlaces(text) : text };
    }
    case "choice": {
      const text = typeof given === "string" ? given.trim() : "";
      const hit = field.choices?.find((c) => c.toLowerCase() === text.toLowerCase());
      return hit === undefined ? { ok: false, why: `must be one of ${(field.choices ?? []).join(", ")}` } : { ok: true, value: hit };
    }
    case "text": {
      const text = typeof given === "number" ? decimalText(given) : typeof given === "string" ? given.trim() : "";
      if (text === "") return { ok: false, why: "must be text" };
      if (text.length > FIELD_TEXT_MAX) return { ok: false, why: `is longer than ${FIELD_TEXT_MAX} characters` };
      // oxlint-disable-next-line no-control-regex -- control characters are what is looked for
      if (/[\u0000-\u0008\u000b\u000c\u000e-\u001f]/.test(text)) return { ok: false, why: "contains control characters" };
      return { ok: true, value: text };
    }
  }
}

/** Whether a string is a day that exists, written YYYY-MM-DD. */
export function isCalendarDay(text: string): boolean {
  const parts = /^(\d{4})-(\d{2})-(\d{2})$/.exec(text);
  if (!parts) return false;
  const [year, month, day] = [Number(parts[1]), Number(parts[2]), Number(parts[3])];
  const leap = (year % 4 === 0 && year % 100 !== 0) || year % 400 === 0;
  const days = [31, leap ? 29 : 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31];
  // The database has no year nought.
  return year >= 1 && month >= 1 && month <= 12 && day >= 1 && day <= (days[month - 1] ?? 0);
}

function decimalText(value: number): string {
  return Number.isFinite(value) ? String(value) : "";
}

/** 5,835.00 as people copy it from a page is 5835.00. Only whole groups of three: 5,83 stays, and is refused. */
function ungrouped(text: string): string {
  return /^-?\d{1,3}(,\d{3})+(\.\d+)?$/.test(text) ? text.replaceAll(",", "") : text;
}

/** Amounts keep two places at least, and more where they were given: 12.5 becomes 12.50, a unit price 0.7125 stays. */
function withTwoPlaces(text: string): string {
  const [whole, places = ""] = text.split(".");
  return `${whole}.${places.padEnd(2, "0")}`;
}
