"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Form, Table } from "react-bootstrap";
import { Plus } from "react-bootstrap-icons";
import type { ConnectionOptions } from "#server/filing-plan/open-repository.ts";
import type { ConnectionAnswer } from "#server/repository/manage-connections.ts";
import type { RepositorySettings } from "#server/settings/load-settings.ts";
import { apiGet, apiSend, wordsOf } from "../kit/api.ts";
import { Link } from "../kit/link.tsx";
import { useNotices } from "../kit/notices.tsx";
import { Skeletons, Trouble, When } from "../kit/parts.tsx";

const kindWords: Readonly<Record<string, string>> = { disk: "folder on disk", webdav: "WebDAV", bucket: "S3 bucket" };

/** A key that no connection has yet. */
function freeKey(taken: readonly string[]): string {
  for (let n = 2; ; n++) if (!taken.includes(`connection${n}`)) return `connection${n}`;
}

/** The connections to repositories, what is chosen about each, and how often placements are proven again. */
export function Connections() {
  const notices = useNotices();
  const client = useQueryClient();
  const found = useQuery({
    queryKey: ["connections"],
    queryFn: ({ signal }) => apiGet<{ items: ConnectionAnswer[] }>("/connections", signal),
  });
  const settings = useQuery({
    queryKey: ["repositorySettings"],
    queryFn: ({ signal }) => apiGet<RepositorySettings>("/settings/repository", signal),
  });
  const set = useMutation({
    mutationFn: ({ c, options }: { c: ConnectionAnswer; options: Partial<ConnectionOptions> }) =>
      apiSend("PUT", `/connections/${c.key}`, {
        label: c.label,
        kind: c.kind,
        settings: c.key === "companyFolders" ? {} : c.settings,
        options,
      }),
    onSuccess: () => {
      void client.invalidateQueries({ queryKey: ["connections"] });
      notices.done("Saved");
    },
    onError: notices.wrong,
  });
  const rate = useMutation({
    mutationFn: (provesPerMinute: number) => apiSend("PUT", "/settings/repository", { provesPerMinute }),
    onSuccess: () => {
      void client.invalidateQueries({ queryKey: ["repositorySettings"] });
      notices.done("Saved");
    },
    onError: notices.wrong,
  });
  const drop = useMutation({
    mutationFn: (key: string) => apiSend("POST", `/connections/${key}/drop`),
    onSuccess: () => void client.invalidateQueries({ queryKey: ["connections"] }),
    onError: notices.wrong,
  });
  if (found.isPending) return <Skeletons rows={2} />;
  if (found.isError) return <Trouble {...wordsOf(found.error)} />;
  return (
    <section className="mb-5" aria-labelledby="connections-title">
      <div className="d-flex align-items-center mb-2">
        <h2 id="connections-title">Connections to repositories</h2>
        <Link className="btn btn-plain ms-auto" href={`/set-up/connections/${freeKey(found.data.items.map((c) => c.key))}`}>
          <Plus /> Add connection
        </Link>
      </div>
      <div className="table-responsive">
        <Table>
          <thead>
            <tr>
              <th>Connection</th>
              <th className="num">Folders</th>
              <th className="num">Documents</th>
              <th>Last scanned</th>
              <th>Scanning</th>
              <th>Changed files</th>
              <th>Additional folders</th>
              <th>Local copies</th>
            </tr>
          </thead>
          <tbody>
            {found.data.items.map((c) => (
              <tr key={c.key}>
                <td>
                  <Link href={`/set-up/connections/${c.key}`}>{c.label}</Link>
                  <div className="text-2 small">{kindWords[c.kind] ?? c.kind}</div>
                  {c.setUp !== null ? (
                    <div>
                      <span className="chip amber">set-up not finished</span>{" "}
                      <Button size="sm" variant="quiet" onClick={() => drop.mutate(c.key)}>
                        Remove
                      </Button>
                    </div>
                  ) : null}
                </td>
                <td className="num">{c.folders.toLocaleString("en-GB")}</td>
                <td className="num">{c.documents.toLocaleString("en-GB")}</td>
                <td className="text-nowrap">
                  {c.scannedAt ? <When at={c.scannedAt} /> : "not yet"}
                  {c.scanned?.why ? <div className="problem">unreachable</div> : null}
                </td>
                <td>
                  <Form.Check
                    type="switch"
                    aria-label={`${c.label} is scanned`}
                    checked={c.options.isWatched}
                    onChange={(e) => set.mutate({ c, options: { isWatched: e.target.checked } })}
                  />
                </td>
                <td>
                  <Form.Select
                    size="sm"
                    aria-label={`Changed files of ${c.label}`}
                    value={c.options.takesChanges ? "take" : "ask"}
                    onChange={(e) => set.mutate({ c, options: { takesChanges: e.target.value === "take" } })}
                  >
                    <option value="take">become a new version</option>
                    <option value="ask">ask me</option>
                  </Form.Select>
                </td>
                <td>
                  <Form.Select
                    size="sm"
                    aria-label={`Additional folders on ${c.label}`}
                    value={c.options.furtherPlaces}
                    onChange={(e) => set.mutate({ c, options: { furtherPlaces: e.target.value as ConnectionOptions["furtherPlaces"] } })}
                  >
                    <option value="none">nothing</option>
                    {c.powers?.links !== false ? <option value="link">a link</option> : null}
                    <option value="pointer">a link file</option>
                  </Form.Select>
                </td>
                <td>
                  <Form.Select
                    size="sm"
                    aria-label={`Local copies of ${c.label}`}
                    value={c.options.keepLocalDays ?? ""}
                    onChange={(e) => set.mutate({ c, options: { keepLocalDays: e.target.value === "" ? null : Number(e.target.value) } })}
                  >
                    <option value="">kept</option>
                    {[0, 7, 30, 90, 365].map((d) => (
                      <option key={d} value={d}>
                        {d === 0 ? "deleted after verification" : `deleted after ${d} days`}
                      </option>
                    ))}
                  </Form.Select>
                </td>
              </tr>
            ))}
          </tbody>
        </Table>
      </div>
      <div className="d-flex align-items-center gap-2 mt-3">
        <label htmlFor="proves">Files verified again per minute</label>
        <Form.Control
          key={settings.data?.provesPerMinute}
          id="proves"
          size="sm"
          type="number"
          min={0}
          max={10000}
          style={{ width: 100 }}
          defaultValue={settings.data?.provesPerMinute}
          onBlur={(e) => {
            const n = Number(e.target.value);
            if (Number.isInteger(n) && n >= 0 && n !== settings.data?.provesPerMinute) rate.mutate(n);
          }}
        />
      </div>
    </section>
  );
}
