import { compareListing, guessType, type KnownFile, type ListedFile } from "./compare-listing.ts";

const known = (documentId: number, name: string, sizeBytes: number | null = 5, modifiedMs = 1000): KnownFile => ({
  documentId,
  name,
  sizeBytes,
  modifiedMs,
  mark: "",
});
const seen = (name: string, sizeBytes = 5, modifiedMs = 1000, mark = ""): ListedFile => ({ name, sizeBytes, modifiedMs, mark });
const brief = (k: readonly KnownFile[], s: readonly ListedFile[], own: readonly string[] = []) => {
  const d = compareListing(k, s, new Set(own));
  return {
    fresh: d.fresh.map((f) => f.name),
    changed: d.changed.map((c) => c.known.documentId),
    respelt: d.respelt.map((c) => c.seen.name),
    gone: d.gone.map((g) => g.documentId),
  };
};

describe("A folder's listing beside what we know", () => {
  test.each([
    ["as it was", [known(1, "a.pdf")], [seen("a.pdf")], [], { fresh: [], changed: [], respelt: [], gone: [] }],
    ["a new file", [known(1, "a.pdf")], [seen("a.pdf"), seen("b.pdf")], [], { fresh: ["b.pdf"], changed: [], respelt: [], gone: [] }],
    ["another size", [known(1, "a.pdf")], [seen("a.pdf", 6)], [], { fresh: [], changed: [1], respelt: [], gone: [] }],
    ["another time", [known(1, "a.pdf")], [seen("a.pdf", 5, 2000)], [], { fresh: [], changed: [1], respelt: [], gone: [] }],
    [
      "one never looked at is not called changed",
      [known(1, "a.pdf", null)],
      [seen("a.pdf", 9)],
      [],
      { fresh: [], changed: [], respelt: [], gone: [] },
    ],
    ["gone", [known(1, "a.pdf")], [], [], { fresh: [], changed: [], respelt: [], gone: [1] }],
    [
      "other capitals are the same file",
      [known(1, "Letter.pdf")],
      [seen("LETTER.pdf")],
      [],
      { fresh: [], changed: [], respelt: ["LETTER.pdf"], gone: [] },
    ],
    [
      "another Unicode form is not even respelt",
      [known(1, "é.pdf")],
      [seen("e\u0301.pdf")],
      [],
      { fresh: [], changed: [], respelt: [], gone: [] },
    ],
    ["our own links are no documents", [], [seen("Link.pdf")], ["link.pdf"], { fresh: [], changed: [], respelt: [], gone: [] }],
    [
      "two that differ in capitals: one is ours",
      [known(1, "a.pdf")],
      [seen("A.pdf"), seen("a.pdf")],
      [],
      { fresh: ["A.pdf"], changed: [], respelt: [], gone: [] },
    ],
  ] as const)("%s", (_, k, s, own, expected) => expect(brief(k, s, own)).toEqual(expected));
});

describe("What kind of document a file says it is", () => {
  const types = [
    { key: "creditNote", label: "Credit note", plural: "Credit notes" },
    { key: "certificate", label: "Certificate", plural: "Certificates" },
    { key: "certificateOfClass", label: "Certificate of class", plural: "Certificates of class" },
  ];
  test.each([
    ["scan.pdf", "Certificates", "certificate"],
    ["scan.pdf", "2026/credit notes", "creditNote"],
    ["Credit note 77.pdf", null, "creditNote"],
    ["certificate of class 2026.pdf", null, "certificateOfClass"],
    ["Certificated.pdf", null, null],
    ["scan.pdf", "Odds", null],
  ])("%s in %s: %s", (name, folder, key) => expect(guessType(types, name, folder)?.key ?? null).toBe(key));
});
