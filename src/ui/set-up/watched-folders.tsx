"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Form, Table } from "react-bootstrap";
import type { WatchAfter } from "#core/arrivals/watched-folder.ts";
import { presentations } from "#core/shared/refusals.ts";
import type { QueueAnswer } from "#server/ways-in/queue-ways.ts";
import { apiGet, apiSend } from "../kit/api.ts";
import { useNotices } from "../kit/notices.tsx";
import { countText } from "../kit/words.ts";

const afterWords: Readonly<Record<WatchAfter | "", string>> = {
  "": "not watched",
  keep: "stays where it is",
  done: "moved to folder done",
  remove: "deleted after verification",
};

/** Watched folders: one for each queue, what becomes of what was taken, and what is not taken with the reason. */
export function WatchedFolders() {
  const notices = useNotices();
  const client = useQueryClient();
  const queues = useQuery({
    queryKey: ["queueMail"],
    queryFn: ({ signal }) => apiGet<{ items: QueueAnswer[] }>("/settings/queues", signal),
  });
  const save = useMutation({
    mutationFn: ({ q, after }: { q: QueueAnswer; after: WatchAfter | null }) =>
      apiSend("PUT", `/settings/queues/${q.key}/folder`, { after }),
    onSuccess: (_, { q, after }) => {
      notices.done(after === null ? `The folder of ${q.label} is not watched` : `The folder of ${q.label} is watched`);
      void client.invalidateQueries({ queryKey: ["queueMail"] });
    },
    onError: notices.wrong,
  });
  if (!queues.data) return null;
  return (
    <section className="mb-5" aria-labelledby="folders-title">
      <h2 id="folders-title" className="mb-1">
        Watched folders
      </h2>
      <p className="text-2">Name a sub-folder after a record number or document type to assign its documents.</p>
      <div style={{ overflowX: "auto" }}>
        <Table className="align-middle">
          <thead>
            <tr>
              <th>Queue</th>
              <th>Folder</th>
              <th>After import</th>
              <th>Rejected</th>
            </tr>
          </thead>
          <tbody>
            {queues.data.items.map((q) => (
              <tr key={q.key}>
                <td>{q.label}</td>
                <td className="mono small text-break">{q.folder}</td>
                <td>
                  <Form.Select
                    size="sm"
                    aria-label={`After import from the folder of ${q.label}`}
                    value={q.watchAfter ?? ""}
                    disabled={save.isPending}
                    onChange={(e) => save.mutate({ q, after: e.target.value === "" ? null : (e.target.value as WatchAfter) })}
                  >
                    {(Object.keys(afterWords) as (WatchAfter | "")[]).map((k) => (
                      <option key={k} value={k}>
                        {afterWords[k]}
                      </option>
                    ))}
                  </Form.Select>
                </td>
                <td>
                  {q.refused.slice(0, 3).map((r) => (
                    <div key={r.path} className="problem text-break">
                      {r.path}: {r.why in presentations ? presentations[r.why as keyof typeof presentations].title.toLowerCase() : r.why}
                    </div>
                  ))}
                  {q.refused.length > 3 ? <div className="text-2 small">and {countText(q.refused.length - 3, "other")}</div> : null}
                </td>
              </tr>
            ))}
          </tbody>
        </Table>
      </div>
    </section>
  );
}
