"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useEffect, useMemo, useRef, useState } from "react";
import { Button, Form } from "react-bootstrap";
import { ArrowClockwise, ArrowsCollapseVertical, ChevronDown, ChevronUp, Dash, Download, Plus, Search, X } from "react-bootstrap-icons";
import { problemWords } from "#core/arrivals/problems.ts";
import type { PageText, Word } from "#core/pages/page-text.ts";
import { typedPage } from "#core/pages/text-page.ts";
import { findInWords, findTermsInWords } from "#core/pages/find-in-words.ts";
import type { ContentView } from "#server/reading/load-view.ts";
import { apiGet, apiSend, wordsOf } from "../kit/api.ts";
import { useNotices } from "../kit/notices.tsx";
import { Empty, Trouble } from "../kit/parts.tsx";
import { useKeys } from "../kit/use-keys.ts";
import { countText } from "../kit/words.ts";
import type { PageMark, PickedWords } from "./marks.ts";
import { WordLayer } from "./word-layer.tsx";
import { Icon } from "../kit/icon.tsx";
import { InvoiceView, MailView, TableView, TextView } from "./plain-views.tsx";

/** Widths of page pictures that the server makes; asked for so that a screen's dots are used. */
const widths = [480, 960, 1600, 2400] as const;
/** Pages around the one that shows whose words are loaded. */
const zooms = [25, 33, 50, 67, 80, 100, 125, 150, 200, 300, 400] as const;

/** Loads a paper's view ahead of time, with the picture of its first page. */
export function usePrefetchPaper(): (base: string) => void {
  const client = useQueryClient();
  return (base) => {
    void client
      .prefetchQuery({ queryKey: ["view", base], queryFn: () => apiGet<ContentView>(`${base}/view`), staleTime: 60_000 })
      .then(() => {
        const view = client.getQueryData<ContentView>(["view", base]);
        if (view?.pictures) new Image().src = `/api/v1${base}/pages/1.jpg?width=960&of=${view.of}`;
      });
  };
}

/**
 * Shows a document: pages as pictures with their words over them (to select and search), tables and text for the rest. `base` is the API's
 * address of the arrival or document. Nothing in a document can run: pictures and plain text are all that reaches the page.
 */
export function Viewer({
  base,
  end,
  marks = [],
  onPick,
  query = "",
}: {
  base: string;
  end?: ReactNode;
  /** The search that led here: its words are marked on the pages, and the first page that has them is shown. */
  query?: string;
  /** What is pointed at from beside the document. */
  marks?: readonly PageMark[];
  /** Takes words that are pointed at, while somebody wants them. */
  onPick?: ((picked: PickedWords) => void) | undefined;
}) {
  // The size stays from document to document; turn, page and search begin again with each.
  const [zoom, setZoom] = useState<Zoom>("width");
  return (
    <OnePaper key={`${base} ${query}`} query={query} base={base} end={end} zoom={zoom} setZoom={setZoom} marks={marks} onPick={onPick} />
  );
}

type Zoom = number | "width";

