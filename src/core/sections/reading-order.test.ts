import fc from "fast-check";
import { bookOf, readingOrderSchema } from "./reading-order.ts";
import { sectionTreeSchema } from "./section-tree.ts";

const tree = sectionTreeSchema.parse([
  { key: "a", label: "Claim", documentTypes: ["claimForm"] },
  { key: "b", label: "Evidence", documentTypes: ["photo"] },
]);
const paper = (code: string, documentType: string, documentDate: string | null, section: string | null) => ({
  code,
  documentType,
  documentDate,
  section,
});
const papers = [
  paper("AC-1", "photo", "2026-11-02", "Evidence"),
  paper("AC-2", "letter", null, null),
  paper("AC-3", "photo", "2026-11-01", "Evidence"),
  paper("AC-4", "claimForm", "2026-11-03", "Claim"),
];
const review = readingOrderSchema.parse({ key: "review", label: "Claim review", documentTypes: ["photo", "claimForm"] });
const codes = (list: readonly { readonly code: string }[]): readonly string[] => list.map((p) => p.code);

describe("A record as one book", () => {
  test("goes by its sections, the oldest first, what is not placed last", () =>
    expect(codes(bookOf(papers, null, tree))).toEqual(["AC-4", "AC-3", "AC-1", "AC-2"]));
  test("goes by a reading order", () => expect(codes(bookOf(papers, review, tree))).toEqual(["AC-3", "AC-1", "AC-4", "AC-2"]));
  test("leaves out what the order does not name, when it says so", () =>
    expect(codes(bookOf(papers, { ...review, rest: "leftOut" }, tree))).toEqual(["AC-3", "AC-1", "AC-4"]));
  test("is the same in whatever order the documents came, and has each of them once", () =>
    fc.assert(
      fc.property(fc.shuffledSubarray(papers, { minLength: papers.length }), fc.constantFrom(null, review), (shuffled, order) => {
        expect(codes(bookOf(shuffled, order, tree))).toEqual(codes(bookOf(papers, order, tree)));
      }),
    ));
});
