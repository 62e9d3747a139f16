import type { RecordDocument } from "#server/records/load-record-page.ts";
import { chosenColumns, columnTracks, filterPapers, type Labels, paperColumns } from "./paper-columns.ts";

const labels: Labels = { documentType: (key) => (key === "letter" ? "Letter" : "Photo"), recordType: () => "Booking" };
const paper = (over: Partial<RecordDocument>): RecordDocument => ({
  code: "AC-000001",
  title: "Letter of the harbour master",
  documentType: "letter",
  documentDate: "2026-11-18",
  filedAt: "2026-11-20T09:00:00.000Z",
  filedBy: "Tam Corrigall",
  source: "mail",
  kind: "pdf",
  pages: 2,
  version: 1,
  state: "stored",
  section: null,
  path: "Customers/Skarra/letter.pdf",
  note: null,
  from: null,
  isReached: false,
  ...over,
});
const papers = [
  paper({}),
  paper({
    code: "AC-000002",
    title: "Quay at noon",
    documentType: "photo",
    pages: 1,
    note: "The dent shows",
    path: "Customers/Skarra/quay.jpg",
    filedBy: "Nessa Quill",
  }),
  paper({
    code: "AC-000003",
    title: "Letter two",
    from: { company: "MF", type: "freightBooking", key: "B-20374", title: "Timber" },
    version: 3,
  }),
];
const found = (anywhere: string, columns: Record<string, string> = {}) =>
  filterPapers(papers, { anywhere, columns }, labels).map((p) => p.code.slice(-1));

describe("Columns of documents", () => {
  test("stand in their own order, whatever order they were chosen in; what is no column is left out", () => {
    expect(chosenColumns(["note", "type", "gone"]).map((c) => c.key)).toEqual(["type", "note"]);
    expect(columnTracks(chosenColumns(["type"]))).toBe("24px minmax(140px, 4fr) minmax(0, 3fr) 24px");
    expect(new Set(paperColumns.map((c) => c.key)).size).toBe(paperColumns.length);
  });

  test("say what there is, and nothing where there is nothing", () => {
    const text = (key: string, p: RecordDocument): string | undefined => paperColumns.find((c) => c.key === key)?.text(p, labels);
    expect(paperColumns.map((c) => c.text(paper({}), labels))).toEqual([
      "Letter",
      "18 Nov 2026",
      "",
      "",
      "Tam Corrigall",
      "20 Nov 2026",
      "mail",
      "v1",
      "2 pages",
      "Customers › Skarra › letter.pdf",
      "",
    ]);
    expect(text("from", papers[2] ?? paper({}))).toBe("Booking B-20374");
    expect(text("pages", paper({ pages: null }))).toBe("");
    expect(text("place", paper({ path: null }))).toBe("");
  });
});

describe("Filtering documents", () => {
  test("looks anywhere, without regard to capitals, in what is shown and what is not", () => {
    expect(found("")).toEqual(["1", "2", "3"]);
    expect(found("LETTER")).toEqual(["1", "3"]);
    expect(found("dent")).toEqual(["2"]);
    expect(found("b-20374")).toEqual(["3"]);
    expect(found("ac-000002")).toEqual(["2"]);
    expect(found("timber")).toEqual(["3"]);
    expect(found("nowhere")).toEqual([]);
  });

  test("looks in each column that something is said for, and in all of them at once", () => {
    expect(found("", { addedBy: "nessa" })).toEqual(["2"]);
    expect(found("", { type: "letter", version: "v3" })).toEqual(["3"]);
    expect(found("", { title: "quay", type: "letter" })).toEqual([]);
    expect(found("letter", { title: "two" })).toEqual(["3"]);
    expect(found("", { type: "   ", none: "x" })).toEqual(["1", "2", "3"]);
  });

  test("leaves the very list when nothing is looked for", () => {
    expect(filterPapers(papers, { anywhere: " ", columns: { type: "" } }, labels)).toBe(papers);
  });
});