function OnePaper({
  query,
  base,
  end,
  zoom,
  setZoom,
  marks,
  onPick,
}: {
  query: string;
  base: string;
  end: ReactNode;
  marks: readonly PageMark[];
  onPick: ((picked: PickedWords) => void) | undefined;
  zoom: Zoom;
  setZoom: (next: Zoom | ((now: Zoom) => Zoom)) => void;
}) {
  const notices = useNotices();
  const client = useQueryClient();
  const view = useQuery({
    queryKey: ["view", base],
    queryFn: ({ signal }) => apiGet<ContentView>(`${base}/view`, signal),
    // Somebody may have filed a new version since: it is asked for whenever the document is opened.
    staleTime: 2_000,
    refetchInterval: (q) => (q.state.data?.state === "unread" || q.state.data?.looking ? 1500 : false),
  });
  const stop = useMutation({
    mutationFn: () => apiSend("POST", `${base}/stop-reading`),
    onError: notices.wrong,
    onSettled: () => client.invalidateQueries({ queryKey: ["view", base] }),
  });
  const [turn, setTurn] = useState(0);
  const [searching, setSearching] = useState(query !== "");
  const [wanted, setWanted] = useState(query);
  // What led here is a search over all documents; what is typed here is looked for as it stands.
  const isHandedOver = wanted === query && query !== "";
  const [at, setAt] = useState(0);
  const [page, setPage] = useState(1);
  const scroller = useRef<HTMLDivElement>(null);
  const data = view.data;
  const pages = useMemo(() => data?.pages ?? [], [data]);
  const allWords = useQuery({
    queryKey: ["words", base, data?.of, "all", data?.looking?.done],
    enabled: searching && Boolean(data?.pictures),
    staleTime: Infinity,
    queryFn: async ({ signal }) =>
      Promise.all(
        pages.slice(0, 400).map(async (p) => ({
          number: p.number,
          words: (await apiGet<{ words: Word[] }>(`${base}/pages/${p.number}.words?of=${data?.of ?? ""}`, signal)).words,
        })),
      ),
  });
  // What has no pages has its words where it shows them.
  const typed = useMemo(() => (data && searching ? typedPages(data) : []), [data, searching]);
  const searched = data?.pictures ? allWords.data : typed;
  const hits = useMemo(
    () =>
      searched && wanted.trim() !== ""
        ? searched.flatMap((p) => (isHandedOver ? findTermsInWords : findInWords)(p.words, wanted).map((box) => ({ page: p.number, box })))
        : [],
    [searched, wanted, isHandedOver],
  );
  const step = (by: number): void => setAt((now) => (hits.length === 0 ? 0 : (now + by + hits.length) % hits.length));
  const current = hits[at % Math.max(1, hits.length)];
  useEffect(() => {
    if (!current) return;
    const page = scroller.current?.querySelector(`[data-page="${current.page}"]`);
    (page?.querySelector(".hit.now") ?? page)?.scrollIntoView({ block: "nearest" });
  }, [current]);
  // The page follows the field that one is in.
  const followed = marks.find((m) => m.now);
  const followedKey = followed ? `${followed.page} ${followed.number}` : null;
  useEffect(() => {
    if (followedKey === null) return;
    const [on, number] = followedKey.split(" ");
    const page = scroller.current?.querySelector(`[data-page="${on}"]`);
    (page?.querySelector(`[data-mark="${number}"]`) ?? page)?.scrollIntoView({ block: "nearest" });
  }, [followedKey]);
  const change = (direction: 1 | -1): void =>
    setZoom((now) => {
      const from = now === "width" ? 100 : now;
      return direction === 1 ? (zooms.find((z) => z > from) ?? 400) : (zooms.findLast((z) => z < from) ?? 25);
    });
  useKeys({
    "+": () => change(1),
    "=": () => change(1),
    "-": () => change(-1),
    w: () => setZoom("width"),
    r: () => setTurn((t) => (t + 90) % 360),
    "ctrl+f": () => setSearching(true),
  });
  const pictures = Boolean(data?.pictures);
  const isSearchable = pictures || (data !== undefined && data.state !== "unread" && isTyped(data));
  const notice = data?.problem && !problemWords[data.problem.code].stops ? problemWords[data.problem.code] : null;
  return (
    <>
      <div className="bar" role="toolbar" aria-label="Document" style={{ background: "var(--paper-2)" }}>
        {pictures ? (
          <>
            <Button variant="quiet" className="wide-only" aria-label="Smaller" onClick={() => change(-1)}>
              <Dash size={18} />
            </Button>
            <span className="text-2 wide-only" style={{ minWidth: 42, textAlign: "center" }}>
              {zoom === "width" ? "fit" : `${zoom} %`}
            </span>
            <Button variant="quiet" className="wide-only" aria-label="Larger" onClick={() => change(1)}>
              <Plus size={18} />
            </Button>
            <Button variant="quiet" aria-label="Fit width" aria-pressed={zoom === "width"} onClick={() => setZoom("width")}>
              <ArrowsCollapseVertical size={15} style={{ transform: "rotate(90deg)" }} />
            </Button>
            <Button variant="quiet" aria-label="Turn" onClick={() => setTurn((t) => (t + 90) % 360)}>
              <ArrowClockwise size={15} />
            </Button>
          </>
        ) : null}
        <span className="mx-auto text-2">{pictures ? `page ${page} of ${pages.length}` : data ? kindWords(data) : ""}</span>
        {isSearchable ? (
          <Button variant="quiet" aria-label="Search in document" aria-pressed={searching} onClick={() => setSearching((s) => !s)}>
            <Search size={14} />
          </Button>
        ) : null}
        <a className="btn btn-quiet" href={`/api/v1${base}/content?download=1`} aria-label="Download original">
          <Download size={15} />
        </a>
        {end}
      </div>
      {searching && isSearchable ? (
        <form
          className="bar"
          role="search"
          onSubmit={(e) => {
            e.preventDefault();
            step(1);
          }}
        >
          <Form.Control
            size="sm"
            autoFocus={query === ""}
            value={wanted}
            onChange={(e) => {
              setWanted(e.target.value);
              setAt(0);
            }}
            placeholder="Search in document"
            aria-label="Search in document"
            onKeyDown={(e) => {
              if (e.key === "Escape") setSearching(false);
            }}
          />
          <span className="text-2 small" role="status">
            {wanted.trim() === ""
              ? ""
              : pictures && allWords.isPending
                ? "…"
                : hits.length === 0
                  ? "no hits"
                  : `${(at % hits.length) + 1} of ${hits.length}`}
          </span>
          <Button variant="quiet" aria-label="Previous hit" onClick={() => step(-1)} disabled={hits.length === 0}>
            <ChevronUp />
          </Button>
          <Button variant="quiet" aria-label="Next hit" onClick={() => step(1)} disabled={hits.length === 0}>
            <ChevronDown />
          </Button>
          <Button variant="quiet" aria-label="Close search" onClick={() => setSearching(false)}>
            <X size={18} />
          </Button>
        </form>
      ) : null}
      {notice ? (
        <div className="px-3 py-1 small border-bottom" style={{ background: "var(--amber-1)", color: "var(--amber-7)" }}>
          {notice.what} {notice.next}
        </div>
      ) : null}
      {data?.looking && data.pages.length === 0 ? (
        <div className="bar py-1 small" role="status">
          Its pages are being prepared. You can file it meanwhile.
        </div>
      ) : null}
      {data?.looking && pictures ? (
        <div className="bar py-1 small" role="status">
          <span>
            Reading page {Math.min(data.looking.done + 1, pages.length)} of {pages.length}. You can file it meanwhile.
          </span>
          <Button size="sm" variant="quiet" className="ms-auto py-0" onClick={() => stop.mutate()} disabled={stop.isPending}>
            Stop reading
          </Button>
        </div>
      ) : null}
      <div
        className="viewer"
        ref={scroller}
        tabIndex={0}
        aria-label="Pages"
        role="region"
        onScroll={(e) => setPage(pageAt(e.currentTarget))}
      >
        {view.isPending ? (
          <div
            className="sheet-of-paper skeleton"
            style={{ width: "min(100%, 640px)", aspectRatio: "210 / 297", height: "auto" }}
            role="progressbar"
            aria-busy="true"
            aria-label="Loading"
          />
        ) : null}
        {view.isError ? <Trouble {...wordsOf(view.error)} again={() => void view.refetch()} /> : null}
        {data ? <Body data={data} base={base} zoom={zoom} turn={turn} hits={hits} current={current} marks={marks} onPick={onPick} /> : null}
      </div>
    </>
  );
}

