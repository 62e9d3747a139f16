/**
 * Text as look-up and search compare it: compatibility form, no accents, lower case, single blanks.
 * "Brae & Hölm" and "brae & holm" fold to the same.
 */
export function foldText(text: string): string {
  return text
    .normalize("NFKD")
    .replace(/\p{M}/gu, "")
    .replace(/ß/g, "ss")
    .replace(/[øØ]/g, "o")
    .replace(/[æÆ]/g, "ae")
    .toLowerCase()
    .replace(/\s+/gu, " ")
    .trim();
}

/** A reference without what people leave out or put in at will: blanks, dots, dashes, slashes. "PO 6127" and "po-6127" agree. */
export function foldReference(text: string): string {
  return foldText(text).replace(/[^\p{L}\p{N}]/gu, "");
}
