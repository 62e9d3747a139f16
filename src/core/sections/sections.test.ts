import fc from "fast-check";
import { arrange, decideSection, grownPart, isInTree, type SectionPaper } from "./place-papers.ts";
import { checkSections, flatten, renamedSections, sectionTreeSchema, type SectionTree } from "./section-tree.ts";

const tree = sectionTreeSchema.parse([
  { key: "order", label: "Order", show: "always", documentTypes: ["bookingRequest", "packingList"] },
  {
    key: "loading",
    label: "Loading",
    documentTypes: ["loadingList"],
    sections: [{ key: "pictures", label: "Pictures", documentTypes: ["photo"] }],
  },
  { key: "reviews", label: "Reviews", documentTypes: ["appraisal"], growsBy: { of: "documentDate", by: "year" } },
  { key: "batches", label: "Batches", documentTypes: ["batchCertificate"], growsBy: { of: "batch", by: "value" } },
  { key: "claims", label: "Claims", show: "filled", documentTypes: [] },
]);
const paper = (documentType: string, over: Partial<SectionPaper> = {}): SectionPaper => ({
  documentType,
  documentDate: "2026-11-18",
  properties: {},
  ...over,
});

describe("Where the rules put a document", () => {
  test.each([
    ["by its type", paper("packingList"), "Order"],
    ["in a section within another", paper("photo"), "Loading/Pictures"],
    ["in the year of its date", paper("appraisal"), "Reviews/2026"],
    ["in the section itself when its day is not known", paper("appraisal", { documentDate: null }), "Reviews"],
    ["by a property, whose slashes part nothing", paper("batchCertificate", { properties: { batch: "LR/77" } }), "Batches/LR-77"],
    ["nowhere when no section takes its type", paper("letter"), null],
  ])("%s", (_, p, at) => expect(decideSection(tree, p)).toBe(at));

  test("months are told by year and month", () => expect(grownPart({ of: "documentDate", by: "month" }, paper("x"))).toBe("2026-11"));
});

describe("Documents under their sections", () => {
  const papers = [
    { code: 1, section: "Order" },
    { code: 2, section: "Loading/Pictures" },
    { code: 3, section: "Reviews/2025" },
    { code: 4, section: "Reviews/2026" },
    { code: 5, section: "Gone" },
    { code: 6, section: null },
    { code: 7, section: "Order/2026" },
  ];
  const { sections, notPlaced } = arrange(tree, papers);

  test("stand in the order of the tree, the newest part first, each section with all that is in it", () =>
    expect(sections.map((s) => [s.path, s.depth, s.count, s.papers.map((p) => p.code)])).toEqual([
      ["Order", 0, 1, [1]],
      ["Loading", 0, 1, []],
      ["Loading/Pictures", 1, 1, [2]],
      ["Reviews", 0, 2, []],
      ["Reviews/2026", 1, 1, [4]],
      ["Reviews/2025", 1, 1, [3]],
    ]));
  test("that have no section of the tree are not placed", () => expect(notPlaced.map((p) => p.code)).toEqual([5, 6, 7]));
  test("sections that are always shown stand there empty, the others do not", () =>
    expect(arrange(tree, []).sections.map((s) => s.path)).toEqual(["Order"]));

  test("each document is in exactly one place, whatever sections they name", () =>
    fc.assert(
      fc.property(
        fc.array(
          fc.option(fc.constantFrom("Order", "Loading", "Loading/Pictures", "Reviews", "Reviews/2026", "Claims", "No such", "Batches/A")),
          {
            maxLength: 30,
          },
        ),
        (list) => {
          const given = list.map((section, code) => ({ code, section }));
          const placed = arrange(tree, given);
          const codes = [...placed.sections.flatMap((s) => s.papers), ...placed.notPlaced].map((p) => p.code).sort((a, b) => a - b);
          expect(codes).toEqual(given.map((g) => g.code));
          for (const s of placed.sections) for (const p of s.papers) expect(isInTree(tree, p.section ?? "")).toBe(true);
        },
      ),
    ));
});

describe("A tree of sections", () => {
  test.each([
    [
      "two of one name beside each other",
      [
        { key: "a", label: "A" },
        { key: "b", label: "a" },
      ],
      "sections.b",
    ],
    [
      "two of one key",
      [
        { key: "a", label: "A" },
        { key: "a", label: "B" },
      ],
      "sections.a",
    ],
    [
      "a type that goes to two",
      [
        { key: "a", label: "A", documentTypes: ["photo"] },
        { key: "b", label: "B", documentTypes: ["photo"] },
      ],
      "sections.b",
    ],
    ["a type that is not there", [{ key: "a", label: "A", documentTypes: ["noSuch"] }], "sections.a"],
    [
      "growing with others in it",
      [{ key: "a", label: "A", growsBy: { of: "documentDate", by: "year" as const }, sections: [{ key: "b", label: "B" }] }],
      "sections.a",
    ],
  ])("cannot have %s", (_, sections, path) =>
    expect(checkSections(sectionTreeSchema.parse(sections), ["photo"]).map((e) => e.path)).toContain(path),
  );

  test("can be as the demo's are", () =>
    expect(
      checkSections(
        tree,
        flatten(tree).flatMap((p) => p.section.documentTypes),
      ),
    ).toEqual([]));

  test("tells what was renamed or moved, what is within first", () => {
    const after: SectionTree = tree.map((s) => (s.key === "loading" ? { ...s, label: "On the quay" } : s));
    expect(renamedSections(tree, after)).toEqual([
      { from: "Loading/Pictures", to: "On the quay/Pictures" },
      { from: "Loading", to: "On the quay" },
    ]);
    expect(renamedSections(tree, tree)).toEqual([]);
  });
  test("refuses labels with slashes", () => expect(sectionTreeSchema.safeParse([{ key: "a", label: "A/B" }]).success).toBe(false));
});
