import type { DocumentType } from "#core/documents/document-type.ts";
import { sectionTreeSchema } from "#core/sections/section-tree.ts";
import type { RecordDocument } from "#server/records/load-record-page.ts";
import { paperGroups } from "./paper-groups.ts";

const types = [
  { key: "letter", label: "Letter", plural: "Letters" },
  { key: "photo", label: "Photo", plural: "Photos" },
] as unknown as readonly DocumentType[];
const paper = (code: string, documentType: string, section: string | null, from: RecordDocument["from"] = null) =>
  ({ code, documentType, section, from }) as unknown as RecordDocument;
const tree = sectionTreeSchema.parse([
  { key: "a", label: "Order", show: "always", documentTypes: ["letter"] },
  { key: "b", label: "Pictures", documentTypes: ["photo"] },
]);

describe("A record's documents under heads", () => {
  test("are by document type where it has no sections", () => {
    const { groups, notPlaced } = paperGroups(
      [],
      [paper("1", "photo", null), paper("2", "letter", null), paper("3", "photo", null)],
      types,
    );
    expect(groups.map((g) => [g.label, g.count, g.path])).toEqual([
      ["Letter", 1, null],
      ["Photos", 2, null],
    ]);
    expect(notPlaced).toBe(0);
  });
  test("of other records that are shown here too stand last, under a head of their own, and count for no section", () => {
    const other = { company: "MF", type: "vessel", key: "V-1", title: "MV" };
    const reached = { ...paper("2", "letter", null, other), isReached: true };
    for (const of of [tree, []]) {
      const { groups, notPlaced } = paperGroups(of, [paper("1", "photo", "Pictures"), reached], types);
      expect(groups.at(-1)).toMatchObject({ label: "Also shown here, from other records", count: 1, path: null });
      expect(groups.slice(0, -1).flatMap((g) => g.papers.map((p) => p.code))).toEqual(["1"]);
      expect(notPlaced).toBe(0);
    }
  });
  test("are by section, what is not placed last, and only the record's own documents count as such", () => {
    const other = { company: "MF", type: "vessel", key: "V-1", title: "MV" };
    const { groups, notPlaced } = paperGroups(
      tree,
      [paper("1", "photo", "Pictures"), paper("2", "letter", null), paper("3", "letter", "Gone", other)],
      types,
    );
    expect(groups.map((g) => [g.label, g.count, g.path])).toEqual([
      ["Order", 0, "Order"],
      ["Pictures", 1, "Pictures"],
      ["No section", 2, null],
    ]);
    expect(notPlaced).toBe(1);
  });
});
