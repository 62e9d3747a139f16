"use client";
import { useQuery } from "@tanstack/react-query";
import { useRouter } from "next/navigation";
import { parseAsInteger, parseAsString, parseAsStringLiteral, useQueryStates } from "nuqs";
import { useEffect, useMemo, useRef, useState } from "react";
import { Button, ButtonGroup, Form } from "react-bootstrap";
import { ArrowLeft, ChevronLeft, ChevronRight, LayoutTextSidebar, Paperclip } from "react-bootstrap-icons";
import { hasPictures } from "#core/arrivals/limits.ts";
import { bookOf } from "#core/sections/reading-order.ts";
import type { RecordAnswer, RecordDocument } from "#server/records/load-record-page.ts";
import { ChecklistStrip } from "../checklists/checklist-strip.tsx";
import { Where } from "../frame/top-slot.tsx";
import { apiGet, queryOf, wordsOf } from "../kit/api.ts";
import { Columns } from "../kit/columns.tsx";
import { Icon, kindIcon } from "../kit/icon.tsx";
import { Link } from "../kit/link.tsx";
import { Empty, Skeletons, Trouble } from "../kit/parts.tsx";
import { useKeys } from "../kit/use-keys.ts";
import { dayText } from "../kit/words.ts";
import { useMe } from "../people/me-context.tsx";
import { Viewer } from "../pages/viewer.tsx";
import { ownText } from "./papers-bar.tsx";
import { recordHref, recordPath } from "./record-href.ts";

/** Documents of one book; a record with more is read section by section. */
const BOOK_MAX = 2000;
/** Pages ahead and behind whose pictures are loaded, so that the next one is there at once. */
const AHEAD = 4;
/** Width that page pictures are asked for. */
const WIDTH = 960;

interface Leaf {
  readonly paper: RecordDocument;
  /** Number of the page in its document; null for a document without page pictures. */
  readonly page: number | null;
}
const pictureOf = (leaf: Leaf, width = WIDTH): string => `/api/v1/documents/${leaf.paper.code}/pages/${leaf.page ?? 1}.jpg?width=${width}`;

