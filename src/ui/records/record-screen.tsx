"use client";
import { useInfiniteQuery, useQuery, useQueryClient } from "@tanstack/react-query";
import { useRouter } from "next/navigation";
import { parseAsString, parseAsStringLiteral, useQueryStates } from "nuqs";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { Button, ButtonGroup } from "react-bootstrap";
import { BoxArrowInDown, Paperclip } from "react-bootstrap-icons";
import type { ItemState } from "#core/checklists/checklist-state.ts";
import type { RecordAnswer, RecordDocument, Scope } from "#server/records/load-record-page.ts";
import type { ArrivalAnswer } from "#server/arrivals/list-arrivals.ts";
import { ChecklistStrip } from "../checklists/checklist-strip.tsx";
import { itemStateWords } from "../checklists/clip-mark.tsx";
import { DropArea } from "../arrivals/drop-area.tsx";
import { Where } from "../frame/top-slot.tsx";
import { apiGet, apiSend, queryOf, wordsOf } from "../kit/api.ts";
import { Columns } from "../kit/columns.tsx";
import { Icon, kindIcon } from "../kit/icon.tsx";
import { Link } from "../kit/link.tsx";
import { moreOnScroll } from "../kit/more-on-scroll.ts";
import { Empty, Skeletons, Trouble } from "../kit/parts.tsx";
import { useKeys } from "../kit/use-keys.ts";
import { countText } from "../kit/words.ts";
import { useMe } from "../people/me-context.tsx";
import { usePrefetchPaper } from "../pages/viewer.tsx";
import { TimelineDialog } from "../timeline/timeline-dialog.tsx";
import { MoveTo } from "../sections/move-to.tsx";
import { useSections } from "../sections/use-sections.ts";
import { paperGroups } from "./paper-groups.ts";
import { PaperBeside } from "./paper-beside.tsx";
import { PapersBar } from "./papers-bar.tsx";
import { type RecordDialog, RecordDialogs } from "./record-dialogs.tsx";
import { chosenColumns, filterPapers, type Labels } from "./paper-columns.ts";
import { ColumnHeads, nothingLooked, PapersFilter } from "./papers-filter.tsx";
import { PapersOfGroup } from "./papers-of-group.tsx";
import { usePaperColumns } from "./use-paper-columns.ts";
import { DraftNote } from "../drafts/draft-note.tsx";
import { FolderNote } from "./folder-note.tsx";
import { RecordHead } from "./record-head.tsx";
import type { DraftAnswer } from "#server/drafts/list-drafts.ts";
import { recordHref, recordPath } from "./record-href.ts";

/** Pages of a hundred that are looked at again every few seconds. */
const REFRESHED_PAGES = 5;

/** Where else a record without documents of its own may have some. */
const elsewhere = ["chain", "parent", "children"] as const satisfies readonly Scope[];
const scopes = ["own", "chain", "parent", "children"] as const satisfies readonly Scope[];
interface DocumentsPage {
  readonly items: readonly RecordDocument[];
  readonly next: string | null;
}

/** The item that each document counts for, worst first where it counts for several. */
function marksOf(items: RecordAnswer["checklist"]): ReadonlyMap<string, { readonly state: ItemState; readonly label: string }> {
  const marks = new Map<string, { state: ItemState; label: string }>();
  for (const state of ["waived", "complete", "expired", "received", "outstanding"] as const)
    for (const item of items)
      if (item.state === state) for (const p of item.papers) marks.set(p.code, { state, label: `${item.label}: ${itemStateWords[state]}` });
  return marks;
}

