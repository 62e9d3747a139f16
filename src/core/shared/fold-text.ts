/** Printing characters of ASCII and blanks only. */
const plain = /^[ -~]*$/;

/**
 * Text as look-up and search compare it: compatibility form, no accents, lower case, single blanks.
 * "Brae & Hölm" and "brae & holm" fold to the same.
 */
export function foldText(text: string): string {
  // Most words of most documents: nothing in them to take apart.
  if (plain.test(text)) return text.toLowerCase().replace(/ {2,}/g, " ").trim();
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
  if (plain.test(text)) return text.toLowerCase().replace(/[^a-z0-9]/g, "");
  return foldText(text).replace(/[^\p{L}\p{N}]/gu, "");
}
