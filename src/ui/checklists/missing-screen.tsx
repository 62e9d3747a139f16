"use client";
import { useInfiniteQuery, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useRouter } from "next/navigation";
import { parseAsString, parseAsStringLiteral, useQueryStates } from "nuqs";
import { useState } from "react";
import { Button, ButtonGroup, Form, Table } from "react-bootstrap";
import { Bell, Paperclip, X } from "react-bootstrap-icons";
import type { ItemState } from "#core/checklists/checklist-state.ts";
import type { MissingCounts, MissingRow, MissingView } from "#server/checklists/list-missing.ts";
import { Where } from "../frame/top-slot.tsx";
import { apiGet, apiSend, queryOf, wordsOf } from "../kit/api.ts";
import { Link } from "../kit/link.tsx";
import { useNotices } from "../kit/notices.tsx";
import { Empty, Skeletons, Trouble, When } from "../kit/parts.tsx";
import { saveCsv } from "../kit/save-csv.ts";
import { moreOnScroll } from "../kit/more-on-scroll.ts";
import { useTicks } from "../kit/use-ticks.ts";
import { useKeys } from "../kit/use-keys.ts";
import { countText, todayText } from "../kit/words.ts";
import { useMe } from "../people/me-context.tsx";
import { recordHref } from "../records/record-href.ts";
import { ClipMark, itemStateWords } from "./clip-mark.tsx";
import { itemHint } from "./item-words.ts";

const views = ["missing", "due", "received", "expiring", "expired"] as const satisfies readonly MissingView[];
const viewWords: Readonly<Record<MissingView, string>> = {
  missing: "Outstanding",
  due: "Due",
  received: "Received",
  expiring: "Expiring",
  expired: "Expired",
};
const nothing: Readonly<Record<MissingView, string>> = {
  missing: "Nothing is outstanding",
  due: "Nothing is due",
  received: "No document is waiting for acceptance",
  expiring: "Nothing expires in the next 60 days",
  expired: "Nothing has expired",
};
interface MissingPage {
  readonly items: readonly MissingRow[];
  readonly next: string | null;
}
const idOf = (r: MissingRow): string => `${r.company} ${r.type} ${r.key}`;
const refOf = ({ company, type, key }: MissingRow) => ({ company, type, key });

