import { z } from "zod";
import { keySchema } from "../shared/key.ts";
import { arrange } from "./place-papers.ts";
import type { SectionTree } from "./section-tree.ts";

/** An order in which a record's documents are read for a purpose, such as a claim review: document types, one after the other. */
export const readingOrderSchema = z.object({
  key: keySchema,
  label: z.string().trim().min(1).max(40),
  documentTypes: z.array(keySchema).min(1).max(60),
  /** Documents of other types come after these, or are left out. */
  rest: z.enum(["after", "leftOut"]).default("after"),
});
export type ReadingOrder = z.infer<typeof readingOrderSchema>;
export const readingOrdersSchema = z.array(readingOrderSchema).max(12);

interface ReadPaper {
  readonly code: string;
  readonly documentType: string;
  readonly documentDate: string | null;
  readonly section: string | null;
}

/**
 * A record's documents as one book. In a reading order: by its types, within a type the oldest first. Without one: as they stand under the sections, within a
 * section the oldest first; what is not placed comes last. The same documents in any order give the same book.
 */
export function bookOf<T extends ReadPaper>(papers: readonly T[], order: ReadingOrder | null, tree: SectionTree): readonly T[] {
  const oldest = [...papers].sort((a, b) => {
    const [x, y] = [a.documentDate ?? "9999", b.documentDate ?? "9999"];
    return x < y ? -1 : x > y ? 1 : a.code < b.code ? -1 : 1;
  });
  if (order === null) {
    const { sections, notPlaced } = arrange(tree, oldest);
    return [...sections.flatMap((s) => s.papers), ...notPlaced];
  }
  const rank = (p: T): number => {
    const at = order.documentTypes.indexOf(p.documentType);
    return at === -1 ? order.documentTypes.length : at;
  };
  const kept = order.rest === "leftOut" ? oldest.filter((p) => order.documentTypes.includes(p.documentType)) : oldest;
  return [...kept].sort((a, b) => rank(a) - rank(b));
}
