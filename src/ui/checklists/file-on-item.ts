"use client";
import { useQueryClient } from "@tanstack/react-query";
import { useCallback } from "react";
import type { ChecklistItemAnswer } from "#server/checklists/load-items.ts";
import type { RecordAnswer } from "#server/records/load-record-page.ts";
import { ApiProblem, apiSend, queryOf } from "../kit/api.ts";
import { useNotices } from "../kit/notices.tsx";
import { countText } from "../kit/words.ts";
import { useMe } from "../people/me-context.tsx";
import { recordPath } from "../records/record-href.ts";

/**
 * Files documents straight to an item of a record: what they are and where they belong was said by dropping them there. Where something more has to be
 * known (how long a certificate holds) they wait in Arrivals with all that is known, and the notice leads there.
 */
export function useFileOnItem(record: RecordAnswer): (files: readonly File[], item: ChecklistItemAnswer) => Promise<void> {
  const { me } = useMe();
  const notices = useNotices();
  const client = useQueryClient();
  const queue = me.queues.find((q) => q.member)?.key ?? "general";
  return useCallback(
    async (files, item) => {
      const filed: string[] = [];
      const documentType = item.documentTypes[0] ?? "other";
      for (const file of files)
        try {
          const form = new FormData();
          form.set("queue", queue);
          form.set("company", record.company);
          form.set("record", `${record.type}:${record.key}`);
          form.set("documentType", documentType);
          form.set("file", file);
          const response = await fetch("/api/v1/arrivals", { method: "POST", body: form });
          const arrival = (await response.json()) as { id: string };
          if (!response.ok) throw new ApiProblem(response.status, arrival as { title?: string });
          if (item.asks !== null || !record.may.file) {
            notices.done(`${file.name} is waiting in Arrivals`, {
              more: item.asks !== null ? "Enter until when it is valid there, then file it." : "Somebody with the right can file it.",
              href: `/arrivals?at=${arrival.id}`,
            });
            continue;
          }
          const done = await apiSend<{ code: string }>("POST", `/arrivals/${arrival.id}/file`, {
            documentType,
            clips: [{ company: record.company, type: record.type, key: record.key }],
            onSameName: "separate",
          });
          filed.push(done.code);
          // What its page says is read after it is filed; that it belongs to this item was said by dropping it here.
          if (item.isConditional)
            await apiSend("POST", `${recordPath(record)}/checklist${queryOf({ company: record.company })}`, {
              act: "tie",
              item: item.key,
              document: done.code,
            });
        } catch (error) {
          notices.wrong(error);
        }
      const again = (): void => {
        for (const key of ["record", "recordDocuments", "arrivals", "missing"]) void client.invalidateQueries({ queryKey: [key] });
      };
      again();
      if (filed.length > 0)
        notices.done(`${countText(filed.length, "document")} filed for ${item.label}`, {
          undo: () =>
            void Promise.all(filed.map((code) => apiSend("POST", `/documents/${code}/unfile`))).then(() => {
              notices.done("Taken back to Arrivals");
              again();
            }, notices.wrong),
        });
    },
    [client, notices, queue, record],
  );
}
