"use client";
import { useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { useRouter } from "next/navigation";
import { parseAsString, useQueryStates } from "nuqs";
import { useEffect, useRef, useState } from "react";
import { Button, Form } from "react-bootstrap";
import { ArrowLeft, Search, X } from "react-bootstrap-icons";
import { widenFind } from "#core/search/widen-find.ts";
import type { LookupHit } from "#server/records/look-up.ts";
import type { Facet, Found } from "#server/search/find.ts";
import type { WaitingHit } from "#server/search/find-waiting.ts";
import { Where } from "../frame/top-slot.tsx";
import { apiGet, queryOf, wordsOf } from "../kit/api.ts";
import { Columns } from "../kit/columns.tsx";
import { DayFilter } from "../kit/day-input.tsx";
import { Icon, kindIcon } from "../kit/icon.tsx";
import { Link } from "../kit/link.tsx";
import { Empty, Skeletons, Trouble } from "../kit/parts.tsx";
import { useKeys } from "../kit/use-keys.ts";
import { countText, dayText } from "../kit/words.ts";
import { useMe } from "../people/me-context.tsx";
import { usePrefetchPaper, Viewer } from "../pages/viewer.tsx";
import { LookUp } from "../records/look-up.tsx";
import { WaitingHits } from "./waiting-hits.tsx";
import { recordHref } from "../records/record-href.ts";

type FindPage = Found & {
  readonly next: string | null;
  /** Arrivals with these words that are not filed yet. */
  readonly waiting: { readonly items: readonly WaitingHit[]; readonly total: number };
};
/** Accounts offered for what was typed. */
const ACCOUNTS_SHOWN = 2;

/** Finds documents by any word on them; the state is in the address. */
export function FindScreen() {
  const { me, company, recordType, documentType } = useMe();
  const router = useRouter();
  const prefetch = usePrefetchPaper();
  const [state, setState] = useQueryStates({
    q: parseAsString.withDefault(""),
    type: parseAsString.withDefault(""),
    recordType: parseAsString.withDefault(""),
    in: parseAsString.withDefault(""),
    from: parseAsString.withDefault(""),
    to: parseAsString.withDefault(""),
    within: parseAsString.withDefault(""),
    open: parseAsString,
  });
  const input = useRef<HTMLInputElement>(null);
  const [typed, setTyped] = useState(state.q);
  const [step, setStep] = useState(0);
  const wish = {
    q: state.q,
    type: state.type,
    recordType: state.recordType,
    company: state.in || company,
    from: state.from,
    to: state.to,
    within: state.within,
  };
  // Whoever types an account's number or name may want everything of it.
  const named = useQuery({
    queryKey: ["lookup", state.q, company, "find"],
    enabled: state.q.length >= 2 && state.within === "",
    queryFn: ({ signal }) => apiGet<{ items: LookupHit[] }>(`/records/lookup${queryOf({ q: state.q, company, limit: 12 })}`, signal),
  });
  const accounts =
    state.q.length >= 2 && state.within === ""
      ? (named.data?.items ?? []).filter((h) => !h.corrected && recordType(h.type)?.kind === "standing").slice(0, ACCOUNTS_SHOWN)
      : [];
  const withinHit = (h: Pick<LookupHit, "type" | "key">): void => {
    // Its number has done its work: everything of it, not only what bears the number.
    const isItsName = accounts.some((a) => a.type === h.type && a.key === h.key);
    if (isItsName) setTyped("");
    void setState({ within: `${h.type}:${h.key}`, open: null, ...(isItsName ? { q: null } : {}) });
  };
  const found = useInfiniteQuery({
    queryKey: ["find", wish],
    initialPageParam: "",
    getNextPageParam: (last: FindPage) => last.next ?? undefined,
    queryFn: ({ pageParam, signal }) => apiGet<FindPage>(`/find${queryOf({ ...wish, limit: 25, cursor: pageParam })}`, signal),
    placeholderData: (p) => p,
  });
  const first = found.data?.pages[0];
  const items = found.data?.pages.flatMap((p) => p.items) ?? [];
  const alike = widenFind(state.q);
  const index = items.findIndex((d) => d.code === state.open);
  const current = items[index];
  const open = (to: number): void => {
    const next = items[Math.max(0, Math.min(to, items.length - 1))];
    if (next) {
      void setState({ open: next.code });
      document.querySelector(`[data-hit="${next.code}"]`)?.scrollIntoView({ block: "nearest" });
    }
  };
  useEffect(() => {
    for (const near of [items[index + 1], items[index - 1]]) if (near && index !== -1) prefetch(`/documents/${near.code}`);
  });
  useKeys({
    j: () => open(index + 1),
    ArrowDown: () => open(index + 1),
    k: () => open(index - 1),
    ArrowUp: () => open(index - 1),
    "/": () => input.current?.focus(),
    Enter: () => current && router.push(documentHref(current.code)),
    Escape: () => void setState({ open: null }),
  });
  // The words go along, so that they are marked there too.
  const documentHref = (code: string): string => `/documents/${code}${queryOf({ q: state.q })}`;
  const filters = (
    [
      ["type", documentType(state.type)?.label],
      ["recordType", recordType(state.recordType)?.plural],
      ["in", me.companies.find((c) => c.code === state.in)?.name],
      ["from", state.from && `from ${dayText(state.from)}`],
      ["to", state.to && `to ${dayText(state.to)}`],
      ["within", state.within && `everything of ${state.within.slice(state.within.indexOf(":") + 1)}`],
    ] as const
  ).filter(([, label]) => label);
  const facet = (
    title: string,
    name: "type" | "recordType" | "in",
    list: readonly Facet[],
    words: (value: string) => string | undefined,
  ) =>
    list.filter((f) => words(f.value)).length === 0 ? null : (
      <fieldset className="mb-3">
        <legend className="text-2 fw-normal mb-1" style={{ fontSize: "0.8125rem" }}>
          {title}
        </legend>
        {list
          .filter((f) => words(f.value))
          .slice(0, 9)
          .map((f) => (
            <button
              key={f.value}
              type="button"
              aria-pressed={state[name] === f.value}
              className={`btn btn-quiet d-flex w-100 text-start ${state[name] === f.value ? "fw-bold" : ""}`}
              onClick={() => void setState({ [name]: state[name] === f.value ? null : f.value })}
            >
              <span className="text-truncate">{words(f.value)}</span>
              <span className="ms-auto text-3 mono">{f.count.toLocaleString("en-GB")}</span>
            </button>
          ))}
      </fieldset>
    );
  return (
    <div className="d-flex flex-column h-100">
      <Where title="Find" />
      <form
        className="d-flex gap-2 px-4 py-3 border-bottom align-items-center flex-wrap"
        role="search"
        onSubmit={(e) => {
          e.preventDefault();
          void setState({ q: typed.trim() || null, open: null });
        }}
      >
        <div className="position-relative" style={{ flex: "1 1 340px", maxWidth: 640 }}>
          <Search className="position-absolute text-3" style={{ left: 12, top: 10 }} aria-hidden="true" />
          <Form.Control
            ref={input}
            autoFocus
            value={typed}
            style={{ paddingLeft: 36 }}
            placeholder='Any word or number · "exact phrase" · -exclude · begin*'
            aria-label="Search documents"
            onChange={(e) => {
              setTyped(e.target.value);
              void setState({ q: e.target.value.trim() || null, open: null }, { throttleMs: 250 });
            }}
          />
        </div>
        {filters.map(([name, label]) => (
          <button key={name} type="button" className="chip border-0" onClick={() => void setState({ [name]: null })}>
            {label} <X aria-label="remove" />
          </button>
        ))}
        <span className="text-2 ms-auto" role="status">
          {first
            ? first.totalIsExact
              ? countText(first.total, "document")
              : `more than ${first.total.toLocaleString("en-GB")} documents; counts cover the newest`
            : ""}
        </span>
      </form>
      <div style={{ flex: 1, minHeight: 0 }}>
        <Columns
          name="find"
          grows={1}
          step={step === 0 ? 1 : 2}
          sides={{ 0: { start: 230, min: 180, max: 340 }, 2: { start: current ? 460 : 0, min: current ? 300 : 0, max: current ? 800 : 0 } }}
        >
          <aside className="scroll px-3 py-3" aria-label="Filters" tabIndex={0}>
            {facet("Document type", "type", first?.facets.documentType ?? [], (v) => documentType(v)?.label)}
            {facet("Record type", "recordType", first?.facets.recordType ?? [], (v) => recordType(v)?.plural)}
            <div className="mb-1 text-2" style={{ fontSize: "0.8125rem" }}>
              Account or other record
            </div>
            <div className="mb-3">
              <LookUp company={state.in || company} placeholder="Everything of …" onChoose={withinHit} />
            </div>
            {company === undefined && me.companies.length > 1
              ? facet("Company", "in", first?.facets.company ?? [], (v) => me.companies.find((c) => c.code === v)?.name)
              : null}
            <div className="mb-1 text-2" style={{ fontSize: "0.8125rem" }}>
              Dated
            </div>
            <div className="d-grid gap-1">
              <DayFilter label="Dated from" value={state.from} onChange={(from) => void setState({ from })} />
              <DayFilter label="Dated to" value={state.to} onChange={(to) => void setState({ to })} />
            </div>
          </aside>
          <section
            className="scroll px-3"
            aria-label="Documents found"
            tabIndex={0}
            onScroll={(e) => {
              const el = e.currentTarget;
              if (el.scrollHeight - el.scrollTop - el.clientHeight < 800 && found.hasNextPage && !found.isFetchingNextPage)
                void found.fetchNextPage();
            }}
          >
            {found.isPending ? (
              <Skeletons rows={7} height={84} />
            ) : found.isError ? (
              <Trouble {...wordsOf(found.error)} again={() => void found.refetch()} />
            ) : items.length === 0 && first?.waiting.total === 0 ? (
              <Empty icon={<Search size={34} />} title="No document contains all these words">
                {alike === null ? (
                  <>
                    Try fewer words, or the start of a word with an asterisk: <code>shack*</code>
                  </>
                ) : (
                  <Button
                    variant="plain"
                    className="mt-1"
                    onClick={() => {
                      setTyped(alike);
                      void setState({ q: alike });
                    }}
                  >
                    Search by word beginnings: <code>{alike}</code>
                  </Button>
                )}
                {filters.length > 0 ? (
                  <div className="mt-3">
                    <Button
                      variant="plain"
                      onClick={() => void setState({ type: null, recordType: null, in: null, from: null, to: null, within: null })}
                    >
                      Clear filters
                    </Button>
                  </div>
                ) : null}
              </Empty>
            ) : null}
            {accounts.length > 0 ? (
              <div className="d-flex gap-2 flex-wrap py-2">
                {accounts.map((a) => (
                  <Button key={a.id} size="sm" variant="plain" onClick={() => withinHit(a)}>
                    <Icon name={recordType(a.type)?.icon ?? ""} size={13} /> Everything of <span className="mono">{a.key}</span> {a.title}
                  </Button>
                ))}
              </div>
            ) : null}
            {first ? <WaitingHits waiting={first.waiting} /> : null}
            {items.map((d, i) => (
              <article
                key={d.code}
                data-hit={d.code}
                className={`doc-row ${d.code === state.open ? "is-chosen" : ""}`}
                style={{ gridTemplateColumns: "24px minmax(0, 1fr) auto", alignItems: "start", padding: "0.625rem 0.5rem" }}
                onClick={() => {
                  open(i);
                  setStep(1);
                }}
              >
                <span className="pt-1">
                  <Icon name={kindIcon(d.kind)} size={17} />
                </span>
                <div style={{ minWidth: 0 }}>
                  <div className="d-flex gap-2 align-items-baseline">
                    <Link href={documentHref(d.code)} className="name text-reset" onClick={(e) => e.stopPropagation()}>
                      {d.title}
                    </Link>
                    <span className="mono text-3 small">{d.code}</span>
                    {d.state === "outOfSync" ? <span className="chip rust">out of sync</span> : null}
                  </div>
                  <div className="text-2" style={{ overflowWrap: "anywhere" }}>
                    {d.snippet.map((p, n) => (p.hit ? <mark key={n}>{p.text}</mark> : <span key={n}>{p.text}</span>))}
                  </div>
                  <div className="d-flex gap-2 flex-wrap mt-1 small">
                    {d.records.slice(0, 3).map((r) => (
                      <Link key={r.type + r.key} href={recordHref(r)} className="chip" onClick={(e) => e.stopPropagation()}>
                        <Icon name={recordType(r.type)?.icon ?? ""} size={12} /> {r.key}
                      </Link>
                    ))}
                    <span className="text-3">{d.records[0]?.title}</span>
                  </div>
                </div>
                <div className="text-2 small text-end text-nowrap">
                  {documentType(d.documentType)?.label}
                  <div>{dayText(d.documentDate)}</div>
                </div>
              </article>
            ))}
          </section>
          <section className="d-flex flex-column h-100" aria-label="Document">
            {current ? (
              <>
                <div className="bar step-back">
                  <Button variant="quiet" onClick={() => setStep(0)}>
                    <ArrowLeft /> Documents found
                  </Button>
                </div>
                <Viewer
                  base={`/documents/${current.code}`}
                  query={state.q}
                  end={
                    <Button variant="quiet" aria-label="Close document" onClick={() => void setState({ open: null })}>
                      <X size={18} />
                    </Button>
                  }
                />
                <div className="foot">
                  <Link className="btn btn-plain" href={documentHref(current.code)}>
                    Open <kbd>Enter</kbd>
                  </Link>
                  {current.records[0] ? (
                    <Link className="btn btn-plain" href={recordHref(current.records[0])}>
                      Record
                    </Link>
                  ) : null}
                </div>
              </>
            ) : null}
          </section>
        </Columns>
      </div>
    </div>
  );
}
