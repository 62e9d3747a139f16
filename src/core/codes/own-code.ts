/**
 * Codes that the program prints and reads again. A letter pair says what for, six digits (without I, L, O, U) say which, a last one checks the
 * rest after ISO/IEC 7064 MOD 37-2: one wrong character and two swapped ones are noticed, since Code 128 alone is misread now and then.
 */
export const ownCodeKinds = {
  /** A sheet before the pages of a document; it is left out of it. */
  CS: "coverSheet",
  /** Stuck or printed on the first page of a document itself. */
  LB: "label",
  /** A sheet that only divides. */
  SP: "separator",
} as const;
export type OwnCodeKind = (typeof ownCodeKinds)[keyof typeof ownCodeKinds];

export interface OwnCode {
  readonly kind: OwnCodeKind;
  readonly number: number;
}

const DIGITS = "0123456789ABCDEFGHJKMNPQRSTVWXYZ";
const CHECKED = "0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZ*";
const LENGTH = 6;
/** Numbers run up to this one. */
export const OWN_CODE_MAX = 32 ** LENGTH - 1;

/** The text of a code, such as `CS-0000A7K`. Throws for a number that has no place in it. */
export function writeOwnCode({ kind, number }: OwnCode): string {
  if (!Number.isInteger(number) || number < 0 || number > OWN_CODE_MAX) throw new RangeError("is not a code number");
  const prefix = (Object.keys(ownCodeKinds) as (keyof typeof ownCodeKinds)[]).find((k) => ownCodeKinds[k] === kind) ?? "CS";
  let digits = "";
  for (let left = number, i = 0; i < LENGTH; i++, left = Math.floor(left / 32)) digits = (DIGITS[left % 32] ?? "0") + digits;
  return `${prefix}-${digits}${checkDigit(prefix + digits)}`;
}

/** Reads a code of ours; null for anything else, also when its check digit is wrong. Case and blanks do not matter. */
export function parseOwnCode(text: string): OwnCode | null {
  const parts = /^(CS|LB|SP)-?([0-9A-HJKMNP-TV-Z]{6})([0-9A-Z*])$/.exec(text.replace(/\s/g, "").toUpperCase());
  if (!parts) return null;
  const [, prefix = "", digits = "", check = ""] = parts;
  if (checkDigit(prefix + digits) !== check) return null;
  let number = 0;
  for (const digit of digits) number = number * 32 + DIGITS.indexOf(digit);
  return { kind: ownCodeKinds[prefix as keyof typeof ownCodeKinds], number };
}

/** ISO/IEC 7064, pure system MOD 37-2: unlike the hybrid ones it notices every swap; its one further sign is the asterisk. */
function checkDigit(text: string): string {
  let sum = 0;
  for (const character of text) sum = ((sum + CHECKED.indexOf(character)) * 2) % 37;
  return CHECKED[(38 - sum) % 37] ?? "*";
}
