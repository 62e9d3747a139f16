"use client";
import { useState } from "react";
import { Button } from "react-bootstrap";
import type { WaitingHit } from "#server/search/find-waiting.ts";
import { Icon, kindIcon } from "../kit/icon.tsx";
import { Link } from "../kit/link.tsx";
import { countText, dayText } from "../kit/words.ts";
import { useMe } from "../people/me-context.tsx";

/** Arrivals shown at first. */
const SHOWN = 3;

/** Arrivals that have the words and are not filed yet, above the documents found. Nothing when there are none. */
export function WaitingHits({ waiting }: { waiting: { readonly items: readonly WaitingHit[]; readonly total: number } }) {
  const { me } = useMe();
  const [all, setAll] = useState(false);
  if (waiting.total === 0) return null;
  const shown = all ? waiting.items : waiting.items.slice(0, SHOWN);
  return (
    <section aria-label="Not filed yet" className="mb-2">
      <div className="group-head">
        Not filed yet <span className="text-3 fw-normal">{waiting.total}</span>
      </div>
      {shown.map((a) => (
        <Link
          key={a.id}
          href={`/arrivals?at=${a.id}`}
          className="doc-row text-decoration-none text-reset"
          style={{ gridTemplateColumns: "24px minmax(0, 1fr) auto", alignItems: "start" }}
        >
          <span className="pt-1">
            <Icon name={kindIcon(a.kind)} size={17} />
          </span>
          <span style={{ minWidth: 0 }}>
            <span className="name">{a.fileName}</span>
            <span className="text-2 d-block text-truncate">
              {a.snippet.map((p, n) => (p.hit ? <mark key={n}>{p.text}</mark> : <span key={n}>{p.text}</span>))}
            </span>
          </span>
          <span className="text-2 small text-end text-nowrap">
            <span className="chip amber">waiting</span>
            <span className="d-block">
              {me.queues.find((q) => q.key === a.queue)?.label ?? a.queue}, {dayText(a.receivedAt)}
            </span>
          </span>
        </Link>
      ))}
      {waiting.items.length > shown.length ? (
        <Button variant="quiet" size="sm" onClick={() => setAll(true)}>
          Show {countText(waiting.items.length - shown.length, "more arrival")}
        </Button>
      ) : null}
    </section>
  );
}
