"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { parseAsString, useQueryState } from "nuqs";
import { useState } from "react";
import { Button, Modal, Table } from "react-bootstrap";
import { Magic } from "react-bootstrap-icons";
import type { FiledByItself } from "#server/automatic-filing/manage.ts";
import { Dialog } from "../kit/dialog.tsx";
import { Where } from "../frame/top-slot.tsx";
import { apiGet, apiSend, queryOf, wordsOf } from "../kit/api.ts";
import { Link } from "../kit/link.tsx";
import { useNotices } from "../kit/notices.tsx";
import { Empty, Skeletons, Trouble, When } from "../kit/parts.tsx";
import { countText, dayText } from "../kit/words.ts";
import { useMe } from "../people/me-context.tsx";
import { recordHref } from "../records/record-href.ts";

interface Listed {
  readonly days: readonly { readonly day: string; readonly filed: number; readonly corrected: number; readonly undone: number }[];
  readonly items: readonly FiledByItself[];
}
const stateChip = { filed: "moss", corrected: "rust", undone: "plum" } as const;
const stateWords = { filed: "filed", corrected: "corrected", undone: "taken back" } as const;

/** What was filed without a person, by day; a day is taken back in one go. */
export function FiledScreen() {
  const { me, recordType, documentType } = useMe();
  const notices = useNotices();
  const client = useQueryClient();
  const [day, setDay] = useQueryState("day", parseAsString.withDefault(""));
  const [asking, setAsking] = useState(false);
  const listed = useQuery<Listed>({
    queryKey: ["filedByItself", day],
    placeholderData: (before) => before,
    queryFn: ({ signal }) => apiGet<Listed>(`/hands-free/papers${queryOf({ day })}`, signal),
  });
  const chosen = day || listed.data?.days[0]?.day || "";
  const filed = listed.data?.items.filter((i) => i.state === "filed").length ?? 0;
  const undo = useMutation({
    mutationFn: () => apiSend<{ done: number; failures: { what: string; why: string }[] }>("POST", "/hands-free/undo", { day: chosen }),
    onSuccess: ({ done, failures }) => {
      setAsking(false);
      notices.done(
        `${countText(done, "document")} back in Arrivals`,
        failures.length > 0
          ? { more: `${countText(failures.length, "document")} could not be taken back: ${failures[0]?.what ?? ""}` }
          : {},
      );
      void client.invalidateQueries();
    },
    onError: notices.wrong,
  });
  return (
    <div className="scroll">
      <Where title="Filed automatically">
        <Link href="/arrivals" className="chip aside">
          Arrivals
        </Link>
      </Where>
      <div className="page">
        {listed.isPending ? <Skeletons rows={5} /> : null}
        {listed.isError ? <Trouble {...wordsOf(listed.error)} again={() => void listed.refetch()} /> : null}
        {listed.data && listed.data.days.length === 0 ? (
          <Empty icon={<Magic size={36} />} title="Nothing was filed automatically">
            Automatically filed documents are listed here by day.{" "}
            {me.may.manage ? (
              <>
                Switch it on in <Link href="/set-up#automatic-filing-title">Set-up</Link>.
              </>
            ) : null}
          </Empty>
        ) : null}
        {listed.data && listed.data.days.length > 0 ? (
          <>
            <div className="d-flex flex-wrap gap-2 mb-3" role="group" aria-label="Days">
              {listed.data.days.map((d) => (
                <button
                  key={d.day}
                  type="button"
                  className={`chip border-0 ${d.day === chosen ? "amber" : ""}`}
                  aria-pressed={d.day === chosen}
                  onClick={() => void setDay(d.day)}
                >
                  {dayText(d.day)} <span className="num">{d.filed + d.corrected + d.undone}</span>
                </button>
              ))}
            </div>
            <div className="d-flex align-items-center gap-3 mb-2">
              <h2 className="mb-0">{dayText(chosen)}</h2>
              <span className="text-2">{countText(listed.data.items.length, "document")}</span>
              {me.may.file && filed > 0 ? (
                <Button variant="plain" className="ms-auto" onClick={() => setAsking(true)}>
                  Take all {filed} back
                </Button>
              ) : null}
            </div>
            <Table className="align-middle">
              <thead>
                <tr>
                  <th>Document</th>
                  <th>Type</th>
                  <th>Clipped to</th>
                  <th>Queue</th>
                  <th>When</th>
                  <th>State</th>
                </tr>
              </thead>
              <tbody>
                {listed.data.items.map((i) => (
                  <tr key={i.code}>
                    <td>
                      {i.state === "undone" ? i.title : <Link href={`/documents/${i.code}`}>{i.title}</Link>}{" "}
                      <span className="mono text-2 small">{i.code}</span>
                    </td>
                    <td>{documentType(i.documentType)?.label}</td>
                    <td>
                      {i.record ? (
                        <Link href={recordHref(i.record)}>
                          {recordType(i.record.type)?.label} <span className="mono">{i.record.key}</span>
                        </Link>
                      ) : null}
                    </td>
                    <td>{me.queues.find((q) => q.key === i.queue)?.label ?? i.queue}</td>
                    <td>
                      <When at={i.at} />
                    </td>
                    <td>
                      <span className={`chip ${stateChip[i.state]}`}>{stateWords[i.state]}</span>
                    </td>
                  </tr>
                ))}
              </tbody>
            </Table>
          </>
        ) : null}
      </div>
      <Dialog show={asking} onHide={() => setAsking(false)} aria-labelledby="undo-day-title">
        <Modal.Header closeButton>
          <Modal.Title as="h2" id="undo-day-title" style={{ fontSize: "1.0625rem" }}>
            Take {countText(filed, "document")} back?
          </Modal.Title>
        </Modal.Header>
        <Modal.Body>
          All documents filed automatically on {dayText(chosen)} go back to Arrivals. Documents changed since then stay filed.
        </Modal.Body>
        <Modal.Footer>
          <Button variant="plain" onClick={() => setAsking(false)}>
            Cancel
          </Button>
          <Button disabled={undo.isPending} onClick={() => undo.mutate()}>
            {undo.isPending ? "Taking back …" : "Take back"}
          </Button>
        </Modal.Footer>
      </Dialog>
    </div>
  );
}
