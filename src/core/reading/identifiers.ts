/** Lengths of account numbers by country (ISO 13616 register). Check digits alone are met by one in a hundred misread texts. */
const ibanLengths: Readonly<Record<string, number>> = {
  AT: 20,
  BE: 16,
  BG: 22,
  CH: 21,
  CY: 28,
  CZ: 24,
  DE: 22,
  DK: 18,
  EE: 20,
  ES: 24,
  FI: 18,
  FR: 27,
  GB: 22,
  GR: 27,
  HR: 21,
  HU: 28,
  IE: 22,
  IS: 26,
  IT: 27,
  LI: 21,
  LT: 20,
  LU: 20,
  LV: 21,
  MC: 27,
  MT: 31,
  NL: 18,
  NO: 15,
  PL: 28,
  PT: 25,
  RO: 24,
  SE: 24,
  SI: 19,
  SK: 24,
  AD: 24,
  AE: 23,
  AL: 28,
  BA: 20,
  FO: 18,
  GE: 22,
  GI: 23,
  GL: 18,
  IL: 23,
  KW: 30,
  ME: 22,
  MK: 19,
  QA: 29,
  RS: 22,
  SA: 24,
  SM: 27,
  TR: 26,
  UA: 29,
};

/** Whether a text without blanks is an IBAN: length of its country, and remainder 1 by 97 (ISO 13616). */
export function isIban(text: string): boolean {
  if (!/^[A-Z]{2}\d{2}[A-Z0-9]{8,30}$/.test(text)) return false;
  const length = ibanLengths[text.slice(0, 2)];
  if (text.length !== length) return false;
  let rest = 0;
  for (const character of text.slice(4) + text.slice(0, 4)) {
    const value = parseInt(character, 36);
    rest = (rest * (value > 9 ? 100 : 10) + value) % 97;
  }
  return rest === 1;
}

/** Letters that words read off pictures show for figures. */
const asFigure: Readonly<Record<string, string>> = {
  O: "0",
  o: "0",
  Q: "0",
  D: "0",
  I: "1",
  l: "1",
  "|": "1",
  i: "1",
  "!": "1",
  Z: "2",
  z: "2",
  S: "5",
  s: "5",
  G: "6",
  B: "8",
};

/** A word with the letters that pass for figures made figures. Same length. */
export function toFigures(text: string): string {
  return [...text].map((c) => asFigure[c] ?? c).join("");
}

/** How many letters `toFigures` would change. */
export function confusedLetters(text: string): number {
  return [...text].filter((c) => asFigure[c] !== undefined).length;
}

/**
 * A reference without what reading off pictures confuses: folded, then 0 for O, 1 for I and l, 5 for S, 8 for B, 2 for Z, 6 for G, m for rn.
 * Two references that look alike have the same shape.
 */
export function shapeOf(folded: string): string {
  return folded
    .replace(/rn/g, "m")
    .replace(/[oqd]/g, "0")
    .replace(/[il]/g, "1")
    .replace(/z/g, "2")
    .replace(/s/g, "5")
    .replace(/g/g, "6")
    .replace(/b/g, "8");
}

/** An IBAN out of a text that may have been read off a picture: as it stands, else with figures for letters where figures must be. Null when none. */
export function mendIban(text: string): string | null {
  const plain = text.replace(/[\s.-]/g, "").toUpperCase();
  if (isIban(plain)) return plain;
  if (plain.length < 15 || plain.length > 34) return null;
  const country = plain.slice(0, 2).replace(/0/g, "O").replace(/1/g, "I").replace(/8/g, "B").replace(/6/g, "G");
  const rest = plain.slice(2);
  const figures = toFigures(rest);
  if (isIban(country + figures)) return country + figures;
  // Four letters of the bank, then figures: Britain, Ireland, the Netherlands.
  const mixed = country + toFigures(rest.slice(0, 2)) + rest.slice(2, 6) + toFigures(rest.slice(6));
  return isIban(mixed) ? mixed : null;
}

/** Shapes of VAT numbers behind their country's letters (Council Directive 2006/112/EC art. 215, and the United Kingdom's). */
const vatShapes: Readonly<Record<string, RegExp>> = {
  AT: /^U\d{8}$/,
  BE: /^[01]\d{9}$/,
  BG: /^\d{9,10}$/,
  CY: /^\d{8}[A-Z]$/,
  CZ: /^\d{8,10}$/,
  DE: /^\d{9}$/,
  DK: /^\d{8}$/,
  EE: /^\d{9}$/,
  EL: /^\d{9}$/,
  ES: /^[A-Z0-9]\d{7}[A-Z0-9]$/,
  FI: /^\d{8}$/,
  FR: /^[A-Z0-9]{2}\d{9}$/,
  GB: /^(\d{9}|\d{12})$/,
  HR: /^\d{11}$/,
  HU: /^\d{8}$/,
  IE: /^\d[A-Z0-9]\d{5}[A-Z]{1,2}$/,
  IT: /^\d{11}$/,
  LT: /^(\d{9}|\d{12})$/,
  LU: /^\d{8}$/,
  LV: /^\d{11}$/,
  MT: /^\d{8}$/,
  NL: /^\d{9}B\d{2}$/,
  PL: /^\d{10}$/,
  PT: /^\d{9}$/,
  RO: /^\d{2,10}$/,
  SE: /^\d{12}$/,
  SI: /^\d{8}$/,
  SK: /^\d{10}$/,
  XI: /^(\d{9}|\d{12})$/,
};

/** A VAT number without blanks and points, such as GB700061346; null for what has no such shape. */
export function parseVatNumber(text: string): string | null {
  const plain = text.replace(/[\s.-]/g, "").toUpperCase();
  const country = plain.slice(0, 2);
  const shape = vatShapes[country];
  if (!shape) return null;
  if (shape.test(plain.slice(2))) return plain;
  const figures = toFigures(plain.slice(2));
  return /^\d+$/.test(figures) && shape.test(figures) && confusedLetters(plain.slice(2)) <= 3 ? country + figures : null;
}

/** Domains of mail that many people share: they name nobody. */
const sharedDomains = new Set(
  "gmail.com googlemail.com outlook.com hotmail.com live.com yahoo.com icloud.com me.com gmx.de gmx.net web.de t-online.de orange.fr free.fr laposte.net aol.com proton.me protonmail.com".split(
    " ",
  ),
);

/** The domain of a mail address, in small letters; null when there is none or it is shared by many. */
export function ownDomain(address: string): string | null {
  const found = /@([a-z0-9][a-z0-9.-]{1,200}\.[a-z]{2,24})\b/i.exec(address.slice(0, 400));
  const domain = found?.[1]?.toLowerCase() ?? null;
  return domain === null || sharedDomains.has(domain) ? null : domain;
}