function Body({
  data,
  base,
  zoom,
  turn,
  hits,
  current,
  marks,
  onPick,
}: {
  marks: readonly PageMark[];
  onPick: ((picked: PickedWords) => void) | undefined;
  data: ContentView;
  base: string;
  zoom: number | "width";
  turn: number;
  hits: readonly Hit[];
  current: Hit | undefined;
}) {
  if (data.state === "unread")
    return (
      <Empty icon={<Icon name="file-earmark" size={36} />} title="Reading">
        The document is stored and will be shown in a moment. You can already file it.
      </Empty>
    );
  if (data.pictures)
    return data.pages.map((p) => (
      <Page
        key={p.number}
        base={base}
        of={data.of}
        page={p}
        zoom={zoom}
        turn={turn}
        hits={hits.filter((h) => h.page === p.number)}
        current={current}
        marks={marks.filter((m) => m.page === p.number)}
        onPick={onPick}
      />
    ));
  const problem = data.problem ? problemWords[data.problem.code] : null;
  if (data.outline?.kind === "invoice") return <InvoiceView invoice={data.outline.invoice} />;
  const beside = { marks, hits: hits.map((h) => ({ ...h, now: h === current })), onPick };
  if (data.outline?.kind === "mail") return <MailView mail={data.outline} {...beside} />;
  if (data.outline?.kind === "table") return <TableView sheets={data.outline.sheets} {...beside} />;
  if (data.text) return <TextView text={data.text} mono={data.kind === "xml" || data.kind === "text"} {...beside} />;
  return (
    <Empty
      icon={<Icon name={data.problem?.code === "locked" ? "lock" : "broken"} size={36} />}
      title={problem?.what ?? "There is nothing to show."}
    >
      {problem?.next}
      {data.problem?.detail ? <div className="text-3 mt-1">{data.problem.detail}</div> : null}
      <div className="mt-3">
        <a className="btn btn-plain" href={`/api/v1${base}/content?download=1`}>
          Download original
        </a>
      </div>
    </Empty>
  );
}

