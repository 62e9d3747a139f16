"use client";
import { useState } from "react";
import { Button } from "react-bootstrap";
import type { Duplicate } from "#server/arrivals/find-same.ts";
import type { ArrivalAnswer } from "#server/arrivals/list-arrivals.ts";
import type { Filed } from "#server/documents/file-away.ts";
import { Link } from "../kit/link.tsx";
import { briefTime, countText } from "../kit/words.ts";
import { CompareDialog } from "./compare-dialog.tsx";

const what: Readonly<Record<Duplicate["kind"], string>> = {
  same: "The same file",
  sameText: "Same text as",
  near: "Nearly the same document",
};

/** Says that the same document, or nearly the same one, is filed already or waits here too, before it is filed once more. */
export function SamePaper({
  arrival,
  onSetAside,
  onVersion,
  onApart,
}: {
  arrival: ArrivalAnswer;
  onSetAside: (reason: string) => void;
  onVersion: (filed: Filed) => void;
  onApart: () => void;
}) {
  const [comparing, setComparing] = useState<string | null>(null);
  const [first, ...others] = arrival.duplicates;
  const twin = arrival.twin;
  const like = first ?? twin;
  if (!like) return null;
  const alike = like.kind === "near" ? ` (${Math.round(like.similarity * 100)} % similar)` : "";
  return (
    <section style={{ background: "var(--amber-1)" }} aria-label="Same document">
      <p className="mb-2">
        {first ? (
          <>
            {what[first.kind]} is already filed{alike}: <Link href={`/documents/${first.code}`}>{first.title}</Link>{" "}
            <span className="mono">{first.code}</span>
            {others.length > 0 ? ` and ${countText(others.length, "other")}` : ""}.
          </>
        ) : twin ? (
          <>
            {what[twin.kind]} is already waiting{alike}: <Link href={`/arrivals?at=${twin.id}`}>{twin.fileName}</Link>, since{" "}
            {briefTime(twin.receivedAt)}.
          </>
        ) : null}
      </p>
      <div className="d-flex gap-2">
        <Button size="sm" variant="plain" onClick={() => setComparing(first?.code ?? twin?.id ?? null)}>
          Compare
        </Button>
        <Button
          size="sm"
          variant="plain"
          onClick={() => onSetAside(first ? `Duplicate of ${first.code}` : "Duplicate of a waiting document")}
        >
          Set this document aside
        </Button>
      </div>
      {comparing ? (
        <CompareDialog
          arrival={arrival}
          other={comparing}
          onHide={() => setComparing(null)}
          onSetAside={(reason) => {
            setComparing(null);
            onSetAside(reason);
          }}
          onVersion={(filed) => {
            setComparing(null);
            onVersion(filed);
          }}
          onApart={() => {
            setComparing(null);
            onApart();
          }}
        />
      ) : null}
    </section>
  );
}
