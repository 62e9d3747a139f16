"use client";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useRouter } from "next/navigation";
import { parseAsBoolean, parseAsString, parseAsStringLiteral, useQueryStates } from "nuqs";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { flushSync } from "react-dom";
import { Button, Dropdown, Form } from "react-bootstrap";
import { ArrowLeft, Camera, Folder2Open, Grid, Inboxes, ListUl, Upload } from "react-bootstrap-icons";
import type { ArrivalAnswer } from "#server/arrivals/list-arrivals.ts";
import { apiGet, apiSend, savePreferences, wordsOf } from "../kit/api.ts";
import { Columns } from "../kit/columns.tsx";
import { Link } from "../kit/link.tsx";
import { useNotices } from "../kit/notices.tsx";
import { Empty, Skeletons, Trouble } from "../kit/parts.tsx";
import { useKeys } from "../kit/use-keys.ts";
import { sourceWords, waitingDay } from "../kit/words.ts";
import { Where } from "../frame/top-slot.tsx";
import { useMe } from "../people/me-context.tsx";
import type { PageMark, PickedWords } from "../pages/marks.ts";
import { Viewer } from "../pages/viewer.tsx";
import { ArrivalDialogs } from "./arrival-dialogs.tsx";
import { PaperButtons } from "./paper-buttons.tsx";
import { ArrivalFacts } from "./arrival-facts.tsx";
import { DropArea } from "./drop-area.tsx";
import { FilingSheet, type SheetHandle } from "./filing-sheet.tsx";
import type { Chosen } from "./clip-to.tsx";
import { DraftSheet } from "../drafts/draft-sheet.tsx";
import { recordHref } from "../records/record-href.ts";
import { ChosenBar } from "./chosen-bar.tsx";
import { usePrefetchArrival } from "./use-prefetch-arrival.ts";
import { ArrivalNotes } from "./arrival-notes.tsx";
import { useArrivalActs } from "./use-arrival-acts.ts";
import { useClaim } from "./use-claim.ts";
import { useFiling } from "./use-filing.ts";
import { useWaiting } from "./use-waiting.ts";
import { groupings, WaitingFilter, shows, sorts } from "./waiting-filter.tsx";
import { NothingWaits, WaitingList, type WaitingListHandle, views } from "./waiting-list.tsx";

