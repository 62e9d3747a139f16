"use client";
import Link from "next/link";
import { Button } from "react-bootstrap";
import type { ArrivalAnswer } from "#server/arrivals/list-arrivals.ts";
import { briefTime, countText } from "../kit/words.ts";

/** Says that the very same file is filed already, or waits here twice, before it is filed once more; and offers to set this one aside. */
export function SamePaper({ arrival, onSetAside }: { arrival: ArrivalAnswer; onSetAside: (reason: string) => void }) {
  const [first, ...others] = arrival.duplicates;
  const twin = arrival.twin;
  if (!first && !twin) return null;
  return (
    <section style={{ background: "var(--amber-1)" }} aria-label="The same paper">
      <p className="mb-2">
        {first ? (
          <>
            The same file is filed already: <Link href={`/documents/${first.code}`}>{first.title}</Link>{" "}
            <span className="mono">{first.code}</span>
            {others.length > 0 ? ` and ${countText(others.length, "other")}` : ""}.
          </>
        ) : twin ? (
          <>
            The same file waits here already: <Link href={`/arrivals?at=${twin.id}`}>{twin.fileName}</Link>, since{" "}
            {briefTime(twin.receivedAt)}.
          </>
        ) : null}
      </p>
      <Button
        size="sm"
        variant="plain"
        onClick={() => onSetAside(first ? `A duplicate of ${first.code}` : "A duplicate of one that waits")}
      >
        Set this one aside
      </Button>
    </section>
  );
}