/** What is missing, received or about to lapse, over all records: first what is due first. */
export function MissingScreen() {
  const { me, company, recordType } = useMe();
  const notices = useNotices();
  const client = useQueryClient();
  const router = useRouter();
  const [filter, setFilter] = useQueryStates({
    view: parseAsStringLiteral(views).withDefault("missing"),
    type: parseAsString.withDefault(""),
    item: parseAsString.withDefault(""),
    who: parseAsString.withDefault(""),
    parent: parseAsString.withDefault(""),
    q: parseAsString.withDefault(""),
  });
  const [at, setAt] = useState(0);
  const wish = {
    view: filter.view,
    type: filter.type,
    item: filter.type === "" ? "" : filter.item,
    company,
    responsible: filter.who,
    parent: filter.parent,
    q: filter.q,
  };
  const list = useInfiniteQuery({
    queryKey: ["missing", wish],
    initialPageParam: "",
    getNextPageParam: (page: MissingPage) => page.next ?? undefined,
    queryFn: ({ pageParam, signal }) =>
      apiGet<MissingPage>(`/checklists/missing${queryOf({ ...wish, limit: 60, cursor: pageParam })}`, signal),
    placeholderData: (p) => p,
  });
  const counts = useQuery({
    queryKey: ["missing", "counts", filter.type, company, filter.who],
    queryFn: ({ signal }) =>
      apiGet<MissingCounts>(`/checklists/counts${queryOf({ type: filter.type, company, responsible: filter.who })}`, signal),
  });
  const people = useQuery({
    queryKey: ["answering"],
    queryFn: ({ signal }) => apiGet<{ items: readonly { id: string; name: string }[] }>("/checklists/people", signal),
  });
  const rows = list.data?.pages.flatMap((p) => p.items) ?? [];
  const { ticked, chosen, tick, tickAll } = useTicks(rows, idOf);
  const again = (): void => void client.invalidateQueries({ queryKey: ["missing"] });
  const remind = useMutation({
    mutationFn: (of: readonly MissingRow[]) =>
      apiSend<{ reminded: number; people: number; nobody: string[] }>("POST", "/checklists/remind", { records: of.map(refOf) }),
    onSuccess: (done) => {
      notices.done(
        done.reminded === 0
          ? "Nobody is responsible for these records"
          : `${countText(done.people, "person", "people")} reminded about ${countText(done.reminded, "record")}`,
        done.nobody.length > 0
          ? {
              more: `Nobody is responsible for ${done.nobody.slice(0, 5).join(", ")}${done.nobody.length > 5 ? ` and ${done.nobody.length - 5} more` : ""}`,
            }
          : {},
      );
      tickAll(false);
      again();
    },
    onError: notices.wrong,
  });
  const answer = useMutation({
    mutationFn: ({ of, person }: { of: readonly MissingRow[]; person: string | null }) =>
      apiSend<{ done: number }>("POST", "/checklists/responsible", { records: of.map(refOf), person }),
    onSuccess: ({ done }, { person }) => {
      notices.done(
        `${people.data?.items.find((p) => p.id === person)?.name ?? "As on the parent account"} is responsible for ${countText(done, "record")}`,
      );
      tickAll(false);
      again();
    },
    onError: notices.wrong,
  });
  const total = (view: MissingView): number =>
    (counts.data?.types ?? []).filter((t) => filter.type === "" || t.type === filter.type).reduce((sum, t) => sum + t[view], 0);
  const current = rows[Math.min(at, rows.length - 1)];
  useKeys({
    j: () => setAt((n) => Math.min(n + 1, rows.length - 1)),
    k: () => setAt((n) => Math.max(0, n - 1)),
    x: () => tick(Math.min(at, rows.length - 1), false),
    Enter: () => current && router.push(recordHref(current)),
  });
  const today = todayText();
  const csv = (): void => {
    saveCsv(`/api/v1/checklists/missing${queryOf(wish)}`, `${filter.view}.csv`).catch(notices.wrong);
  };
  return (
    <div className="d-flex flex-column h-100">
      <Where title="Missing documents">
        <Link href="/records" className="chip aside">
          All records
        </Link>
        {filter.parent ? (
          <button type="button" className="chip amber border-0" onClick={() => void setFilter({ parent: null })}>
            of {filter.parent.slice(filter.parent.indexOf(":") + 1)} <X aria-label="remove" />
          </button>
        ) : null}
      </Where>
      <div className="bar flex-wrap py-2">
        <ButtonGroup aria-label="Filters" className="flex-wrap">
          {views.map((v) => (
            <Button
              key={v}
              variant="plain"
              className={filter.view === v ? "btn-on" : ""}
              aria-pressed={filter.view === v}
              onClick={() => void setFilter({ view: v })}
            >
              {viewWords[v]} {total(v).toLocaleString("en-GB")}
            </Button>
          ))}
        </ButtonGroup>
        <Form.Select
          size="sm"
          style={{ width: 200 }}
          aria-label="Record type"
          value={filter.type}
          onChange={(e) => void setFilter({ type: e.target.value || null, item: null })}
        >
          <option value="">Every record type</option>
          {(counts.data?.types ?? []).map((t) => (
            <option key={t.type} value={t.type}>
              {recordType(t.type)?.plural} ({t[filter.view]})
            </option>
          ))}
        </Form.Select>
        {filter.type !== "" && (counts.data?.items.length ?? 0) > 0 ? (
          <Form.Select
            size="sm"
            style={{ width: 210 }}
            aria-label="Item"
            value={filter.item}
            onChange={(e) => void setFilter({ item: e.target.value || null })}
          >
            <option value="">Every item</option>
            {counts.data?.items.map((i) => (
              <option key={i.key} value={i.key}>
                {i.label} ({filter.view === "received" ? i.received : filter.view === "expired" ? i.expired : i.missing})
              </option>
            ))}
          </Form.Select>
        ) : null}
        <Form.Select
          size="sm"
          style={{ width: 170 }}
          aria-label="Responsible"
          value={filter.who}
          onChange={(e) => void setFilter({ who: e.target.value || null })}
        >
          <option value="">Anybody responsible</option>
          <option value={me.id}>Me</option>
          <option value="none">Nobody responsible</option>
          {people.data?.items
            .filter((p) => p.id !== me.id)
            .map((p) => (
              <option key={p.id} value={p.id}>
                {p.name}
              </option>
            ))}
        </Form.Select>
        <Form.Control
          size="sm"
          type="search"
          style={{ width: 190 }}
          placeholder="Any field"
          aria-label="Filter by any field"
          defaultValue={filter.q}
          onChange={(e) => void setFilter({ q: e.target.value || null }, { throttleMs: 250 })}
        />
        {chosen.length === 0 ? (
          <Button size="sm" variant="quiet" className="ms-auto" disabled={rows.length === 0} onClick={csv}>
            CSV
          </Button>
        ) : null}
      </div>
      {chosen.length > 0 ? (
        <div className="bar">
          <strong>{chosen.length} selected</strong>
          <Button size="sm" disabled={remind.isPending} onClick={() => remind.mutate(chosen)}>
            <Bell /> Remind responsible
          </Button>
          <Form.Select
            size="sm"
            style={{ width: 220 }}
            aria-label="Set responsible"
            value=""
            onChange={(e) =>
              e.target.value !== "" && answer.mutate({ of: chosen, person: e.target.value === "none" ? null : e.target.value })
            }
          >
            <option value="">Set responsible …</option>
            {people.data?.items.map((p) => (
              <option key={p.id} value={p.id}>
                {p.name}
              </option>
            ))}
            <option value="none">As on the parent account</option>
          </Form.Select>
          <Button size="sm" variant="quiet" className="ms-auto" onClick={() => tickAll(false)}>
            Clear selection
          </Button>
        </div>
      ) : null}
      <div className="scroll px-3" tabIndex={0} role="region" aria-label="Records with outstanding items" onScroll={moreOnScroll(list)}>
        {list.isPending ? (
          <Skeletons rows={10} height={48} />
        ) : list.isError ? (
          <Trouble {...wordsOf(list.error)} again={() => void list.refetch()} />
        ) : rows.length === 0 ? (
          <Empty icon={<Paperclip size={34} />} title={nothing[filter.view]}>
            {filter.type || filter.who || filter.q || filter.parent ? (
              <Button
                variant="plain"
                className="mt-2"
                onClick={() => void setFilter({ type: null, item: null, who: null, q: null, parent: null })}
              >
                Show all records
              </Button>
            ) : null}
          </Empty>
        ) : (
          <Table hover className="stacks">
            <thead>
              <tr>
                <th scope="col" style={{ width: 34 }}>
                  <Form.Check
                    aria-label="Select all shown"
                    checked={chosen.length > 0 && chosen.length === rows.length}
                    onChange={(e) => tickAll(e.target.checked)}
                  />
                </th>
                <th scope="col">Record</th>
                <th scope="col">{viewWords[filter.view]}</th>
                <th scope="col">Responsible</th>
              </tr>
            </thead>
            <tbody>
              {rows.map((r, i) => (
                <tr
                  key={idOf(r)}
                  className={`${ticked.has(idOf(r)) ? "is-chosen" : ""} ${r === current ? "is-current" : ""}`}
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
                  <td style={{ maxWidth: 380 }}>
                    <Link href={recordHref(r)} className="mono fw-bold" onClick={(e) => e.stopPropagation()}>
                      {r.key}
                    </Link>{" "}
                    <span className="text-2 small">{recordType(r.type)?.label}</span>
                    <div className="text-truncate">
                      {r.title}
                      {r.parent && !r.title.includes(r.parent.title) ? <span className="text-2"> · {r.parent.title}</span> : null}
                    </div>
                  </td>
                  <td>
                    <div className="marks">
                      {r.items.map((item) => {
                        const hint = itemHint(item, today);
                        const state = item.state as ItemState;
                        return (
                          <span key={item.key} title={item.missing || itemStateWords[state]}>
                            <ClipMark state={state} size={17} label={itemStateWords[state]} />
                            {item.label}
                            {hint.words ? (
                              <span className={`small ${hint.isUrgent ? (state === "expired" ? "expired-words" : "problem") : "text-2"}`}>
                                {hint.words}
                              </span>
                            ) : null}
                          </span>
                        );
                      })}
                    </div>
                  </td>
                  <td className="text-nowrap">
                    {r.responsible?.name ?? <span className="text-2">nobody</span>}
                    {r.remindedAt ? (
                      <div className="text-2 small">
                        <Bell size={11} aria-hidden="true" /> reminded <When at={r.remindedAt} />
                      </div>
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
