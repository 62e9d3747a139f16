/** An amount as it stands on a document: what it is worth, and what else it could be. */
export interface PaperAmount {
  /** Decimal with a point and two places, such as 1234.56; minus in front when it is negative. */
  readonly value: string;
  /** The other worth of 1.234 or 1,234, when nothing on the document says which sign parts the places. */
  readonly other: string | null;
  /** The sign that parts the places here; null when it shows none. */
  readonly places: "." | "," | null;
}

/**
 * Reads an amount in the usual spellings of Europe: 1,234.56 · 1.234,56 · 1'234.56 · 1 234,56 · 1234.5 · 12,50- · (12.50).
 * `style` is the sign that parts the places elsewhere on the document. Null for what is no amount. Linear.
 */
export function parseAmount(text: string, style: "." | "," | null = null): PaperAmount | null {
  let rest = text.trim();
  let negative = false;
  if (rest.startsWith("(") && rest.endsWith(")")) {
    negative = true;
    rest = rest.slice(1, -1).trim();
  }
  if (/^[-−–]/.test(rest)) {
    negative = true;
    rest = rest.slice(1).trim();
  } else if (/[-−–]$/.test(rest)) {
    // German ledgers put the sign behind; "12,–" means no pence.
    if (/[.,]\s?[-−–]+$/.test(rest)) rest = rest.replace(/[.,]\s?[-−–]+$/, "");
    else {
      negative = true;
      rest = rest.slice(0, -1).trim();
    }
  }
  if (!/^\d[\d.,'’\s]{0,20}$/.test(rest) || !/\d$/.test(rest)) return null;
  const plain = rest.replace(/[\s'’]/g, "");
  const blanks = rest.split(/[\s'’]/);
  if (blanks.length > 1 && blanks.slice(1).some((b, i) => !(i === blanks.length - 2 ? /^\d{3}([.,]\d{1,4})?$/ : /^\d{3}$/).test(b)))
    return null;
  const make = (whole: string, places: string): string => {
    const tidy = whole.replace(/[.,]/g, "").replace(/^0+(?=\d)/, "");
    const value = `${tidy}.${(places + "00").slice(0, Math.max(2, places.length))}`;
    return `${negative && Number(value) !== 0 ? "-" : ""}${value}`;
  };
  const lastPoint = plain.lastIndexOf(".");
  const lastComma = plain.lastIndexOf(",");
  if (lastPoint === -1 && lastComma === -1) return { value: make(plain, ""), other: null, places: null };
  if (lastPoint !== -1 && lastComma !== -1) {
    const places = lastPoint > lastComma ? "." : ",";
    const parts = places === "." ? "," : ".";
    const [whole = "", fraction = "", ...more] = plain.split(places);
    if (more.length > 0 || !isGrouped(whole, parts) || fraction === "" || fraction.length > 4) return null;
    return { value: make(whole, fraction), other: null, places };
  }
  const sign = lastPoint === -1 ? "," : ".";
  const pieces = plain.split(sign);
  if (pieces.length > 2) return isGrouped(plain, sign) ? { value: make(plain, ""), other: null, places: sign === "," ? "." : "," } : null;
  const [whole = "", fraction = ""] = pieces;
  if (fraction.length !== 3 || whole === "0" || whole.length > 3 || blanks.length > 1)
    return fraction.length > 4 ? null : { value: make(whole, fraction), other: null, places: sign };
  // 1.234: thousands where the comma parts the places, else one and a bit.
  const grouped = make(plain, "");
  const parted = make(whole, fraction);
  if (style === sign) return { value: parted, other: grouped, places: sign };
  if (style !== null) return { value: grouped, other: parted, places: null };
  return { value: grouped, other: parted, places: null };
}

function isGrouped(text: string, sign: string): boolean {
  const [first = "", ...rest] = text.split(sign);
  return /^\d{1,3}$/.test(first) ? rest.every((p) => /^\d{3}$/.test(p)) : rest.length === 0 && /^\d+$/.test(first);
}

/** The amount in whole hundredths; not a number for what is none. */
export const hundredths = (value: string): number => Math.round(Number(value) * 100);
