"use client";
import { useInfiniteQuery } from "@tanstack/react-query";
import { useRouter } from "next/navigation";
import { useState } from "react";
import { parseAsString, parseAsStringLiteral, useQueryStates } from "nuqs";
import { Button, Form, Table } from "react-bootstrap";
import { X } from "react-bootstrap-icons";
import type { PackWish } from "#server/packs/choose-records.ts";
import type { RecordRow } from "#server/records/list-records.ts";
import { ClipMark } from "../checklists/clip-mark.tsx";
import { Where } from "../frame/top-slot.tsx";
import { apiGet, queryOf, wordsOf } from "../kit/api.ts";
import { Icon } from "../kit/icon.tsx";
import { Link } from "../kit/link.tsx";
import { useNotices } from "../kit/notices.tsx";
import { saveCsv } from "../kit/save-csv.ts";
import { moreOnScroll } from "../kit/more-on-scroll.ts";
import { useTicks } from "../kit/use-ticks.ts";
import { Empty, Skeletons, Trouble } from "../kit/parts.tsx";
import { amountText, countText, dayText } from "../kit/words.ts";
import { useMe } from "../people/me-context.tsx";
import { dayWindows, windowOf } from "./day-windows.ts";
import { SavedFilters } from "./saved-filters.tsx";
import { PackDialog } from "../packs/pack-dialog.tsx";
import { PrintCodes } from "./print-codes.tsx";
import { recordHref } from "./record-href.ts";

const sorts = ["recent", "key", "title", "date", "amount", "papers"] as const;
interface RecordsPage {
  readonly items: readonly RecordRow[];
  readonly next: string | null;
  readonly total: number;
  readonly totalIsExact: boolean;
}

const idOf = (r: RecordRow): string => `${r.company} ${r.type} ${r.key}`;