interface Hit {
  readonly page: number;
  readonly box: readonly [number, number, number, number];
}

function Page({
  base,
  of,
  page,
  zoom,
  turn,
  hits,
  current,
  marks,
  onPick,
}: {
  marks: readonly PageMark[];
  onPick: ((picked: PickedWords) => void) | undefined;
  base: string;
  /** Names the content in the addresses of its pictures and words. */
  of: string;
  page: ContentView["pages"][number];
  zoom: number | "width";
  turn: number;
  hits: readonly Hit[];
  current: Hit | undefined;
}) {
  const holder = useRef<HTMLDivElement>(null);
  const [near, setNear] = useState(page.number <= 2);
  useEffect(() => {
    const element = holder.current;
    if (!element || near) return;
    const observer = new IntersectionObserver(
      (entries) => {
        if (entries.some((e) => e.isIntersecting)) setNear(true);
      },
      { rootMargin: "1200px" },
    );
    observer.observe(element);
    return () => observer.disconnect();
  }, [near]);
  const words = useQuery({
    queryKey: ["words", base, of, page.number, page.words],
    queryFn: ({ signal }) => apiGet<{ words: Word[] }>(`${base}/pages/${page.number}.words?of=${of}`, signal),
    enabled: near && page.words !== "coming",
    staleTime: Infinity,
  });
  const wantedWidth = zoom === "width" ? 900 : (page.width * 96 * zoom) / 7200;
  const width = widths.find((w) => w >= wantedWidth) ?? 2400;
  const share = (n: number, of: number): string => `${(n / of) * 100}%`;
  // A page that was scanned on its side or upside down is shown upright.
  const upright = (turn + page.turn) % 360;
  const turned = upright % 180 !== 0;
  const shape = turned ? `${page.height} / ${page.width}` : `${page.width} / ${page.height}`;
  const outer =
    zoom === "width"
      ? { width: "100%", maxWidth: page.width > page.height ? 1200 : 900 }
      : { width: ((turned ? page.height : page.width) * 96 * zoom) / 7200 };
  return (
    <div
      ref={holder}
      data-page={page.number}
      className="mx-auto mb-3"
      style={{ ...outer, aspectRatio: shape, position: "relative", containerType: "inline-size" }}
    >
      <div
        className="sheet-of-paper"
        style={{
          position: "absolute",
          margin: 0,
          top: "50%",
          left: "50%",
          width: turned ? share(page.width, page.height) : "100%",
          aspectRatio: `${page.width} / ${page.height}`,
          transform: `translate(-50%, -50%) rotate(${upright}deg)`,
          containerType: "inline-size",
        }}
      >
        {near ? (
          <img src={`/api/v1${base}/pages/${page.number}.jpg?width=${width}&of=${of}`} alt={`Page ${page.number}`} draggable={false} />
        ) : null}
        <WordLayer
          page={page}
          words={words.data?.words ?? []}
          hits={hits.map((h) => ({ box: h.box, now: h === current }))}
          marks={marks}
          onPick={onPick}
        />
      </div>
    </div>
  );
}

/** Whether a document is shown as running text or a table. */
const isTyped = (view: ContentView): boolean =>
  view.outline?.kind !== "invoice" && (view.outline?.kind === "mail" || view.outline?.kind === "table" || Boolean(view.text));

/** The words of such a document where they are shown, sheet by sheet. */
const typedPages = ({ outline, text }: ContentView): readonly PageText[] =>
  Array.from({ length: outline?.kind === "table" ? outline.sheets.length : 1 }, (_, i) => typedPage(outline, text, i + 1)).filter(
    (p) => p !== null,
  );

function pageAt(scroller: HTMLElement): number {
  const middle = scroller.getBoundingClientRect().top + scroller.clientHeight / 3;
  let found = 1;
  for (const element of scroller.querySelectorAll<HTMLElement>("[data-page]"))
    if (element.getBoundingClientRect().top <= middle) found = Number(element.dataset["page"]);
  return found;
}

function kindWords(view: ContentView): string {
  if (view.outline?.kind === "mail")
    return view.outline.parts.length > 0 ? `mail, ${countText(view.outline.parts.length, "part")}` : "mail";
  if (view.outline?.kind === "table") return countText(view.outline.sheets.length, "sheet");
  if (view.outline?.kind === "invoice") return `e-invoice, ${view.outline.invoice.syntax}`;
  return view.kind === "docx" ? "Word document, as text" : view.kind === "xml" ? "XML, as text" : view.kind === "text" ? "text" : "";
}
