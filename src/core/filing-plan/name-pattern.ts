import { ok, refuse, type Result } from "../shared/result.ts";

/**
 * A name pattern builds folder names, file names and titles from fields: `{name} {key}`.
 * Inside braces: a field, then formats after colons, then fallbacks after bars:
 * `{sailingDate:year}`, `{name:upper}`, `{name:first 20}`, `{yourReference|key}`, `{vessel|"no vessel"}`.
 * The text form and the picked chips are the same thing. Rule: docs/rules.md#name-patterns
 */
export type PatternPart = { readonly text: string } | { readonly choices: readonly PatternChoice[] };
export type PatternChoice = { readonly field: string; readonly formats: readonly PatternFormat[] } | { readonly literal: string };
export type PatternFormat =
  { readonly kind: "year" | "month" | "day" | "upper" | "lower" } | { readonly kind: "first"; readonly count: number };

/** Longest pattern that is taken, in characters. */
export const PATTERN_MAX = 200;

/** Reads a pattern. Refuses with the place of the first mistake (`errors[0].path` is the character, from 0). Linear time. */
export function parsePattern(text: string): Result<readonly PatternPart[]> {
  if (text.length > PATTERN_MAX) return bad(PATTERN_MAX, `is longer than ${PATTERN_MAX} characters`);
  const parts: PatternPart[] = [];
  let at = 0;
  while (at < text.length) {
    const open = text.indexOf("{", at);
    const plain = text.slice(at, open === -1 ? text.length : open);
    if (plain.includes("}")) return bad(at + plain.indexOf("}"), "there is a closing brace without an opening one");
    if (plain !== "") parts.push({ text: plain });
    if (open === -1) break;
    const close = text.indexOf("}", open);
    if (close === -1) return bad(open, "a brace is not closed");
    const inside = text.slice(open + 1, close);
    const choices: PatternChoice[] = [];
    for (const piece of inside.split("|")) {
      const choice = parseChoice(piece.trim());
      if (typeof choice === "string") return bad(open + 1, choice);
      choices.push(choice);
    }
    parts.push({ choices });
    at = close + 1;
  }
  return ok(parts);
}

const read = new Map<string, readonly PatternPart[] | null>();
/** Patterns kept read; rules have a handful, previews of a rule being typed some hundreds. */
const KNOWN_MAX = 500;

/** A pattern's parts, read once and remembered; null when it cannot be read. For many records by one rule. */
export function knownPattern(text: string): readonly PatternPart[] | null {
  const known = read.get(text);
  if (known !== undefined) return known;
  const parsed = parsePattern(text);
  if (read.size >= KNOWN_MAX) read.clear();
  const parts = parsed.ok ? parsed.value : null;
  read.set(text, parts);
  return parts;
}

/** The fields a pattern speaks of, each once. */
export function fieldsOf(parts: readonly PatternPart[]): readonly string[] {
  return [...new Set(parts.flatMap((p) => ("choices" in p ? p.choices.flatMap((c) => ("field" in c ? [c.field] : [])) : [])))];
}

/**
 * Fills a pattern in. `valueOf` gives a field's text, or null when it has none; a choice with no value gives way to the
 * next. Blanks left behind by missing values are folded, so that "Invoice {documentNumber}" without a number is "Invoice".
 */
export function renderPattern(parts: readonly PatternPart[], valueOf: (field: string) => string | null): string {
  const pieces = parts.map((part) => {
    if ("text" in part) return part.text;
    for (const choice of part.choices) {
      if ("literal" in choice) return choice.literal;
      const value = valueOf(choice.field);
      if (value !== null && value.trim() !== "") {
        const formatted = choice.formats.reduce((v, f) => applyFormat(v, f), value.trim());
        if (formatted !== "") return formatted;
      }
    }
    return "";
  });
  const whole = pieces.join("");
  // Most names have only single blanks; the folding is for the others.
  return (/[^\S ]|  /u.test(whole) ? whole.replace(/\s+/gu, " ") : whole).trim();
}

function parseChoice(piece: string): PatternChoice | string {
  if (piece.startsWith('"')) {
    return piece.length >= 2 && piece.endsWith('"') ? { literal: piece.slice(1, -1) } : "the quoted text is not closed";
  }
  const [field = "", ...formatTexts] = piece.split(":").map((p) => p.trim());
  if (!/^[a-z][A-Za-z0-9.]{0,79}$/.test(field)) return field === "" ? "a field is missing between the braces" : `"${field}" is not a field`;
  const formats: PatternFormat[] = [];
  for (const text of formatTexts) {
    const first = /^first (\d{1,3})$/.exec(text);
    if (first) formats.push({ kind: "first", count: Number(first[1]) });
    else if (text === "year" || text === "month" || text === "day" || text === "upper" || text === "lower") formats.push({ kind: text });
    else return `"${text}" is not a format; use year, month, day, upper, lower or first 20`;
  }
  return { field, formats };
}

function applyFormat(value: string, format: PatternFormat): string {
  switch (format.kind) {
    case "upper":
      return value.toUpperCase();
    case "lower":
      return value.toLowerCase();
    case "first":
      return Array.from(value).slice(0, format.count).join("").trim();
    case "year":
      return /^\d{4}/.exec(value)?.[0] ?? "";
    case "month":
      return /^\d{4}-\d{2}/.exec(value)?.[0] ?? "";
    case "day":
      return /^\d{4}-\d{2}-\d{2}/.exec(value)?.[0] ?? "";
  }
}

function bad(place: number, message: string) {
  return refuse("bad-input", message, [{ path: String(place), message }]);
}
