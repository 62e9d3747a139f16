"use client";
import Link from "next/link";
import { Button, ButtonGroup, Dropdown } from "react-bootstrap";
import { Archive, Book, Paperclip, PencilSquare, Search } from "react-bootstrap-icons";
import type { RecordAnswer, Scope } from "#server/records/load-record-page.ts";
import { queryOf } from "../kit/api.ts";
import { useMe } from "../people/me-context.tsx";
import type { RecordDialog } from "./record-dialogs.tsx";

const scopes = ["own", "chain", "beneath"] as const satisfies readonly Scope[];
const scopeWords: Readonly<Record<Scope, string>> = { own: "This record", chain: "Its chain", beneath: "Beneath it" };

/** What can be done with a record's papers, over their list. */
export function PapersBar({
  record: r,
  scope,
  isFiltering,
  onScope,
  onFilter,
  onApply,
  onDialog,
  onAdd,
}: {
  record: RecordAnswer;
  scope: Scope;
  isFiltering: boolean;
  onScope: (scope: Scope) => void;
  onFilter: () => void;
  /** Gives the record its type's sections. */
  onApply: () => void;
  onDialog: (dialog: RecordDialog) => void;
  onAdd: () => void;
}) {
  const { me, documentType } = useMe();
  return (
    <div className="bar border-0 px-3 px-md-4 pt-2 gap-2 flex-wrap" style={{ minHeight: 52 }}>
      <ButtonGroup aria-label="Whose papers">
        {scopes
          .filter((s) => s === "own" || (s === "chain" ? r.chain.length > 1 : r.beneath.length > 0))
          .map((s) => (
            <Button key={s} variant="plain" className={scope === s ? "btn-on" : ""} aria-pressed={scope === s} onClick={() => onScope(s)}>
              {scopeWords[s]} {r.counts[s]}
            </Button>
          ))}
      </ButtonGroup>
      <Button variant="plain" aria-pressed={isFiltering} onClick={onFilter}>
        <Search size={13} /> Filter
      </Button>
      {r.may.edit && scope === "own" ? (
        <Dropdown>
          <Dropdown.Toggle variant="plain">Sections</Dropdown.Toggle>
          <Dropdown.Menu>
            {r.sections.tree.length === 0 && r.sections.hasTemplate ? (
              <Dropdown.Item as="button" onClick={onApply}>
                Give it its record type&apos;s sections
              </Dropdown.Item>
            ) : null}
            <Dropdown.Item as="button" onClick={() => onDialog("own")}>
              Change this record&apos;s sections
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
                The sections in a window of their own
              </Dropdown.Item>
            ) : null}
          </Dropdown.Menu>
        </Dropdown>
      ) : null}
      {r.counts.own + r.counts.chain > 0 ? (
        <Link
          className="btn btn-plain ms-auto"
          href={`/records/${r.type}/${encodeURIComponent(r.key)}/flip${queryOf({ company: r.company, scope: scope === "chain" || r.counts.own === 0 ? "chain" : "" })}`}
        >
          <Book /> Flip through
        </Link>
      ) : null}
      {r.may.file && documentType("activity") ? (
        <Button
          variant="plain"
          aria-label="Write down a call or visit"
          title="Write down a call, visit, message or meeting"
          onClick={() => onDialog("write")}
        >
          <PencilSquare />
        </Button>
      ) : null}
      <Button
        variant="plain"
        className={r.counts.own + r.counts.chain > 0 ? "" : "ms-auto"}
        disabled={r.counts.own + r.counts.chain === 0}
        onClick={() => onDialog("pack")}
      >
        <Archive /> Pack
      </Button>
      {me.may.add ? (
        <Button onClick={onAdd}>
          <Paperclip /> Add papers
        </Button>
      ) : null}
    </div>
  );
}
