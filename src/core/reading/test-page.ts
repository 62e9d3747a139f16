import { linesOfPage, type ReadPage } from "./page-lines.ts";

/** A page for tests out of what stands where: x and y in points; letters are ten points high and six wide. */
export function pageOf(
  rows: readonly (readonly [x: number, y: number, text: string])[],
  options: { readonly number?: number; readonly fromPicture?: boolean } = {},
): ReadPage {
  const words = rows.flatMap(([x, y, text]) => {
    let at = x;
    return text.split(" ").map((word) => {
      const made = { text: word, box: [at, y, word.length * 6, 10] as const };
      at += (word.length + 1) * 6 - 2;
      return made;
    });
  });
  return linesOfPage({
    number: options.number ?? 1,
    widthPoints: 595,
    heightPoints: 842,
    words,
    fromPicture: options.fromPicture ?? false,
  });
}

/** What is known of a document in tests, unless they say otherwise. */
export const context = {
  receivedOn: "2026-11-20",
  ourselves: [{ name: "Merrowick Ferries Ltd", vatNumbers: ["GB700061346"], ibans: [] }],
  fileName: "paper.pdf",
  seen: [],
} as const;
