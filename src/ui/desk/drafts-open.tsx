"use client";
import { useQuery } from "@tanstack/react-query";
import type { DraftAnswer } from "#server/drafts/list-drafts.ts";
import { draftStateText } from "../drafts/draft-words.ts";
import { apiGet } from "../kit/api.ts";
import { Icon } from "../kit/icon.tsx";
import { useMe } from "../people/me-context.tsx";
import { recordHref } from "../records/record-href.ts";
import { Link } from "../kit/link.tsx";

/** Records made here that the business system has not entered yet: the refused ones first. Nothing where there are none. */
export function DraftsOpen() {
  const { recordType } = useMe();
  const drafts = useQuery({
    queryKey: ["drafts", "open"],
    refetchInterval: 10_000,
    queryFn: ({ signal }) => apiGet<{ items: DraftAnswer[] }>("/drafts?state=refused,sending&limit=20", signal),
  });
  const items = [...(drafts.data?.items ?? [])].sort((a, b) => (a.state === b.state ? 0 : a.state === "refused" ? -1 : 1));
  if (items.length === 0) return null;
  return (
    <section className="mb-4" aria-labelledby="desk-drafts">
      <h3 id="desk-drafts" className="pb-1 mb-0" style={{ borderBottom: "1px solid var(--ink-1)" }}>
        Records being sent to the business system
      </h3>
      {items.map((d) => (
        <Link key={d.id} href={recordHref(d.record)} className="type-row" style={{ gridTemplateColumns: "24px minmax(0, 1fr) auto" }}>
          <Icon name={recordType(d.record.type)?.icon ?? ""} />
          <span className="text-truncate">
            <strong className="mono">{d.record.key}</strong> {d.record.title}
          </span>
          <span className={`chip ${d.state === "refused" ? "rust" : d.problem ? "amber" : ""}`}>{draftStateText(d)}</span>
        </Link>
      ))}
    </section>
  );
}
