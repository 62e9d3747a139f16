"use client";
import { useQuery } from "@tanstack/react-query";
import { useRouter } from "next/navigation";
import { Inboxes } from "react-bootstrap-icons";
import type { LookupHit } from "#server/records/look-up.ts";
import type { Found } from "#server/search/find.ts";
import { DropArea } from "../arrivals/drop-area.tsx";
import { SwitchedOff } from "./switched-off.tsx";
import { MissingPapers } from "./missing-papers.tsx";
import { OutOfSync } from "./out-of-sync.tsx";
import { DraftsOpen } from "./drafts-open.tsx";
import { Where } from "../frame/top-slot.tsx";
import { apiGet, queryOf } from "../kit/api.ts";
import { Icon, kindIcon } from "../kit/icon.tsx";
import { Link } from "../kit/link.tsx";
import { Skeletons } from "../kit/parts.tsx";
import { countText, dayText } from "../kit/words.ts";
import { useMe } from "../people/me-context.tsx";
import { LookUp } from "../records/look-up.tsx";
import { KeptFilterCounts } from "../records/saved-filters.tsx";
import { recordHref } from "../records/record-href.ts";

interface QueueCount {
  readonly queue: string;
  readonly open: number;
  readonly ready: number;
  readonly failed: number;
}

/** A person's start page: what waits for them, what they used last, and the way to everything else. */
export function DeskScreen() {
  const { me, company, recordType, documentType } = useMe();
  const router = useRouter();
  const counts = useQuery({
    queryKey: ["arrivalCounts"],
    queryFn: ({ signal }) => apiGet<{ items: QueueCount[] }>("/arrivals/counts", signal),
  });
  const recent = useQuery({
    queryKey: ["lookup", "", company, "desk"],
    queryFn: ({ signal }) => apiGet<{ items: LookupHit[] }>(`/records/lookup${queryOf({ company, opened: "1", limit: 8 })}`, signal),
  });
  const filed = useQuery({
    queryKey: ["find", "desk", company],
    queryFn: ({ signal }) => apiGet<Found>(`/find${queryOf({ company, limit: 8 })}`, signal),
  });
  const queue = me.queues.find((q) => q.member);
  const total = counts.data?.items.reduce((s, q) => s + q.open, 0) ?? 0;
  return (
    <DropArea
      target={{ queue: queue?.key ?? "general", company, label: queue?.label ?? "Arrivals" }}
      label={`Drop documents here: they go to ${queue?.label ?? "Arrivals"}`}
      disabled={!me.may.add}
    >
      {(choose) => (
        <div className="scroll">
          <Where title="Desk" />
          <div className="page">
            <h2 className="mb-3" style={{ fontSize: "1.25rem" }}>
              {total > 0 && me.may.file
                ? `${countText(total, "document")} ${total === 1 ? "waits" : "wait"} to be filed`
                : `Good day, ${me.name.split(" ")[0]}`}
            </h2>
            <div className="d-flex gap-2 mb-4 flex-wrap">
              <div style={{ flex: "1 1 320px", maxWidth: 520 }}>
                <LookUp
                  company={company}
                  onChoose={(hit) => router.push(recordHref(hit))}
                  placeholder="Open a record: number, name or any field"
                />
              </div>
              {me.may.add ? (
                <button type="button" className="btn btn-plain" onClick={choose.files}>
                  Add documents
                </button>
              ) : null}
              {me.may.file && total > 0 ? (
                <Link className="btn btn-primary ms-auto" href="/arrivals">
                  Start filing
                </Link>
              ) : null}
            </div>
            <SwitchedOff />
            <DraftsOpen />
            <MissingPapers />
            <OutOfSync />
            <KeptFilterCounts />
            <div className="row g-4">
              <section className="col-lg-4" aria-labelledby="desk-queues">
                <h3 id="desk-queues" className="pb-1 mb-0" style={{ borderBottom: "1px solid var(--ink-1)" }}>
                  Waiting documents
                </h3>
                {counts.isPending ? (
                  <Skeletons rows={3} height={44} />
                ) : counts.data?.items.length ? (
                  counts.data.items.map((q) => (
                    <Link
                      key={q.queue}
                      href={`/arrivals?queue=${q.queue}`}
                      className="type-row"
                      style={{ gridTemplateColumns: "24px minmax(0, 1fr) auto auto" }}
                    >
                      <Inboxes aria-hidden="true" />
                      <strong>{me.queues.find((x) => x.key === q.queue)?.label}</strong>
                      {q.failed > 0 ? <span className="chip rust">{q.failed} with a problem</span> : <span />}
                      <span className="num">{q.open}</span>
                    </Link>
                  ))
                ) : (
                  <p className="text-2 mt-2">Nothing is waiting. {me.may.add ? "Drop documents anywhere on this page." : ""}</p>
                )}
              </section>
              <section className="col-lg-4" aria-labelledby="desk-recent">
                <h3 id="desk-recent" className="pb-1 mb-0" style={{ borderBottom: "1px solid var(--ink-1)" }}>
                  Recently opened records
                </h3>
                {recent.isPending ? (
                  <Skeletons rows={5} height={44} />
                ) : recent.data?.items.length === 0 ? (
                  <p className="text-2 mt-2">Records you open are listed here.</p>
                ) : (
                  recent.data?.items.map((r) => (
                    <Link key={r.id} href={recordHref(r)} className="type-row" style={{ gridTemplateColumns: "24px minmax(0, 1fr)" }}>
                      <Icon name={recordType(r.type)?.icon ?? ""} />
                      <span style={{ minWidth: 0 }}>
                        <span className="mono fw-bold">{r.key}</span> <span className="text-2 d-block text-truncate">{r.title}</span>
                      </span>
                    </Link>
                  ))
                )}
              </section>
              <section className="col-lg-4" aria-labelledby="desk-filed">
                <h3 id="desk-filed" className="pb-1 mb-0" style={{ borderBottom: "1px solid var(--ink-1)" }}>
                  Newest documents
                </h3>
                {filed.isPending ? (
                  <Skeletons rows={5} height={44} />
                ) : (
                  filed.data?.items.map((d) => (
                    <Link
                      key={d.code}
                      href={`/documents/${d.code}`}
                      className="type-row"
                      style={{ gridTemplateColumns: "24px minmax(0, 1fr) auto" }}
                    >
                      <Icon name={kindIcon(d.kind)} />
                      <span style={{ minWidth: 0 }}>
                        <span className="fw-bold d-block text-truncate">{d.title}</span>
                        <span className="text-2 d-block text-truncate">
                          {documentType(d.documentType)?.label} · {d.records[0]?.title}
                        </span>
                      </span>
                      <span className="text-2 small">{dayText(d.documentDate)}</span>
                    </Link>
                  ))
                )}
              </section>
            </div>
          </div>
        </div>
      )}
    </DropArea>
  );
}
