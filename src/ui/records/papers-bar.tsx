"use client";
import { Button, ButtonGroup, Dropdown, Form } from "react-bootstrap";
import { Archive, Book, LayoutThreeColumns, ListNested, Paperclip, PencilSquare, Search } from "react-bootstrap-icons";
import type { RecordAnswer, Scope } from "#server/records/load-record-page.ts";
import { queryOf } from "../kit/api.ts";
import { useMe } from "../people/me-context.tsx";
import { paperColumns } from "./paper-columns.ts";
import type { RecordDialog } from "./record-dialogs.tsx";
import { Link } from "../kit/link.tsx";

const scopes = ["own", "chain", "parent", "children"] as const satisfies readonly Scope[];
const scopeWords: Readonly<Record<Scope, string>> = { own: "Own", chain: "Chain", parent: "Parent", children: "Child records" };

/** The count of a record's own documents, with those of other records that are also shown: "5 + 2". */
export const ownText = ({ own, reached }: RecordAnswer["counts"]): string => (reached === 0 ? `${own}` : `${own} + ${reached}`);

/** What can be done with a record's documents, over their list. */
export function PapersBar({
  record: r,
  scope,
  isFiltering,
  columns,
  onColumns,
  onScope,
  onFilter,
  onApply,
  onDialog,
  onAdd,
}: {
  record: RecordAnswer;
  scope: Scope;
  isFiltering: boolean;
  /** Keys of the columns that are shown; none: the short list. */
  columns: readonly string[];
  onColumns: (keys: readonly string[]) => void;
  onScope: (scope: Scope) => void;
  onFilter: () => void;
  /** Gives the record its type's sections. */
  onApply: () => void;
  onDialog: (dialog: RecordDialog) => void;
  onAdd: () => void;
}) {
  const { me, documentType } = useMe();
  const shown = r.counts.own + r.counts.reached;
  const hasPapers = shown + r.counts.chain > 0;
  return (
    <div className="bar border-0 px-3 px-md-4 pt-2 gap-1 flex-wrap" style={{ minHeight: 52 }}>
      <ButtonGroup aria-label="Documents shown">
        {scopes
          .filter((s) => s === "own" || { chain: r.chain.length > 1, parent: r.counts.parent > 0, children: r.children.length > 0 }[s])
          .map((s) => (
            <Button key={s} variant="plain" className={scope === s ? "btn-on" : ""} aria-pressed={scope === s} onClick={() => onScope(s)}>
              {scopeWords[s]} {s === "own" ? ownText(r.counts) : r.counts[s]}
            </Button>
          ))}
      </ButtonGroup>
      <Button variant="plain" aria-label="Filter" title="Filter" aria-pressed={isFiltering} onClick={onFilter}>
        <Search />
      </Button>
      <Dropdown autoClose="outside">
        <Dropdown.Toggle variant="plain" aria-label="Columns" title="Columns">
          <LayoutThreeColumns />
        </Dropdown.Toggle>
        <Dropdown.Menu className="px-3">
          {paperColumns.map((c) => (
            <Form.Check
              key={c.key}
              id={`column-${c.key}`}
              label={c.label}
              checked={columns.includes(c.key)}
              onChange={(e) => onColumns(e.target.checked ? [...columns, c.key] : columns.filter((k) => k !== c.key))}
            />
          ))}
          <Button size="sm" variant="quiet" className="p-0 mt-1" disabled={columns.length === 0} onClick={() => onColumns([])}>
            Compact list
          </Button>
        </Dropdown.Menu>
      </Dropdown>
      {r.may.edit && scope === "own" ? (
        <Dropdown>
          <Dropdown.Toggle variant="plain" aria-label="Sections" title="Sections">
            <ListNested />
          </Dropdown.Toggle>
          <Dropdown.Menu>
            {r.sections.tree.length === 0 && r.sections.hasTemplate ? (
              <Dropdown.Item as="button" onClick={onApply}>
                Use the record type&apos;s sections
              </Dropdown.Item>
            ) : null}
            <Dropdown.Item as="button" onClick={() => onDialog("own")}>
              Edit this record&apos;s sections
            </Dropdown.Item>
            {r.sections.tree.length > 0 ? (
              <Dropdown.Item
                as="button"
                onClick={() =>
                  window.open(
                    `/sections/${r.type}/${encodeURIComponent(r.key)}?company=${r.company}`,
                    `sections-${r.id}`,
                    "popup,width=380,height=620",
                  )
                }
              >
                Open sections in a window
              </Dropdown.Item>
            ) : null}
          </Dropdown.Menu>
        </Dropdown>
      ) : null}
      {hasPapers ? (
        <Link
          className="btn btn-plain ms-auto"
          aria-label="Page through"
          title="Page through its documents like a book"
          href={`/records/${r.type}/${encodeURIComponent(r.key)}/flip${queryOf({ company: r.company, scope: scope === "chain" || shown === 0 ? "chain" : "" })}`}
        >
          <Book />
        </Link>
      ) : null}
      {r.may.file && documentType("activity") ? (
        <Button
          variant="plain"
          aria-label="Record an activity"
          title="Record a call, visit, message or meeting"
          onClick={() => onDialog("write")}
        >
          <PencilSquare />
        </Button>
      ) : null}
      <Button
        variant="plain"
        className={hasPapers ? "" : "ms-auto"}
        disabled={!hasPapers}
        aria-label="Pack"
        title="Create a pack of documents"
        onClick={() => onDialog("pack")}
      >
        <Archive />
      </Button>
      {me.may.add ? (
        <Button onClick={onAdd}>
          <Paperclip /> Add documents
        </Button>
      ) : null}
    </div>
  );
}
