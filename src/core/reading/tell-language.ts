import { foldText } from "../shared/fold-text.ts";

/** Words that are common in one language and rare in the others. */
const words: Readonly<Record<"en" | "de" | "fr", ReadonlySet<string>>> = {
  en: new Set(
    "the and of to for your our with from please invoice date total number order delivery amount payment due account we you is are this that by net vat terms goods price".split(
      " ",
    ),
  ),
  de: new Set(
    "der die das und von zu fur ihre unsere mit aus bitte rechnung datum gesamt nummer bestellung lieferung betrag zahlung konto wir sie ist sind dieser nach netto mwst ust bei menge preis einzelpreis am den zum".split(
      " ",
    ),
  ),
  fr: new Set(
    "le la les et de des du pour votre notre avec facture date montant numero commande livraison paiement compte nous vous est sont cette par ht ttc tva quantite prix total au aux en sur".split(
      " ",
    ),
  ),
};

/** The language of a text by its common words: en, de or fr, with how surely; null when too few of them stand there. */
export function tellLanguage(text: string): { readonly language: "en" | "de" | "fr"; readonly certainty: number } | null {
  const counts = { en: 0, de: 0, fr: 0 };
  for (const word of foldText(text.slice(0, 20_000)).split(/[^\p{L}]+/u))
    for (const language of ["en", "de", "fr"] as const) if (words[language].has(word)) counts[language]++;
  const [first, second] = (["en", "de", "fr"] as const).map((l) => ({ l, n: counts[l] })).sort((a, b) => b.n - a.n);
  if (!first || !second || first.n < 3 || first.n === second.n) return null;
  return { language: first.l, certainty: Math.min(0.99, Math.max(0.5, (first.n + 1) / (first.n + second.n + 2) + first.n / 400)) };
}