/** A record with its documents, and the document that is open beside them. */
export function RecordScreen({ type: typeKey, recordKey, company }: { type: string; recordKey: string; company: string | undefined }) {
  const { me, recordType, documentType } = useMe();
  const router = useRouter();
  const prefetch = usePrefetchPaper();
  const [state, setState] = useQueryStates({ scope: parseAsStringLiteral(scopes), open: parseAsString });
  const [looked, setLooked] = useState(nothingLooked);
  const scroller = useRef<HTMLDivElement>(null);
  const { columnKeys, chooseColumns } = usePaperColumns();
  const columns = useMemo(() => chosenColumns(columnKeys), [columnKeys]);
  const labels = useMemo<Labels>(
    () => ({ documentType: (key) => documentType(key)?.label ?? key, recordType: (key) => recordType(key)?.short ?? key }),
    [documentType, recordType],
  );
  const [filtering, setFiltering] = useState(false);
  const [kinds, setKinds] = useState<"all" | "papers" | "activities">("all");
  const [shut, setShut] = useState<ReadonlySet<string>>(new Set());
  const [step, setStep] = useState(0);
  const [timeline, setTimeline] = useState(false);
  const [ticked, setTicked] = useState<ReadonlySet<string>>(new Set());
  const [dialog, setDialog] = useState<RecordDialog | null>(null);
  const path = recordPath({ company: "", type: typeKey, key: recordKey });
  const record = useQuery({
    queryKey: ["record", company ?? "", typeKey, recordKey],
    queryFn: ({ signal }) => apiGet<RecordAnswer>(`${path}${queryOf({ company })}`, signal),
  });
  const r = record.data;
  const client = useQueryClient();
  const openedId = r?.id;
  useEffect(() => {
    if (openedId === undefined) return;
    void apiSend("POST", `${path}/opened${queryOf({ company })}`).then(
      () => client.invalidateQueries({ queryKey: ["lookup"] }),
      // Not worth a word: the list of records opened last lacks one.
      () => {},
    );
    // oxlint-disable-next-line react/exhaustive-deps -- once for each record
  }, [openedId]);
  // Its draft is looked at last: where it got its number in between, that is what it is called.
  const number = r?.draft?.record.key ?? r?.key;
  useEffect(() => {
    // It was a draft when it was linked to, and has its number by now.
    if (r && number !== undefined && number !== recordKey) router.replace(recordHref({ ...r, key: number }));
    // oxlint-disable-next-line react/exhaustive-deps -- only when it turns out to be called otherwise
  }, [number, recordKey]);
  const onDraftMoved = useCallback(
    (draft: DraftAnswer): void => {
      // Under its number it is another page.
      if (draft.record.key !== recordKey) router.replace(recordHref(draft.record));
      else void client.invalidateQueries({ queryKey: ["record"] });
    },
    [client, recordKey, router],
  );
  const type = recordType(typeKey);
  const scope: Scope =
    state.scope ?? (type?.kind === "standing" && r && r.counts.own + r.counts.reached === 0 && r.counts.children > 0 ? "children" : "own");
  const papers = useInfiniteQuery({
    queryKey: ["recordDocuments", company ?? "", typeKey, recordKey, scope],
    enabled: r !== undefined,
    initialPageParam: "",
    getNextPageParam: (last: DocumentsPage) => last.next ?? undefined,
    queryFn: ({ pageParam, signal }) =>
      apiGet<DocumentsPage>(`${path}/documents${queryOf({ company: r?.company, scope, limit: 100, cursor: pageParam })}`, signal),
    // What somebody scrolled through far is not fetched again and again.
    refetchInterval: (q) => ((q.state.data?.pages.length ?? 0) > REFRESHED_PAGES ? false : 8000),
  });
  const waiting = useQuery({
    queryKey: ["arrivals", "children", r?.company, typeKey, recordKey],
    enabled: r !== undefined,
    refetchInterval: 5000,
    queryFn: ({ signal }) =>
      apiGet<{ items: ArrivalAnswer[] }>(
        `/arrivals${queryOf({ record: `${typeKey}:${recordKey}`, company: r?.company, limit: 20 })}`,
        signal,
      ),
  });
  const loaded = useMemo(() => papers.data?.pages.flatMap((p) => p.items) ?? [], [papers.data]);
  const tree = r?.sections.tree;
  const { groups, notPlaced } = useMemo(() => {
    const ofKind = kinds === "all" ? loaded : loaded.filter((d) => (d.documentType === "activity") === (kinds === "activities"));
    const kept = filterPapers(ofKind, looked, labels);
    const all = paperGroups(scope === "children" || scope === "parent" ? [] : (tree ?? []), kept, me.documentTypes);
    // While something is looked for, heads with nothing under them are in the way.
    return kept === ofKind && kinds === "all" ? all : { ...all, groups: all.groups.filter((g) => g.count > 0) };
  }, [loaded, looked, kinds, me.documentTypes, labels, scope, tree]);
  // What is looked for may be among those that were not fetched yet.
  const { hasNextPage, isFetching, fetchNextPage } = papers;
  useEffect(() => {
    if (looked !== nothingLooked && hasNextPage && !isFetching) void fetchNextPage();
  }, [looked, hasNextPage, isFetching, fetchNextPage]);
  const shown = groups.flatMap((g) => (shut.has(g.key) ? [] : g.papers));
  const index = Math.max(
    0,
    shown.findIndex((d) => d.code === state.open),
  );
  const current = shown[index];
  const open = (to: number): void => {
    const next = shown[Math.max(0, Math.min(to, shown.length - 1))];
    if (next) void setState({ open: next.code });
  };
  const code = current?.code;
  const marks = useMemo(() => marksOf(r?.checklist ?? []), [r?.checklist]);
  useEffect(() => {
    for (const near of [shown[index + 1], shown[index - 1]]) if (near) prefetch(`/documents/${near.code}`);
    // oxlint-disable-next-line react/exhaustive-deps -- only when another document is opened
  }, [code]);
  const of = useMemo(() => ({ company: r?.company ?? "", type: typeKey, key: recordKey }), [r?.company, typeKey, recordKey]);
  const sections = useSections(of);
  const tick = (paper: string | undefined, range: boolean): void => {
    if (paper === undefined) return;
    setTicked((now) => {
      const next = new Set(now);
      const [from, to] = [shown.findIndex((d) => d.code === code), shown.findIndex((d) => d.code === paper)];
      if (range && from !== -1) for (const d of shown.slice(Math.min(from, to), Math.max(from, to) + 1)) next.add(d.code);
      else if (!next.delete(paper)) next.add(paper);
      return next;
    });
  };
  const chosen = shown.filter((d) => ticked.has(d.code) && d.from === null).map((d) => d.code);
  const moveTo = (papers: readonly string[], to: string | null): void => {
    sections.act({ act: "move", papers: [...papers], to });
    setTicked(new Set());
  };
  useKeys({
    x: () => tick(code, false),
    j: () => open(index + 1),
    ArrowDown: () => open(index + 1),
    k: () => open(index - 1),
    ArrowUp: () => open(index - 1),
    Enter: () => current && router.push(`/documents/${current.code}`),
  });
  if (record.isPending) return <Skeletons rows={8} />;
  if (record.isError || !r)
    return (
      <>
        <Where title="Record" />
        <Trouble {...wordsOf(record.error)} again={() => void record.refetch()} />
      </>
    );
  const queue = me.queues.find((q) => q.member)?.key ?? "general";
  return (
    <DropArea
      target={{ queue, company: r.company, record: `${r.type}:${r.key}`, label: r.key }}
      label={`Drop documents here: they wait in Arrivals for ${r.key}`}
      disabled={!me.may.add}
    >
      {(choose) => (
        <div className="d-flex flex-column h-100">
          <Where title={r.key}>
            <Link href={`/records/${typeKey}`} className="chip aside">
              <Icon name={type?.icon ?? ""} size={13} /> {type?.plural}
            </Link>
            {me.companies.length > 1 ? <span className="text-3 aside">{me.companies.find((c) => c.code === r.company)?.name}</span> : null}
          </Where>
          <RecordHead record={r} onTimeline={() => setTimeline(true)}>
            <ChecklistStrip
              record={r}
              openPaper={current ? { code: current.code, title: current.title } : null}
              onOpenPaper={(paper) => {
                void setState({ open: paper, ...(shown.some((d) => d.code === paper) ? {} : { scope: "chain" }) });
                setStep(1);
              }}
            />
          </RecordHead>
          <FolderNote record={r} />
          {r.draft ? (
            <DraftNote draft={r.draft} onMoved={onDraftMoved} onWithdrawn={(id) => router.push(id ? `/arrivals?at=${id}` : "/arrivals")} />
          ) : null}
          <div style={{ flex: 1, minHeight: 0 }}>
            <Columns name="record" grows={0} step={step} sides={{ 1: { start: 440, min: 300, max: 760 } }}>
              <section className="d-flex flex-column h-100" aria-label="Documents">
                <PapersBar
                  record={r}
                  scope={scope}
                  isFiltering={filtering}
                  onScope={(next) => void setState({ scope: next, open: null })}
                  onFilter={() => {
                    setFiltering((f) => !f);
                    setLooked(nothingLooked);
                  }}
                  columns={columnKeys}
                  onColumns={chooseColumns}
                  onApply={() => sections.act({ act: "apply" })}
                  onDialog={setDialog}
                  onAdd={choose.files}
                />
                {loaded.some((d) => d.documentType === "activity") ? (
                  <div className="px-4 pb-2">
                    <ButtonGroup size="sm" aria-label="Documents or activities">
                      {(["all", "papers", "activities"] as const).map((k) => (
                        <Button
                          key={k}
                          variant="plain"
                          className={kinds === k ? "btn-on" : ""}
                          aria-pressed={kinds === k}
                          onClick={() => setKinds(k)}
                        >
                          {{ all: "Everything", papers: "Documents", activities: "Activities" }[k]}
                        </Button>
                      ))}
                    </ButtonGroup>
                  </div>
                ) : null}
                {ticked.size > 0 ? (
                  <div className="px-4 pb-2 d-flex gap-2 align-items-center">
                    <strong>{ticked.size} selected</strong>
                    {r.may.file && scope !== "children" && scope !== "parent" && r.sections.tree.length > 0 && chosen.length > 0 ? (
                      <MoveTo tree={r.sections.tree} label="Move selected documents to a section" onMove={(to) => moveTo(chosen, to)} />
                    ) : null}
                    <Button size="sm" variant="quiet" onClick={() => setTicked(new Set())}>
                      Clear selection
                    </Button>
                  </div>
                ) : null}
                {filtering ? <PapersFilter looked={looked} onLook={setLooked} /> : null}
                <div
                  ref={scroller}
                  className="scroll px-3 px-md-4 pb-4"
                  tabIndex={0}
                  role="region"
                  aria-label="Documents of the record"
                  onScroll={moreOnScroll(papers)}
                >
                  {waiting.data && waiting.data.items.length > 0 ? (
                    <section className="mb-2">
                      <div className="group-head">
                        Waiting to be filed <span className="text-3 fw-normal">{waiting.data.items.length}</span>
                      </div>
                      {waiting.data.items.map((a) => (
                        <Link key={a.id} href={`/arrivals?at=${a.id}`} className="doc-row text-decoration-none">
                          <Icon name={kindIcon(a.kind)} size={17} />
                          <span className="name">{a.fileName}</span>
                          <span className="text-end">
                            <span className="chip amber">{me.may.file ? "file it" : "is waiting in Arrivals"}</span>
                          </span>
                        </Link>
                      ))}
                    </section>
                  ) : null}
                  {columns.length > 0 && loaded.length > 0 ? (
                    <ColumnHeads columns={columns} isFiltering={filtering} looked={looked} onLook={setLooked} />
                  ) : null}
                  {papers.isPending ? (
                    <Skeletons rows={5} height={52} />
                  ) : papers.isError ? (
                    <Trouble {...wordsOf(papers.error)} again={() => void papers.refetch()} />
                  ) : null}
                  {groups.map((g) => (
                    <PapersOfGroup
                      key={g.key}
                      group={g}
                      chosen={code}
                      ticked={ticked}
                      marks={marks}
                      columns={columns}
                      labels={labels}
                      scroller={() => scroller.current}
                      isShut={shut.has(g.key)}
                      onShut={() =>
                        setShut((now) => {
                          const next = new Set(now);
                          if (!next.delete(g.key)) next.add(g.key);
                          return next;
                        })
                      }
                      onOpen={(d) => {
                        // The second click of two must not hold up going to its page.
                        if (d.code !== code) void setState({ open: d.code });
                        setStep(1);
                      }}
                      onTick={(d, range) => tick(d.code, range)}
                      onDropped={r.may.file && (g.path !== null || g.key === "notPlaced") ? (codes) => moveTo(codes, g.path) : undefined}
                    >
                      {g.key === "notPlaced" && notPlaced > 0 && r.may.file ? (
                        <Button size="sm" variant="plain" onClick={() => setDialog("place")}>
                          Sort into sections
                        </Button>
                      ) : null}
                    </PapersOfGroup>
                  ))}
                  {papers.isSuccess && loaded.length === 0 ? (
                    <Empty
                      icon={<Paperclip size={34} />}
                      title={
                        scope === "own"
                          ? r.counts.chain + r.counts.parent + r.counts.children > 0
                            ? "No documents of its own"
                            : "No documents yet"
                          : `No documents ${{ chain: "along its chain", parent: "on its parent", children: "on its child records" }[scope]}`
                      }
                    >
                      {scope === "own"
                        ? elsewhere
                            .filter((s) => r.counts[s] > 0)
                            .map((s) => (
                              <div key={s} className="mb-2">
                                <Button variant="plain" onClick={() => void setState({ scope: s, open: null })}>
                                  Show {countText(r.counts[s], "document")}{" "}
                                  {{ chain: "along its chain", parent: "of its account", children: "of its child records" }[s]}
                                </Button>
                              </div>
                            ))
                        : null}
                      {me.may.add ? "Drop the first one anywhere on this page." : null}
                    </Empty>
                  ) : null}
                  {looked !== nothingLooked && groups.length === 0 && loaded.length > 0 ? (
                    <p className="text-2 mt-3">
                      {loaded.length === 1
                        ? "The only document does not match the filter."
                        : `None of the ${loaded.length} documents matches the filter.`}
                    </p>
                  ) : null}
                  {papers.hasNextPage ? (
                    <div className="text-center my-3">
                      <Button variant="plain" onClick={() => void papers.fetchNextPage()} disabled={papers.isFetchingNextPage}>
                        Show more
                      </Button>
                    </div>
                  ) : null}
                  {me.may.add && loaded.length > 0 ? (
                    <button type="button" className="drop-here mt-3" onClick={choose.files}>
                      <BoxArrowInDown aria-hidden="true" /> Drop documents anywhere on this page. They wait in Arrivals, assigned to {r.key}
                      .
                    </button>
                  ) : null}
                </div>
              </section>
              <PaperBeside paper={current} index={index} count={shown.length} onOpen={open} onBack={() => setStep(0)} />
            </Columns>
          </div>
          <RecordDialogs
            shown={dialog}
            record={r}
            sections={sections}
            onWritten={(paper) => {
              for (const key of ["record", "recordDocuments", "missing"]) void client.invalidateQueries({ queryKey: [key] });
              void setState({ open: paper || null });
            }}
            onHide={() => setDialog(null)}
          />
          <TimelineDialog
            path={timeline ? `${path}/timeline?company=${r.company}` : null}
            title={r.key}
            onHide={() => setTimeline(false)}
          />
        </div>
      )}
    </DropArea>
  );
}
