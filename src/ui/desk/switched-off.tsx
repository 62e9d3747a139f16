"use client";
import { useQuery } from "@tanstack/react-query";
import type { HandsFreeAnswer } from "#server/hands-free/manage.ts";
import { percent } from "../hands-free/words.ts";
import { apiGet } from "../kit/api.ts";
import { useMe } from "../people/me-context.tsx";
import { Link } from "../kit/link.tsx";

/** Tells an administrator that hands-free filing has switched itself off. Nothing for everybody else, and while it goes well. */
export function SwitchedOff() {
  const { me, documentType } = useMe();
  const known = useQuery({
    queryKey: ["handsFree"],
    enabled: me.may.manage,
    queryFn: ({ signal }) => apiGet<{ items: HandsFreeAnswer[] }>("/hands-free", signal),
  });
  const off = (known.data?.items ?? []).filter((h) => h.offWhy !== null);
  if (off.length === 0) return null;
  return (
    <div className="draft-note is-refused mb-3" role="status">
      <div>
        {off.map((h) => (
          <div key={`${h.queue} ${h.documentType}`}>
            <strong>
              Hands-free filing of {documentType(h.documentType)?.plural.toLowerCase()} in {me.queues.find((q) => q.key === h.queue)?.label}{" "}
              has switched itself off.
            </strong>{" "}
            {h.offWhy?.wrong} of the last {h.offWhy?.of} were wrong: at least {percent(h.offWhy?.bound ?? 0)} right,{" "}
            {percent(h.offWhy?.asked ?? 0)} was asked. <Link href="/set-up#hands-free-title">Look at it in Set-up</Link>
          </div>
        ))}
      </div>
    </div>
  );
}
