"use client";
import { Form } from "react-bootstrap";
import { columnTracks, type PaperColumn } from "./paper-columns.ts";

/** What is looked for among a record's documents: words anywhere, and words in a column. */
export interface PapersLooked {
  readonly anywhere: string;
  readonly columns: Readonly<Record<string, string>>;
}
export const nothingLooked: PapersLooked = { anywhere: "", columns: {} };

/** Where one says what is looked for anywhere in a record's documents. */
export function PapersFilter({ looked, onLook }: { looked: PapersLooked; onLook: (looked: PapersLooked) => void }) {
  return (
    <div className="px-4 pb-2">
      <Form.Control
        size="sm"
        type="search"
        autoFocus
        placeholder="Filter documents"
        aria-label="Filter documents"
        value={looked.anywhere}
        onChange={(e) => onLook({ ...looked, anywhere: e.target.value })}
      />
    </div>
  );
}

/** The heads of the chosen columns, and beneath each, while one filters, what is looked for in it. */
export function ColumnHeads({
  columns,
  isFiltering,
  looked,
  onLook,
}: {
  columns: readonly PaperColumn[];
  isFiltering: boolean;
  looked: PapersLooked;
  onLook: (looked: PapersLooked) => void;
}) {
  const field = (key: string, label: string) => (
    <Form.Control
      size="sm"
      type="search"
      aria-label={`${label} contains`}
      value={looked.columns[key] ?? ""}
      onChange={(e) => onLook({ ...looked, columns: { ...looked.columns, [key]: e.target.value } })}
    />
  );
  return (
    <div className="paper-heads" style={{ gridTemplateColumns: columnTracks(columns) }}>
      <span />
      <span>Title{isFiltering ? field("title", "Title") : null}</span>
      {columns.map((c) => (
        <span key={c.key}>
          {c.label}
          {isFiltering ? field(c.key, c.label) : null}
        </span>
      ))}
      <span />
    </div>
  );
}