/** The clerk's table: what waits, the document, what we know. */
export function ArrivalsScreen() {
  const { me, company, recordType } = useMe();
  const notices = useNotices();
  const router = useRouter();
  const client = useQueryClient();
  const prefetch = usePrefetchArrival();
  const [filter, setFilter] = useQueryStates({
    queue: parseAsString.withDefault(""),
    source: parseAsString.withDefault(""),
    show: parseAsStringLiteral(shows).withDefault("all"),
    sort: parseAsStringLiteral(sorts).withDefault(me.preferences.arrivalSort),
    q: parseAsString.withDefault(""),
    group: parseAsStringLiteral(groupings).withDefault("none"),
    mine: parseAsBoolean.withDefault(false),
    view: parseAsStringLiteral(views).withDefault("list"),
    at: parseAsString,
  });
  const [ticked, setTicked] = useState<ReadonlySet<string>>(new Set());
  const [step, setStep] = useState(0);
  const [asking, setAsking] = useState<readonly string[] | null>(null);
  const [handing, setHanding] = useState<readonly string[] | null>(null);
  const [typing, setTyping] = useState<readonly string[] | null>(null);
  const [renaming, setRenaming] = useState<ArrivalAnswer | null>(null);
  const [timelineOf, setTimelineOf] = useState<string | null>(null);
  const sheet = useRef<SheetHandle>(null);
  const [marks, setMarks] = useState<readonly PageMark[]>([]);
  const [wantsWords, setWantsWords] = useState(false);
  const [pickedWords, setPickedWords] = useState<PickedWords | null>(null);
  const [panelAt, setPanelAt] = useState<HTMLElement | null>(null);
  const [drafting, setDrafting] = useState<{ readonly id: string; readonly start: Chosen | null; readonly documentType: string } | null>(
    null,
  );
  const lastTicked = useRef<string | null>(null);
  const waiting = useRef<WaitingListHandle>(null);
  const refresh = (): void => {
    void client.invalidateQueries({ queryKey: ["arrivals"] });
    void client.invalidateQueries({ queryKey: ["arrivalCounts"] });
  };
  /** What was filed has left the list already: a long one is not asked for again for each document. */
  const refreshAfterFiling = (): void => {
    if (isLong) void client.invalidateQueries({ queryKey: ["arrivalCounts"] });
    else refresh();
  };
  const drop = (ids: readonly string[]): void => {
    takeOut(ids);
    const out = new Set(ids);
    setTicked((now) => new Set([...now].filter((id) => !out.has(id))));
  };
  const openNext = (from: { readonly id: string }): void => {
    const next = items[index + 1] ?? items[index - 1];
    void setFilter({ at: next && next.id !== from.id ? next.id : null });
  };
  const { away, isTooSoon, onShown, onFiling, onFiled, onRefused } = useFiling({
    goOn: openNext,
    drop,
    open: (id) => void setFilter({ at: id }),
    refresh: refreshAfterFiling,
  });
  const { list, items, isLong, total, isSought, isGone, more, takeOut } = useWaiting(filter, company, away);
  const found = items.findIndex((a) => a.id === filter.at);
  // When the one that was open is gone (somebody filed it), its place in the list is where one goes on.
  const [lastIndex, setLastIndex] = useState(0);
  if (found !== -1 && found !== lastIndex) setLastIndex(found);
  const index = found === -1 ? Math.min(lastIndex, items.length - 1) : found;
  const current = isSought ? undefined : items[index];
  const claimed = useClaim(current?.id, me.may.file);
  const isFiltered = filter.mine || filter.q !== "" || filter.source !== "" || filter.show !== "all";
  const open = useCallback(
    (to: number): void => {
      const next = items[Math.max(0, Math.min(to, items.length - 1))];
      if (!next) return;
      void setFilter({ at: next.id });
      waiting.current?.show(items.indexOf(next));
      if (to >= items.length - 10) more();
    },
    [items, more, setFilter],
  );
  const currentId = current?.id;
  useEffect(() => onShown(), [currentId, onShown]);
  useEffect(() => {
    // The neighbours are loaded ahead, so that the next document is there at once.
    for (const [by, near] of [1, 2, -1].map((d) => [d, items[index + d]] as const)) if (near) prefetch(near, by === 1);
    // oxlint-disable-next-line react/exhaustive-deps -- only when another document is opened
  }, [currentId]);
  const goOnFrom = (ids: readonly string[]): void => {
    const gone = new Set(ids);
    const next = items.slice(Math.max(0, index)).find((a) => !gone.has(a.id));
    void setFilter({ at: next?.id ?? null });
  };
  const acts = useArrivalActs({ refresh, drop, goOnFrom });
  const setAside = (ids: readonly string[], reason: string, junk = false): void => {
    setAsking(null);
    acts.setAside(ids, reason, junk);
  };
  const tick = (id: string, range: boolean): void =>
    setTicked((now) => {
      const next = new Set(now);
      const from = items.findIndex((a) => a.id === lastTicked.current);
      const to = items.findIndex((a) => a.id === id);
      if (range && from !== -1) for (const a of items.slice(Math.min(from, to), Math.max(from, to) + 1)) next.add(a.id);
      else if (!next.delete(id)) next.add(id);
      lastTicked.current = id;
      return next;
    });
  const [chosen, sure] = useMemo(() => {
    const byId = ticked.size === 0 ? null : new Map(items.map((a) => [a.id, a]));
    // In the order they were chosen in, which is the order of their pages on the bench.
    const there = byId === null ? [] : [...ticked].flatMap((id) => byId.get(id) ?? []);
    return [there.map((a) => a.id), me.may.file ? there.filter(isSure).map((a) => a.id) : []];
  }, [items, ticked, me.may.file]);
  const toBench = (ids: readonly string[]): void => {
    if (ids.length > 0) router.push(`/bench?arrivals=${ids.join(",")}`);
  };
  useKeys({
    j: () => open(index + 1),
    ArrowDown: () => open(index + 1),
    k: () => open(index - 1),
    ArrowUp: () => open(index - 1),
    x: () => current && tick(current.id, false),
    // Who holds it down files one document, not all of them.
    f: (isHeld) => isHeld || sheet.current?.file(),
    "ctrl+Enter": () => {
      // What is being typed is taken over when the field is left; only then is the sheet whole.
      if (document.activeElement instanceof HTMLElement) document.activeElement.blur();
      setTimeout(() => sheet.current?.file(), 0);
    },
    "/": () => {
      // At once, so that what is typed right after the key stands in the field.
      flushSync(() => setStep(2));
      sheet.current?.lookUp();
    },
    e: () => sheet.current?.properties(),
    c: () => sheet.current?.compare(),
    n: () => sheet.current?.draft(),
    1: () => sheet.current?.suggest(1),
    2: () => sheet.current?.suggest(2),
    3: () => sheet.current?.suggest(3),
    4: () => sheet.current?.suggest(4),
    5: () => sheet.current?.suggest(5),
    h: () => (chosen.length > 0 ? setHanding(chosen) : current && setHanding([current.id])),
    b: () => toBench(chosen.length > 0 ? chosen : current ? [current.id] : []),
    s: () => (chosen.length > 0 ? setAsking(chosen) : current && setAsking([current.id])),
    Enter: () => setStep(1),
    Escape: () => (drafting ? setDrafting(null) : setTicked(new Set())),
  });
  const queue = me.queues.find((q) => q.key === filter.queue);
  const counts = useQuery({
    queryKey: ["arrivalCounts"],
    queryFn: ({ signal }) => apiGet<{ items: readonly { queue: string; open: number }[] }>("/arrivals/counts", signal),
  });
  // What waits in the queue, whatever of it is shown.
  const inQueue = isFiltered
    ? (counts.data?.items ?? []).filter((q) => !filter.queue || q.queue === filter.queue).reduce((sum, q) => sum + q.open, 0)
    : total;
  const clearFilter = (): void => void setFilter({ mine: null, q: null, source: null, show: null, at: null });
  const dropQueue = queue?.key ?? me.queues.find((q) => q.member)?.key ?? "general";
  const dropLabel = me.queues.find((q) => q.key === dropQueue)?.label ?? "Arrivals";
  return (
    <DropArea
      target={{ queue: dropQueue, company, label: dropLabel }}
      label={`Drop documents here: they go to ${dropLabel}`}
      disabled={!me.may.add}
    >
      {(choose) => (
        <>
          <Where title="Arrivals">
            <Dropdown>
              <Dropdown.Toggle variant="quiet" className="chip border-0">
                {queue?.label ?? "All queues"} · {inQueue.toLocaleString("en-GB")} waiting
              </Dropdown.Toggle>
              <Dropdown.Menu>
                <Dropdown.Item active={!filter.queue} onClick={() => void setFilter({ queue: null, at: null })}>
                  All queues
                </Dropdown.Item>
                {me.queues
                  .filter((q) => q.member || me.may.register)
                  .map((q) => (
                    <Dropdown.Item key={q.key} active={filter.queue === q.key} onClick={() => void setFilter({ queue: q.key, at: null })}>
                      {q.label}
                    </Dropdown.Item>
                  ))}
              </Dropdown.Menu>
            </Dropdown>
            {me.may.add ? (
              <Link href="/capture" className="chip aside">
                Camera
              </Link>
            ) : null}
            <Link href="/arrivals/register" className="chip aside">
              Register
            </Link>
          </Where>
          <Columns
            name="arrivals"
            grows={1}
            step={step}
            sides={{ 0: { start: 268, min: 200, max: 460 }, 2: { start: 372, min: 300, max: 560 } }}
          >
            <section className="d-flex flex-column h-100" aria-label="Waiting documents">
              <div className="bar">
                <WaitingFilter
                  filter={filter}
                  onChange={(change) => {
                    void setFilter(change);
                    // The order stands until another is chosen, also in the next session.
                    if (change.sort) void savePreferences({ arrivalSort: change.sort }).then(() => router.refresh(), notices.wrong);
                  }}
                />
                {me.may.add ? (
                  <Link href="/capture" className="btn btn-quiet narrow-only" aria-label="Camera" title="Camera">
                    <Camera size={16} />
                  </Link>
                ) : null}
                <span className="ms-auto" />
                <Button
                  variant="quiet"
                  aria-label={filter.view === "list" ? "Show pictures" : "Show a list"}
                  title={filter.view === "list" ? "Show pictures" : "Show a list"}
                  onClick={() => void setFilter({ view: filter.view === "list" ? "pictures" : null })}
                >
                  {filter.view === "list" ? <Grid size={15} /> : <ListUl size={16} />}
                </Button>
                <Button variant="quiet" aria-label="Add a folder" title="Add a folder" onClick={choose.folder} disabled={!me.may.add}>
                  <Folder2Open size={16} />
                </Button>
                <Button variant="quiet" aria-label="Add documents" title="Add documents" onClick={choose.files} disabled={!me.may.add}>
                  <Upload size={16} />
                </Button>
              </div>
              <div className="bar py-1">
                <Form.Control
                  size="sm"
                  type="search"
                  placeholder="Filter by name or sender"
                  aria-label="Filter by name or sender"
                  defaultValue={filter.q}
                  // The document that was open need not be among those that are asked for.
                  onChange={(e) => void setFilter({ q: e.target.value || null, at: null }, { throttleMs: 250 })}
                />
              </div>
              {isFiltered && list.isSuccess ? (
                <div className="px-3 py-1 small text-2 border-bottom" role="status">
                  {total.toLocaleString("en-GB")} of {inQueue.toLocaleString("en-GB")} shown
                  <button type="button" className="btn btn-quiet btn-sm p-0 ms-2" onClick={clearFilter}>
                    Clear filters
                  </button>
                </div>
              ) : null}
              {filter.show === "sure" && chosen.length === 0 && items.length > 0 && me.may.file ? (
                <div className="bar chosen-bar">
                  <span className="text-2 me-auto">Check them, then file all at once.</span>
                  <Button size="sm" variant="plain" onClick={() => setTicked(new Set(items.filter(isSure).map((a) => a.id)))}>
                    Select all {items.filter(isSure).length}
                  </Button>
                </div>
              ) : null}
              {chosen.length > 0 ? (
                <ChosenBar
                  count={chosen.length}
                  sure={sure.length}
                  onFileSure={() => {
                    acts.fileSure(sure);
                    setTicked(new Set());
                  }}
                  onBench={() => toBench(chosen)}
                  onSetAside={() => setAsking(chosen)}
                  onHandOver={() => setHanding(chosen)}
                  onType={() => setTyping(chosen)}
                  onReadAgain={() => {
                    acts.readAgain(chosen);
                    setTicked(new Set());
                  }}
                  onChooseAll={() => setTicked(new Set(items.map((a) => a.id)))}
                  onChooseSure={() => setTicked(new Set(items.filter(isSure).map((a) => a.id)))}
                />
              ) : null}
              {isGone ? (
                <div
                  className="px-3 py-2 small border-bottom"
                  role="status"
                  style={{ background: "var(--amber-1)", color: "var(--amber-7)" }}
                >
                  That document is no longer waiting. <Link href="/arrivals/register">See it in the register.</Link>
                </div>
              ) : null}
              <WaitingList
                handle={waiting}
                items={items}
                view={filter.view}
                groupOf={filter.group === "none" ? null : groupOf[filter.group]}
                currentId={current?.id}
                ticked={ticked}
                onNearEnd={more}
                onOpen={(at) => {
                  open(at);
                  setStep(1);
                }}
                onTick={tick}
              >
                {list.isPending ? <Skeletons rows={8} height={84} /> : null}
                {list.isError && items.length === 0 ? <Trouble {...wordsOf(list.error)} again={() => void list.refetch()} /> : null}
                {list.isSuccess && items.length === 0 ? (
                  <NothingWaits
                    isFiltered={isFiltered}
                    onShowAll={() => void setFilter(null)}
                    onChoose={me.may.add ? choose.files : null}
                  />
                ) : null}
              </WaitingList>
            </section>
            <section className="d-flex flex-column h-100" aria-label="Document">
              <div className="bar step-back">
                <Button variant="quiet" onClick={() => setStep(0)}>
                  <ArrowLeft /> All documents
                </Button>
                <Button variant="plain" className="ms-auto" onClick={() => setStep(2)}>
                  File
                </Button>
              </div>
              {current ? (
                <Viewer
                  base={`/arrivals/${current.id}`}
                  marks={marks}
                  onPick={wantsWords ? setPickedWords : undefined}
                  end={
                    <PaperButtons
                      isReady={current.state === "ready"}
                      onBench={() => toBench([current.id])}
                      onHandOver={() => setHanding([current.id])}
                      onRename={() => setRenaming(current)}
                      onSayType={() => setTyping([current.id])}
                      onReadAgain={() => acts.readAgain([current.id])}
                      onTimeline={() => setTimelineOf(current.id)}
                    />
                  }
                />
              ) : (
                <div className="viewer">
                  <Empty icon={<Inboxes size={36} />} title="No document selected">
                    Select a document in the list to see it here.
                  </Empty>
                </div>
              )}
              <div ref={setPanelAt} className="beside-at" />
            </section>
            <section className="d-flex flex-column h-100" aria-label="Details" style={{ background: "var(--paper-0)" }}>
              <div className="bar step-back">
                <Button variant="quiet" onClick={() => setStep(1)}>
                  <ArrowLeft /> Document
                </Button>
              </div>
              {current && drafting?.id === current.id ? (
                <DraftSheet
                  key={current.id}
                  arrival={current}
                  start={drafting.start}
                  documentType={drafting.documentType}
                  handle={sheet}
                  onBack={() => setDrafting(null)}
                  onMarks={setMarks}
                  onWants={setWantsWords}
                  picked={pickedWords}
                  onMade={(made) => {
                    setDrafting(null);
                    openNext(current);
                    drop([current.id]);
                    notices.done(`Created: ${recordType(made.record.type)?.label ?? made.record.type} ${made.record.key}`, {
                      more: "It is being sent to the business system.",
                      href: recordHref(made.record),
                      undo: () =>
                        void apiSend("POST", `/drafts/${made.draft}/withdraw`).then(() => {
                          refresh();
                          void setFilter({ at: current.id });
                        }, notices.wrong),
                    });
                    refresh();
                  }}
                />
              ) : current && me.may.file ? (
                <FilingSheet
                  key={current.id}
                  arrival={current}
                  handle={sheet}
                  onFiled={onFiled}
                  onFiling={onFiling}
                  onRefused={onRefused}
                  isTooSoon={isTooSoon}
                  onMarks={setMarks}
                  onWants={setWantsWords}
                  picked={pickedWords}
                  panelAt={panelAt}
                  // Where one column is shown at a time, that is the paper's.
                  onCompare={() => setStep(1)}
                  onUnlocked={(id) => {
                    drop([current.id]);
                    refresh();
                    void setFilter({ at: id });
                  }}
                  onDraft={(start, documentType) => setDrafting({ id: current.id, start, documentType })}
                  note={
                    <ArrivalNotes
                      arrival={current}
                      other={claimed.other}
                      onTakeOver={claimed.takeOver}
                      onSetAside={(reason) => setAside([current.id], reason)}
                      onVersion={(filed) => onFiled(filed, current)}
                      onChanged={refresh}
                    />
                  }
                  actions={
                    <>
                      <Button variant="plain" onClick={() => setAsking([current.id])}>
                        Set aside
                      </Button>
                      {current.state === "failed" ? (
                        <Button variant="plain" onClick={() => acts.readAgain([current.id])}>
                          Try again
                        </Button>
                      ) : null}
                    </>
                  }
                />
              ) : current ? (
                <ArrivalFacts key={current.id} arrival={current} onSaid={refresh} />
              ) : null}
            </section>
          </Columns>
          <ArrivalDialogs
            asking={asking}
            handing={handing}
            typing={typing}
            renaming={renaming}
            timelineOf={timelineOf === null ? null : { id: timelineOf, name: items.find((a) => a.id === timelineOf)?.fileName ?? "" }}
            onClose={() => {
              setAsking(null);
              setHanding(null);
              setTyping(null);
              setRenaming(null);
              setTimelineOf(null);
            }}
            onSetAside={setAside}
            onHandOver={(ids, wish) => {
              acts.handOver(ids, wish);
              setTicked(new Set());
            }}
            onSayType={(ids, type) => {
              acts.sayType(ids, type);
              setTicked(new Set());
            }}
            onRename={acts.rename}
          />
        </>
      )}
    </DropArea>
  );
}

/** Whether the program is sure where a document belongs. */
const isSure = (a: ArrivalAnswer): boolean => a.suggestions[0]?.verdict === "sure";

/** The heading that an arrival stands under. */
const groupOf: Readonly<Record<Exclude<(typeof groupings)[number], "none">, (a: ArrivalAnswer) => string>> = {
  sender: (a) => a.sender?.replace(/\s*<[^>]*>$/, "") || "No sender",
  source: (a) => (sourceWords[a.source] ?? a.source).replace(/^./, (c) => c.toUpperCase()),
  day: (a) => waitingDay(a.receivedAt),
};
