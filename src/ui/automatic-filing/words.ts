import type { NotByItself } from "#core/automatic-filing/automatic-filing-rule.ts";

/** What keeps a document from being filed without a person. */
export const notByItselfWords = {
  "not-sure": "record not certain",
  clash: "conflicting evidence",
  doubt: "amounts or dates do not add up",
  incomplete: "a value is missing or uncertain",
  "same-paper": "similar to an existing document",
  "several-papers": "several documents in one file",
  differs: "differs from its order",
  problem: "cannot be read",
  "type-not-sure": "type not certain",
} as const satisfies Record<NotByItself, string>;

/** In what the program's decision was another than the person's. */
export const differenceWords: Readonly<Record<string, string>> = {
  documentType: "different document type",
  record: "different record",
  documentNumber: "different number",
  documentDate: "different date",
  total: "different total",
  takenBack: "taken back",
};

/** A share for people: 98.4 %. */
export const percent = (share: number): string => `${(share * 100).toFixed(share === 1 || share === 0 ? 0 : 1)} %`;
