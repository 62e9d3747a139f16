import type { RecordDocument } from "#server/records/load-record-page.ts";
import { countText, dayText, sourceWords } from "../kit/words.ts";

/** How types and records are called. */
export interface Labels {
  readonly documentType: (key: string) => string;
  readonly recordType: (key: string) => string;
}

/** A column that a person can choose for a record's documents. */
export interface PaperColumn {
  readonly key: string;
  readonly label: string;
  /** Of the width that is left beside the title. */
  readonly share: number;
  readonly text: (paper: RecordDocument, labels: Labels) => string;
}

/** All columns there are, in the order they stand. */
export const paperColumns: readonly PaperColumn[] = [
  { key: "type", label: "Document type", share: 3, text: (p, l) => l.documentType(p.documentType) },
  { key: "dated", label: "Dated", share: 2, text: (p) => dayText(p.documentDate) },
  { key: "from", label: "Record", share: 3, text: (p, l) => (p.from ? `${l.recordType(p.from.type)} ${p.from.key}` : "") },
  { key: "section", label: "Section", share: 3, text: (p) => p.section ?? "" },
  { key: "addedBy", label: "Added by", share: 3, text: (p) => p.filedBy ?? "" },
  { key: "addedOn", label: "Added on", share: 2, text: (p) => dayText(p.filedAt.slice(0, 10)) },
  { key: "way", label: "Source", share: 2, text: (p) => sourceWords[p.source ?? ""] ?? "" },
  { key: "version", label: "Version", share: 1, text: (p) => `v${p.version}` },
  { key: "pages", label: "Pages", share: 1, text: (p) => (p.pages === null ? "" : countText(p.pages, "page")) },
  { key: "place", label: "Location", share: 4, text: (p) => (p.path ?? "").split("/").join(" › ") },
  { key: "note", label: "Note", share: 4, text: (p) => p.note ?? "" },
];

/** The chosen columns, in the order they stand; keys that are none (any more) are left out. */
export function chosenColumns(keys: readonly string[]): readonly PaperColumn[] {
  return paperColumns.filter((c) => keys.includes(c.key));
}

/** How a row is divided: picture, title, the columns, and the mark of the checklist. */
export function columnTracks(columns: readonly PaperColumn[]): string {
  return ["24px", "minmax(140px, 4fr)", ...columns.map((c) => `minmax(0, ${c.share}fr)`), "24px"].join(" ");
}

/** Documents that fit everything that is looked for: words anywhere, and words in a column. Capitals do not matter; blanks look for nothing. */
export function filterPapers(
  papers: readonly RecordDocument[],
  looked: { readonly anywhere: string; readonly columns: Readonly<Record<string, string>> },
  labels: Labels,
): readonly RecordDocument[] {
  const anywhere = looked.anywhere.trim().toLowerCase();
  const inColumns = paperColumns.flatMap((c) => {
    const words = (looked.columns[c.key] ?? "").trim().toLowerCase();
    return words === "" ? [] : [{ column: c, words }];
  });
  const inTitle = (looked.columns["title"] ?? "").trim().toLowerCase();
  if (anywhere === "" && inColumns.length === 0 && inTitle === "") return papers;
  return papers.filter((p) => {
    if (inTitle !== "" && !p.title.toLowerCase().includes(inTitle)) return false;
    if (!inColumns.every(({ column, words }) => column.text(p, labels).toLowerCase().includes(words))) return false;
    if (anywhere === "") return true;
    const all = [p.title, p.code, p.from?.title ?? "", ...paperColumns.map((c) => c.text(p, labels))];
    return all.join("\n").toLowerCase().includes(anywhere);
  });
}
