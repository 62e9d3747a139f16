import type { NotByItself } from "#core/hands-free/hands-free-rule.ts";

/** What keeps a paper from being filed without a person. */
export const notByItselfWords = {
  "not-sure": "not sure of its record",
  clash: "something clashes",
  doubt: "something on it does not add up",
  incomplete: "something is missing or unsure",
  "same-paper": "like a paper that is there",
  "several-papers": "several papers in one",
  differs: "differs from its order",
  problem: "cannot be read",
  "type-not-sure": "not sure of its type",
} as const satisfies Record<NotByItself, string>;

/** In what the program's decision was another than the person's. */
export const differenceWords: Readonly<Record<string, string>> = {
  documentType: "another document type",
  record: "another record",
  documentNumber: "another number",
  documentDate: "another date",
  total: "another total",
  takenBack: "taken back",
};

/** A share for people: 98.4 %. */
export const percent = (share: number): string => `${(share * 100).toFixed(share === 1 || share === 0 ? 0 : 1)} %`;