/** A whole record as one book: all its documents in an order, page after page by keys alone, with its contents and its checklist beside it. */
export function FlipScreen({ type, recordKey, company }: { type: string; recordKey: string; company: string }) {
  const { documentType, recordType } = useMe();
  const router = useRouter();
  const path = recordPath({ company, type, key: recordKey });
  const [state, setState] = useQueryStates({
    scope: parseAsStringLiteral(["own", "chain"] as const).withDefault("own"),
    order: parseAsString.withDefault(""),
    at: parseAsInteger.withDefault(0),
  });
  const [isWide, setWide] = useState(false);
  const [step, setStep] = useState(1);
  const contents = useRef<HTMLElement>(null);
  const record = useQuery({
    queryKey: ["record", company, type, recordKey],
    queryFn: ({ signal }) => apiGet<RecordAnswer>(`${path}${queryOf({ company })}`, signal),
  });
  const papers = useQuery({
    queryKey: ["book", company, type, recordKey, state.scope],
    queryFn: async ({ signal }) => {
      const all: RecordDocument[] = [];
      for (let cursor = ""; all.length < BOOK_MAX;) {
        const page = await apiGet<{ items: readonly RecordDocument[]; next: string | null }>(
          `${path}/documents${queryOf({ company, scope: state.scope, limit: 200, cursor })}`,
          signal,
        );
        all.push(...page.items);
        if (page.next === null) break;
        cursor = page.next;
      }
      return all;
    },
  });
  const r = record.data;
  const order = r?.sections.orders.find((o) => o.key === state.order) ?? null;
  const book = useMemo(() => bookOf(papers.data ?? [], order, r?.sections.tree ?? []), [papers.data, order, r?.sections.tree]);
  const leaves = useMemo(
    () =>
      book.flatMap((paper): readonly Leaf[] =>
        hasPictures(paper.kind) && (paper.pages ?? 0) > 0
          ? Array.from({ length: paper.pages ?? 1 }, (_, i) => ({ paper, page: i + 1 }))
          : [{ paper, page: null }],
      ),
    [book],
  );
  const at = Math.max(0, Math.min(state.at, leaves.length - 1));
  const leaf = leaves[at];
  const number = leaf ? book.indexOf(leaf.paper) + 1 : 0;
  const go = (to: number): void => void setState({ at: Math.max(0, Math.min(to, leaves.length - 1)) });
  const firstOf = (paper: RecordDocument): number => leaves.findIndex((l) => l.paper === paper);
  const toPaper = (by: 1 | -1): void => {
    if (!leaf) return;
    const next = book[book.indexOf(leaf.paper) + by];
    // Back goes to the beginning of this document first, as one turns back in a book.
    if (by === -1 && firstOf(leaf.paper) < at) go(firstOf(leaf.paper));
    else if (next) go(firstOf(next));
  };
  useKeys({
    ArrowRight: () => go(at + 1),
    " ": () => go(at + 1),
    PageDown: () => go(at + 1),
    ArrowLeft: () => go(at - 1),
    PageUp: () => go(at - 1),
    j: () => toPaper(1),
    k: () => toPaper(-1),
    ArrowDown: () => toPaper(1),
    ArrowUp: () => toPaper(-1),
    Home: () => go(0),
    End: () => go(leaves.length - 1),
    w: () => setWide((now) => !now),
    Escape: () => r && router.push(recordHref(r)),
    Enter: () => leaf && router.push(`/documents/${leaf.paper.code}`),
  });
  useEffect(() => {
    for (let by = -1; by <= AHEAD; by++) {
      const near = leaves[at + by];
      if (near && near.page !== null && by !== 0) new Image().src = pictureOf(near);
    }
    contents.current?.querySelector('[aria-current="true"]')?.scrollIntoView({ block: "nearest" });
  }, [at, leaves]);
  if (record.isPending || papers.isPending) return <Skeletons rows={8} />;
  if (record.isError || papers.isError || !r)
    return (
      <>
        <Where title="Page through" />
        <Trouble {...wordsOf(record.error ?? papers.error)} />
      </>
    );
  return (
    <div className="d-flex flex-column h-100">
      <Where title={r.key}>
        <Link href={recordHref(r)} className="chip">
          <ArrowLeft size={12} /> {recordType(type)?.label}
        </Link>
        <span className="text-2 aside text-truncate">{r.title}</span>
      </Where>
      <div className="bar">
        <ButtonGroup aria-label="Documents shown">
          {(["own", "chain"] as const)
            .filter((s) => s === "own" || r.chain.length > 1)
            .map((s) => (
              <Button
                key={s}
                variant="plain"
                className={state.scope === s ? "btn-on" : ""}
                aria-pressed={state.scope === s}
                onClick={() => void setState({ scope: s, at: 0 })}
              >
                {s === "own" ? `Own ${ownText(r.counts)}` : `Chain ${r.counts.chain}`}
              </Button>
            ))}
        </ButtonGroup>
        {r.sections.orders.length > 0 ? (
          <Form.Select
            size="sm"
            style={{ width: 190 }}
            aria-label="Reading order"
            value={state.order}
            onChange={(e) => void setState({ order: e.target.value || null, at: 0 })}
          >
            <option value="">Section order</option>
            {r.sections.orders.map((o) => (
              <option key={o.key} value={o.key}>
                {o.label}
              </option>
            ))}
          </Form.Select>
        ) : null}
        <span className="ms-auto text-nowrap" role="status">
          {leaf ? (
            <>
              Document {number} of {book.length}
              {leaf.page !== null ? `, page ${leaf.page} of ${leaf.paper.pages ?? 1}` : ""}
            </>
          ) : null}
        </span>
        <Button variant="plain" aria-label="Previous page" disabled={at === 0} onClick={() => go(at - 1)}>
          <ChevronLeft />
        </Button>
        <Button aria-label="Next page" disabled={at >= leaves.length - 1} onClick={() => go(at + 1)}>
          <ChevronRight /> <kbd>→</kbd>
        </Button>
      </div>
      <div style={{ flex: 1, minHeight: 0 }}>
        <Columns name="flip" grows={1} step={step} sides={{ 0: { start: 230, min: 160, max: 420 }, 2: { start: 290, min: 200, max: 460 } }}>
          <nav className="scroll py-2" aria-label="Contents" ref={contents}>
            {book.map((paper) => {
              const first = leaves[firstOf(paper)];
              return (
                <button
                  key={paper.code}
                  type="button"
                  className={`flip-row ${paper === leaf?.paper ? "is-chosen" : ""}`}
                  aria-current={paper === leaf?.paper ? "true" : undefined}
                  onClick={() => {
                    go(firstOf(paper));
                    setStep(1);
                  }}
                >
                  {first && first.page !== null ? (
                    <img src={pictureOf(first, 160)} alt="" width={44} height={60} loading="lazy" />
                  ) : (
                    <span className="no-picture">
                      <Icon name={kindIcon(paper.kind)} size={20} />
                    </span>
                  )}
                  <span style={{ minWidth: 0 }}>
                    <span className="fw-bold d-block text-truncate">{paper.title}</span>
                    <span className="text-2 small d-block text-truncate">{documentType(paper.documentType)?.label}</span>
                    <span className="text-2 small d-block">{dayText(paper.documentDate)}</span>
                  </span>
                </button>
              );
            })}
          </nav>
          <section className="d-flex flex-column h-100" aria-label="The page">
            <div className="bar step-back">
              <Button variant="quiet" onClick={() => setStep(0)}>
                <LayoutTextSidebar /> Contents
              </Button>
              <Button variant="plain" className="ms-auto" onClick={() => setStep(2)}>
                Checklist
              </Button>
            </div>
            {!leaf ? (
              <div className="viewer">
                <Empty icon={<Paperclip size={34} />} title="No documents to read">
                  <Link href={recordHref(r)}>Back to the record</Link>
                </Empty>
              </div>
            ) : leaf.page === null ? (
              <Viewer base={`/documents/${leaf.paper.code}`} />
            ) : (
              <div
                className={`flip-page ${isWide ? "is-wide" : ""}`}
                tabIndex={0}
                role="region"
                aria-label={`${leaf.paper.title}, page ${leaf.page}`}
              >
                <img key={`${leaf.paper.code} ${leaf.page}`} src={pictureOf(leaf)} alt={`Page ${leaf.page} of ${leaf.paper.title}`} />
              </div>
            )}
          </section>
          <section className="scroll px-3 pb-3 flip-side" aria-label="Checklist beside the page" tabIndex={0}>
            <div className="bar step-back px-0">
              <Button variant="quiet" onClick={() => setStep(1)}>
                <ArrowLeft /> Page
              </Button>
            </div>
            <ChecklistStrip
              record={r}
              openPaper={leaf ? { code: leaf.paper.code, title: leaf.paper.title } : null}
              onOpenPaper={(code) => {
                const paper = book.find((p) => p.code === code);
                if (paper) go(firstOf(paper));
              }}
            />
            <p className="text-2 small mt-3 mb-0">
              <kbd>→</kbd> next page, <kbd>J</kbd> next document, <kbd>W</kbd> wide, <kbd>]</kbd> next item
            </p>
          </section>
        </Columns>
      </div>
    </div>
  );
}
