"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button } from "react-bootstrap";
import type { MissingCounts } from "#server/checklists/list-missing.ts";
import type { ReminderAnswer } from "#server/checklists/remind.ts";
import { ClipMark } from "../checklists/clip-mark.tsx";
import { apiGet, apiSend, queryOf } from "../kit/api.ts";
import { Link } from "../kit/link.tsx";
import { useNotices } from "../kit/notices.tsx";
import { When } from "../kit/parts.tsx";
import { countText } from "../kit/words.ts";
import { useMe } from "../people/me-context.tsx";
import { recordHref } from "../records/record-href.ts";

/** Reminders listed before the rest is only counted. */
const SHOWN = 4;

/** What a person was reminded of, and what is due, received or expired on the records they answer for. Nothing when there is nothing to do. */
export function MissingPapers() {
  const { me, company } = useMe();
  const notices = useNotices();
  const client = useQueryClient();
  const reminders = useQuery({
    queryKey: ["reminders"],
    queryFn: ({ signal }) => apiGet<{ items: readonly ReminderAnswer[] }>("/checklists/reminders", signal),
  });
  const counts = useQuery({
    queryKey: ["missing", "counts", "", company, me.id],
    queryFn: ({ signal }) => apiGet<MissingCounts>(`/checklists/counts${queryOf({ company, responsible: me.id })}`, signal),
  });
  const away = useMutation({
    mutationFn: (ids: readonly number[]) => apiSend("POST", "/checklists/reminders", { ids }),
    onSuccess: () => void client.invalidateQueries({ queryKey: ["reminders"] }),
    onError: notices.wrong,
  });
  const sum = (view: "due" | "received" | "expired" | "expiring"): number =>
    (counts.data?.types ?? []).reduce((all, t) => all + t[view], 0);
  const lines = [
    { view: "due", state: "outstanding", words: "with a document that is due" },
    { view: "expired", state: "expired", words: "with an expired document" },
    { view: "received", state: "received", words: "with a document to be accepted" },
    { view: "expiring", state: "complete", words: "with a document that expires within 60 days" },
  ] as const;
  const shown = lines.filter((l) => sum(l.view) > 0);
  const open = reminders.data?.items ?? [];
  if (shown.length === 0 && open.length === 0) return null;
  return (
    <section className="mb-4" aria-labelledby="desk-missing">
      <h3 id="desk-missing" className="pb-1 mb-0" style={{ borderBottom: "1px solid var(--ink-1)" }}>
        Records you are responsible for
      </h3>
      {open.slice(0, SHOWN).map((r) => (
        <div key={r.id} className="type-row" style={{ gridTemplateColumns: "24px minmax(0, 1fr) auto" }}>
          <ClipMark state="outstanding" />
          <span style={{ minWidth: 0 }}>
            <Link href={recordHref(r)} className="mono fw-bold">
              {r.key}
            </Link>{" "}
            {r.title}
            <span className="text-2 d-block text-truncate">
              {r.by} reminds you{r.note ? `: ${r.note}` : ""}, <When at={r.at} />
            </span>
          </span>
          <Button size="sm" variant="quiet" disabled={away.isPending} onClick={() => away.mutate([r.id])}>
            Dismiss
          </Button>
        </div>
      ))}
      {open.length > SHOWN ? (
        <div className="py-1 d-flex">
          <span className="text-2">{countText(open.length - SHOWN, "more reminder")}</span>
          <Button size="sm" variant="quiet" className="ms-auto" onClick={() => away.mutate(open.map((r) => r.id))}>
            Dismiss all
          </Button>
        </div>
      ) : null}
      {shown.map((l) => (
        <Link
          key={l.view}
          href={`/records/missing?view=${l.view}&who=${me.id}`}
          className="type-row"
          style={{ gridTemplateColumns: "24px minmax(0, 1fr) auto" }}
        >
          <ClipMark state={l.state} />
          <span>Records {l.words}</span>
          <span className="num">{sum(l.view).toLocaleString("en-GB")}</span>
        </Link>
      ))}
    </section>
  );
}
