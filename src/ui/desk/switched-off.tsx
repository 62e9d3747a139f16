"use client";
import { useQuery } from "@tanstack/react-query";
import type { AutomaticFilingAnswer } from "#server/automatic-filing/manage.ts";
import { percent } from "../automatic-filing/words.ts";
import { apiGet } from "../kit/api.ts";
import { useMe } from "../people/me-context.tsx";
import { Link } from "../kit/link.tsx";

/** Tells an administrator that automatic filing has switched itself off. Nothing for everybody else, and while it goes well. */
export function SwitchedOff() {
  const { me, documentType } = useMe();
  const known = useQuery({
    queryKey: ["automaticFiling"],
    enabled: me.may.manage,
    queryFn: ({ signal }) => apiGet<{ items: AutomaticFilingAnswer[] }>("/hands-free", signal),
  });
  const off = (known.data?.items ?? []).filter((h) => h.offWhy !== null);
  if (off.length === 0) return null;
  return (
    <div className="draft-note is-refused mb-3" role="status">
      <div>
        {off.map((h) => (
          <div key={`${h.queue} ${h.documentType}`}>
            <strong>
              Automatic filing of {documentType(h.documentType)?.plural.toLowerCase()} in {me.queues.find((q) => q.key === h.queue)?.label}{" "}
              was switched off.
            </strong>{" "}
            {h.offWhy?.wrong} of the last {h.offWhy?.of} were wrong: at least {percent(h.offWhy?.bound ?? 0)} right,{" "}
            {percent(h.offWhy?.asked ?? 0)} is required. <Link href="/set-up#automatic-filing-title">Open Set-up</Link>
          </div>
        ))}
      </div>
    </div>
  );
}
