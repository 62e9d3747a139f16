"use client";
import { useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import type { RecordAnswer, RecordDocument } from "#server/records/load-record-page.ts";
import { apiGet, queryOf, wordsOf } from "../kit/api.ts";
import { arePapers, draggedPapers, dragPapers } from "../documents/dragged-papers.ts";
import { Icon, kindIcon } from "../kit/icon.tsx";
import { Skeletons, Trouble } from "../kit/parts.tsx";
import { countText, dayText } from "../kit/words.ts";
import { useMe } from "../people/me-context.tsx";
import { paperGroups } from "../records/paper-groups.ts";
import { recordPath } from "../records/record-href.ts";
import { useSections } from "./use-sections.ts";

/** The tree of a record's sections in a window of its own: documents are dragged here from the record's window, and both stay in step. */
export function SectionsWindow({ type, recordKey, company }: { type: string; recordKey: string; company: string }) {
  const { me } = useMe();
  const of = useMemo(() => ({ company, type, key: recordKey }), [company, type, recordKey]);
  const [over, setOver] = useState<string | null>(null);
  const record = useQuery({
    queryKey: ["record", company, type, recordKey],
    queryFn: ({ signal }) => apiGet<RecordAnswer>(`${recordPath(of)}${queryOf({ company })}`, signal),
  });
  const papers = useInfiniteQuery({
    queryKey: ["recordDocuments", company, type, recordKey, "own"],
    initialPageParam: "",
    getNextPageParam: (last: { next: string | null }) => last.next ?? undefined,
    queryFn: ({ pageParam, signal }) =>
      apiGet<{ items: readonly RecordDocument[]; next: string | null }>(
        `${recordPath(of, "/documents")}${queryOf({ company, scope: "own", limit: 200, cursor: pageParam })}`,
        signal,
      ),
  });
  const { act } = useSections(of);
  const all = papers.data?.pages.flatMap((p) => p.items) ?? [];
  if (record.isPending) return <Skeletons rows={6} height={36} />;
  if (record.isError) return <Trouble {...wordsOf(record.error)} again={() => void record.refetch()} />;
  const { groups } = paperGroups(record.data.sections.tree, all, me.documentTypes);
  return (
    <main className="p-3 h-100 overflow-auto" style={{ background: "var(--paper-1)" }}>
      <h1 className="mb-0" style={{ fontSize: "1.0625rem" }}>
        {record.data.key}
      </h1>
      <p className="text-2 mb-2">
        {record.data.title} · {countText(all.length, "document")}. Drag documents to a section.
      </p>
      <ul className="list-unstyled mb-0">
        {groups.map((g) => (
          <li
            key={g.key}
            className={`section-drop ${over === g.key ? "is-over" : ""}`}
            style={{ marginLeft: g.depth * 18 }}
            onDragOver={(e) => {
              if (!arePapers(e.dataTransfer) || (g.path === null && g.key !== "notPlaced")) return;
              e.preventDefault();
              setOver(g.key);
            }}
            onDragLeave={() => setOver(null)}
            onDrop={(e) => {
              e.preventDefault();
              setOver(null);
              const codes = draggedPapers(e.dataTransfer);
              if (codes.length > 0) act({ act: "move", papers: [...codes], to: g.path });
            }}
          >
            {g.icon ? <Icon name={g.icon} size={15} /> : null} <strong>{g.label}</strong> <span className="text-2">{g.count}</span>
            {over === g.key ? <span className="drop-label">Move to {g.label}</span> : null}
            {g.papers.map((d) => (
              <span
                key={d.code}
                className="section-document"
                draggable
                onDragStart={(e) => dragPapers(e.dataTransfer, [d.code])}
                title={d.title}
              >
                <Icon name={kindIcon(d.kind)} size={13} />{" "}
                <a href={`/documents/${d.code}`} target="_blank" rel="noreferrer" className="text-reset">
                  {d.title}
                </a>{" "}
                <span className="text-3 small">{dayText(d.documentDate)}</span>
              </span>
            ))}
          </li>
        ))}
      </ul>
    </main>
  );
}
