"use client";
import { useInfiniteQuery, useMutation, useQueryClient } from "@tanstack/react-query";
import { parseAsString, useQueryStates } from "nuqs";
import { useState } from "react";
import { Button, Form, Table } from "react-bootstrap";
import { ClockHistory, Download, JournalText } from "react-bootstrap-icons";
import { problemWords } from "#core/arrivals/problems.ts";
import type { ArrivalAnswer } from "#server/arrivals/list-arrivals.ts";
import { Where } from "../frame/top-slot.tsx";
import { apiGet, apiSend, queryOf, wordsOf } from "../kit/api.ts";
import { DayFilter } from "../kit/day-input.tsx";
import { Link } from "../kit/link.tsx";
import { useNotices } from "../kit/notices.tsx";
import { Empty, Skeletons, Trouble, When } from "../kit/parts.tsx";
import { countText, sizeText, sourceWords, stateWords } from "../kit/words.ts";
import { useMe } from "../people/me-context.tsx";
import { TimelineDialog } from "../timeline/timeline-dialog.tsx";

interface RegisterPage {
  readonly items: readonly ArrivalAnswer[];
  readonly next: string | null;
  readonly total: number;
}

/** Every arrival there ever was, and what became of it. */
export function RegisterScreen() {
  const { me, company } = useMe();
  const notices = useNotices();
  const client = useQueryClient();
  const [filter, setFilter] = useQueryStates({
    q: parseAsString.withDefault(""),
    state: parseAsString.withDefault(""),
    queue: parseAsString.withDefault(""),
    source: parseAsString.withDefault(""),
    from: parseAsString.withDefault(""),
    to: parseAsString.withDefault(""),
    sort: parseAsString.withDefault("newest"),
  });
  const [timelineOf, setTimelineOf] = useState<ArrivalAnswer | null>(null);
  const wish = { ...filter, company };
  const list = useInfiniteQuery({
    queryKey: ["register", wish],
    initialPageParam: "",
    getNextPageParam: (last: RegisterPage) => last.next ?? undefined,
    placeholderData: (p) => p,
    queryFn: ({ pageParam, signal }) => apiGet<RegisterPage>(`/register${queryOf({ ...wish, limit: 100, cursor: pageParam })}`, signal),
  });
  const restore = useMutation({
    mutationFn: (id: string) => apiSend("POST", `/arrivals/${id}/restore`, { reason: "" }),
    onSuccess: () => {
      notices.done("Back in Arrivals");
      void client.invalidateQueries({ queryKey: ["register"] });
      void client.invalidateQueries({ queryKey: ["arrivals"] });
      void client.invalidateQueries({ queryKey: ["arrivalCounts"] });
    },
    onError: notices.wrong,
  });
  const items = list.data?.pages.flatMap((p) => p.items) ?? [];
  const csv = async (): Promise<void> => {
    const response = await fetch(`/api/v1/register${queryOf(wish)}`, { headers: { accept: "text/csv" } });
    const link = document.createElement("a");
    link.href = URL.createObjectURL(await response.blob());
    link.download = "register.csv";
    link.click();
    setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
  };
  const head = (label: string, sort: string) => (
    <th scope="col" aria-sort={filter.sort === sort ? "other" : undefined}>
      <button type="button" className="sort" onClick={() => void setFilter({ sort })}>
        {label}
        {filter.sort === sort ? " ▾" : ""}
      </button>
    </th>
  );
  return (
    <div className="d-flex flex-column h-100">
      <Where title="Register">
        <span className="chip">{countText(list.data?.pages[0]?.total ?? 0, "arrival")}</span>
        <Link href="/arrivals" className="chip">
          Arrivals
        </Link>
        <Link href="/arrivals/automatic-filing" className="chip aside">
          Filed automatically
        </Link>
      </Where>
      <div className="bar flex-wrap py-2">
        <Form.Control
          size="sm"
          type="search"
          style={{ width: 220 }}
          placeholder="Name, sender or note"
          aria-label="Name, sender or note"
          defaultValue={filter.q}
          onChange={(e) => void setFilter({ q: e.target.value || null }, { throttleMs: 250 })}
        />
        <Form.Select
          size="sm"
          style={{ width: 150 }}
          aria-label="Outcome"
          value={filter.state}
          onChange={(e) => void setFilter({ state: e.target.value || null })}
        >
          <option value="">All states</option>
          {Object.entries(stateWords).map(([k, w]) => (
            <option key={k} value={k}>
              {w}
            </option>
          ))}
        </Form.Select>
        <Form.Select
          size="sm"
          style={{ width: 140 }}
          aria-label="Queue"
          value={filter.queue}
          onChange={(e) => void setFilter({ queue: e.target.value || null })}
        >
          <option value="">All queues</option>
          {me.queues.map((q) => (
            <option key={q.key} value={q.key}>
              {q.label}
            </option>
          ))}
        </Form.Select>
        <Form.Select
          size="sm"
          style={{ width: 140 }}
          aria-label="Source"
          value={filter.source}
          onChange={(e) => void setFilter({ source: e.target.value || null })}
        >
          <option value="">All sources</option>
          {Object.entries(sourceWords).map(([k, w]) => (
            <option key={k} value={k}>
              {w}
            </option>
          ))}
        </Form.Select>
        <DayFilter label="From" value={filter.from} onChange={(from) => void setFilter({ from })} />
        <DayFilter label="To" value={filter.to} onChange={(to) => void setFilter({ to })} />
        <Button variant="plain" size="sm" className="ms-auto" onClick={() => void csv()}>
          <Download /> CSV
        </Button>
      </div>
      <div className="scroll px-3" tabIndex={0} role="region" aria-label="Register">
        {list.isPending ? (
          <Skeletons rows={10} height={44} />
        ) : list.isError ? (
          <Trouble {...wordsOf(list.error)} again={() => void list.refetch()} />
        ) : items.length === 0 ? (
          <Empty icon={<JournalText size={36} />} title="No arrivals match">
            <Button variant="plain" className="mt-2" onClick={() => void setFilter(null)}>
              Show all
            </Button>
          </Empty>
        ) : (
          <Table hover style={{ tableLayout: "fixed" }}>
            <colgroup>
              {[56, 108, null, null, 108, 64, 76, null, 112].map((width, i) => (
                <col key={i} style={width === null ? {} : { width }} />
              ))}
            </colgroup>
            <thead>
              <tr>
                <th scope="col" className="text-end">
                  No.
                </th>
                {head("Received", "newest")}
                {head("File", "name")}
                <th scope="col">From</th>
                <th scope="col">Queue</th>
                {head("Pages", "pages")}
                {head("Size", "largest")}
                <th scope="col">Outcome</th>
                <th scope="col">
                  <span className="visually-hidden">Actions</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {items.map((a) => (
                <tr key={a.id}>
                  <td className="num text-3">{a.number}</td>
                  <td className="text-nowrap">
                    <When at={a.receivedAt} />
                  </td>
                  <td>
                    <div className="text-truncate fw-bold" title={a.fileName}>
                      {a.fileName}
                    </div>
                  </td>
                  <td>
                    <div className="text-truncate text-2">
                      {[a.sender?.replace(/\s*<[^>]*>$/, "") ?? a.receivedBy, sourceWords[a.source]].filter(Boolean).join(" · ")}
                    </div>
                  </td>
                  <td className="text-truncate">{me.queues.find((q) => q.key === a.queue)?.label ?? a.queue}</td>
                  <td className="num">{a.pages ?? ""}</td>
                  <td className="num">{sizeText(a.bytes)}</td>
                  <td>
                    <div className="d-flex gap-2 align-items-center" style={{ minWidth: 0 }}>
                      {a.state === "filed" ? (
                        a.document ? (
                          <Link className="text-truncate" href={`/documents/${a.document}`} title={a.documentPath ?? ""}>
                            {a.documentTitle}
                          </Link>
                        ) : (
                          <span className="chip moss">filed</span>
                        )
                      ) : a.state === "ready" || a.state === "failed" ? (
                        <Link href={`/arrivals?at=${a.id}`} className={`chip ${a.state === "failed" ? "rust" : ""}`}>
                          {a.problem ? problemWords[a.problem.code].short : "waiting"}
                        </Link>
                      ) : (
                        <span className={`chip ${a.state === "setAside" ? "plum" : ""}`}>{stateWords[a.state]}</span>
                      )}
                      {a.state === "setAside" ? (
                        <span className="text-2 text-truncate">{[a.endReason, a.endedBy].filter(Boolean).join(" · ")}</span>
                      ) : null}
                    </div>
                  </td>
                  <td className="text-end text-nowrap">
                    {a.state === "setAside" && (me.may.file || me.may.add) ? (
                      <Button size="sm" variant="plain" onClick={() => restore.mutate(a.id)} disabled={restore.isPending}>
                        Restore
                      </Button>
                    ) : null}
                    <Button
                      size="sm"
                      variant="quiet"
                      onClick={() => setTimelineOf(a)}
                      aria-label={`Timeline of ${a.fileName}`}
                      title="Timeline"
                    >
                      <ClockHistory size={15} />
                    </Button>
                  </td>
                </tr>
              ))}
            </tbody>
          </Table>
        )}
        {list.hasNextPage ? (
          <div className="text-center py-3">
            <Button variant="plain" onClick={() => void list.fetchNextPage()} disabled={list.isFetchingNextPage}>
              Show more
            </Button>
          </div>
        ) : null}
      </div>
      <TimelineDialog
        path={timelineOf ? `/arrivals/${timelineOf.id}/timeline` : null}
        title={timelineOf?.fileName ?? ""}
        onHide={() => setTimelineOf(null)}
      />
    </div>
  );
}