/** Records of a type, sorted and filtered; the state is in the address. */
export function RecordsListScreen({ typeKey }: { typeKey: string }) {
  const { me, company, recordType } = useMe();
  const [printing, setPrinting] = useState(false);
  const [packing, setPacking] = useState(false);
  const notices = useNotices();
  const router = useRouter();
  const type = recordType(typeKey);
  const [filter, setFilter] = useQueryStates({
    q: parseAsString.withDefault(""),
    status: parseAsString.withDefault(""),
    parent: parseAsString.withDefault(""),
    company: parseAsString.withDefault(""),
    checklist: parseAsStringLiteral(["missing", "complete"] as const),
    when: parseAsString.withDefault(""),
    sort: parseAsStringLiteral(sorts).withDefault("recent"),
    order: parseAsStringLiteral(["up", "down"] as const),
  });
  const { when, ...asked } = filter;
  const wish = { ...asked, ...windowOf(when), type: typeKey, company: filter.company || company };
  const list = useInfiniteQuery({
    queryKey: ["records", wish],
    initialPageParam: "",
    getNextPageParam: (last: RecordsPage) => last.next ?? undefined,
    queryFn: ({ pageParam, signal }) => apiGet<RecordsPage>(`/records${queryOf({ ...wish, limit: 60, cursor: pageParam })}`, signal),
    placeholderData: (p) => p,
  });
  const items = list.data?.pages.flatMap((p) => p.items) ?? [];
  const { ticked, chosen, tick, tickAll } = useTicks(items, idOf);
  const head = (label: string, sort: (typeof sorts)[number], numeric = false) => {
    const on = filter.sort === sort;
    const down = filter.order ? filter.order === "down" : sort === "date";
    return (
      <th scope="col" className={numeric ? "text-end" : ""} aria-sort={on ? (down ? "descending" : "ascending") : "none"}>
        <button type="button" className="sort" onClick={() => void setFilter({ sort, order: on && down ? "up" : "down" })}>
          {label}
          {on ? (down ? " ▾" : " ▴") : ""}
        </button>
      </th>
    );
  };
  if (!type)
    return (
      <Empty icon={<Icon name="journals" size={36} />} title="This record type does not exist">
        <Link href="/records">Go to records</Link>
      </Empty>
    );
  const statuses = [...new Set(items.map((r) => r.status).filter((s): s is string => s !== null))].sort();
  return (
    <div className="d-flex flex-column h-100">
      <Where title={type.plural}>
        <span className="chip">
          {list.data?.pages[0]?.totalIsExact === false ? "more than " : ""}
          {countText(list.data?.pages[0]?.total ?? 0, "record")}
        </span>
        {filter.parent ? (
          <button type="button" className="chip amber border-0" onClick={() => void setFilter({ parent: null, company: null })}>
            of {filter.parent.slice(filter.parent.indexOf(":") + 1)} <X aria-label="remove" />
          </button>
        ) : null}
        <Link href="/records" className="chip aside">
          All types
        </Link>
      </Where>
      <div className="bar">
        <Form.Control
          size="sm"
          type="search"
          autoFocus
          style={{ width: 320 }}
          placeholder={`Filter ${type.plural.toLowerCase()} by any field`}
          aria-label="Filter by any field"
          defaultValue={filter.q}
          onChange={(e) => void setFilter({ q: e.target.value || null }, { throttleMs: 200 })}
        />
        <Form.Select
          size="sm"
          style={{ width: 150 }}
          aria-label="Status"
          value={filter.status}
          onChange={(e) => void setFilter({ status: e.target.value || null })}
        >
          <option value="">Every status</option>
          {[...new Set([...statuses, ...(filter.status ? [filter.status] : [])])].map((s) => (
            <option key={s}>{s}</option>
          ))}
        </Form.Select>
        {type.dateField ? (
          <Form.Select
            size="sm"
            style={{ width: 170 }}
            aria-label="Date"
            value={filter.when}
            onChange={(e) => void setFilter({ when: e.target.value || null })}
          >
            <option value="">Any date</option>
            {dayWindows.map((w) => (
              <option key={w.key} value={w.key}>
                {w.label}
              </option>
            ))}
          </Form.Select>
        ) : null}
        <Form.Select
          size="sm"
          style={{ width: 170 }}
          aria-label="Checklist"
          value={filter.checklist ?? ""}
          onChange={(e) =>
            void setFilter({ checklist: e.target.value === "missing" || e.target.value === "complete" ? e.target.value : null })
          }
        >
          <option value="">Any completeness</option>
          <option value="missing">Incomplete</option>
          <option value="complete">Complete</option>
        </Form.Select>
        <span className="ms-auto" />
        <SavedFilters
          type={typeKey}
          query={Object.fromEntries(
            Object.entries({
              q: filter.q,
              status: filter.status,
              parent: filter.parent,
              checklist: filter.checklist ?? "",
              when,
              sort: filter.sort === "recent" ? "" : filter.sort,
            }).filter(([, v]) => v !== ""),
          )}
        />
        <Button
          size="sm"
          variant="quiet"
          disabled={items.length === 0}
          onClick={() => void saveCsv(`/api/v1/records${queryOf(wish)}`, `${typeKey}.csv`).catch(notices.wrong)}
        >
          CSV
        </Button>
        <Button size="sm" variant="plain" disabled={items.length === 0} onClick={() => setPacking(true)}>
          {chosen.length > 0 ? "Pack selected" : "Pack all"}
        </Button>
        {chosen.length > 0 ? (
          <>
            <strong>{chosen.length} selected</strong>
            {me.may.file ? (
              <Button size="sm" variant="plain" onClick={() => setPrinting(true)}>
                Print cover sheets or labels
              </Button>
            ) : null}
          </>
        ) : null}
      </div>
      {packing ? (
        <PackDialog
          records={chosen}
          filter={
            Object.fromEntries(
              Object.entries({
                type: typeKey,
                company: wish.company,
                q: filter.q,
                status: filter.status,
                parent: filter.parent,
                checklist: filter.checklist,
                from: wish.from,
                to: wish.to,
              }).filter(([, v]) => v),
            ) as PackWish["filter"]
          }
          total={list.data?.pages[0]?.total ?? 0}
          canChain={type.kind === "passing"}
          onHide={() => setPacking(false)}
        />
      ) : null}
      {printing ? <PrintCodes records={chosen} onHide={() => setPrinting(false)} /> : null}
      <div className="scroll px-3" tabIndex={0} role="region" aria-label={type.plural} onScroll={moreOnScroll(list)}>
        {list.isPending ? (
          <Skeletons rows={10} height={40} />
        ) : list.isError ? (
          <Trouble {...wordsOf(list.error)} again={() => void list.refetch()} />
        ) : items.length === 0 ? (
          <Empty icon={<Icon name={type.icon} size={36} />} title={`No ${type.plural.toLowerCase()} match`}>
            {filter.q || filter.status ? (
              <Button variant="plain" className="mt-2" onClick={() => void setFilter(null)}>
                Show all
              </Button>
            ) : (
              "They come from the business system."
            )}
          </Empty>
        ) : (
          <Table hover>
            <thead>
              <tr>
                <th scope="col" style={{ width: 34 }}>
                  <Form.Check
                    aria-label="Select all shown"
                    checked={chosen.length > 0 && chosen.length === items.length}
                    onChange={(e) => tickAll(e.target.checked)}
                  />
                </th>
                {head("Number", "key")}
                {head("Title", "title")}
                {type.parent.length > 0 ? <th scope="col">Account</th> : null}
                <th scope="col">Status</th>
                {type.dateField ? head("Date", "date") : null}
                {type.fields.some((f) => f.kind === "amount") ? head("Amount", "amount", true) : null}
                {head("Documents", "papers", true)}
                <th scope="col">Checklist</th>
              </tr>
            </thead>
            <tbody>
              {items.map((r, i) => (
                <tr
                  key={r.company + r.key}
                  className={ticked.has(idOf(r)) ? "is-chosen" : ""}
                  style={{ cursor: "pointer" }}
                  onClick={() => router.push(recordHref(r))}
                >
                  <td
                    onClick={(e) => {
                      e.stopPropagation();
                      tick(i, e.shiftKey);
                    }}
                  >
                    <Form.Check aria-label={`Select ${r.key}`} checked={ticked.has(idOf(r))} readOnly />
                  </td>
                  <td className="text-nowrap">
                    <Link href={recordHref(r)} className="mono fw-bold" onClick={(e) => e.stopPropagation()}>
                      {r.key}
                    </Link>
                    {company === undefined ? <span className="text-3 small ms-2">{r.company}</span> : null}
                  </td>
                  <td style={{ maxWidth: 380 }}>
                    <div className="text-truncate">{r.title}</div>
                  </td>
                  {type.parent.length > 0 ? (
                    <td style={{ maxWidth: 220 }}>
                      <div className="text-truncate text-2">{r.parent?.title ?? "none"}</div>
                    </td>
                  ) : null}
                  <td>{r.status ? <span className="chip">{r.status}</span> : null}</td>
                  {type.dateField ? <td className="text-nowrap">{dayText(r.date)}</td> : null}
                  {type.fields.some((f) => f.kind === "amount") ? <td className="num">{amountText(r.amount, r.currency)}</td> : null}
                  <td className="num">{r.documents || <span className="text-3">0</span>}</td>
                  <td className="text-nowrap">
                    {r.checklist ? (
                      <span
                        title={
                          r.checklist.missing > 0
                            ? `${r.checklist.missing} missing`
                            : r.checklist.done < r.checklist.of
                              ? "received"
                              : "complete"
                        }
                      >
                        <ClipMark
                          state={r.checklist.missing > 0 ? "outstanding" : r.checklist.done < r.checklist.of ? "received" : "complete"}
                          size={16}
                          label={
                            r.checklist.missing > 0
                              ? "documents outstanding"
                              : r.checklist.done < r.checklist.of
                                ? "documents to accept"
                                : "complete"
                          }
                        />{" "}
                        {r.checklist.done} of {r.checklist.of}
                      </span>
                    ) : null}
                  </td>
                </tr>
              ))}
            </tbody>
          </Table>
        )}
      </div>
    </div>
  );
}
