"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button } from "react-bootstrap";
import type { JunkSender } from "#server/arrivals/junk.ts";
import { apiGet, apiSend } from "../kit/api.ts";
import { useNotices } from "../kit/notices.tsx";
import { When } from "../kit/parts.tsx";

/** Senders whose mail is marked as junk, each to be forgotten. Nothing of theirs is kept out. */
export function JunkSenders() {
  const notices = useNotices();
  const client = useQueryClient();
  const senders = useQuery({
    queryKey: ["junkSenders"],
    queryFn: ({ signal }) => apiGet<{ items: JunkSender[] }>("/settings/junk-senders", signal),
  });
  const forget = useMutation({
    mutationFn: (address: string) => apiSend("POST", "/settings/junk-senders/forget", { address }),
    onSuccess: (_, address) => {
      notices.done(`${address} is no longer marked`);
      void client.invalidateQueries({ queryKey: ["junkSenders"] });
    },
    onError: notices.wrong,
  });
  if (!senders.data) return null;
  return (
    <section className="mb-5" aria-labelledby="junk-title">
      <h2 id="junk-title" className="mb-1">
        Junk
      </h2>
      <p className="text-2">
        {senders.data.items.length === 0
          ? "No junk senders. Set a document aside as junk to add its sender."
          : "Mail from these senders is received as usual and marked."}
      </p>
      <ul className="list-unstyled mb-0" style={{ maxWidth: 560 }}>
        {senders.data.items.map((s) => (
          <li key={s.address} className="d-flex align-items-center gap-2 border-bottom py-1">
            <span className="mono text-truncate">{s.address}</span>
            <span className="text-2 small ms-auto">
              <When at={s.taughtAt} />
            </span>
            <Button size="sm" variant="plain" disabled={forget.isPending} onClick={() => forget.mutate(s.address)}>
              Remove
            </Button>
          </li>
        ))}
      </ul>
    </section>
  );
}
