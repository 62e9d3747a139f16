"use client";
import { useRef, useState } from "react";
import { Button, CloseButton, Form } from "react-bootstrap";
import type { ItemAct } from "#server/checklists/decide-item.ts";
import type { ChecklistItemAnswer } from "#server/checklists/load-items.ts";
import type { RecordAnswer } from "#server/records/load-record-page.ts";
import { When } from "../kit/parts.tsx";
import { dayText, todayText } from "../kit/words.ts";
import { useMe } from "../people/me-context.tsx";
import { ClipMark, itemStateWords } from "./clip-mark.tsx";
import { itemHint } from "./item-words.ts";

const capital = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);

/** One item of a record's checklist: how it stands, its documents, and what can be done about it. */
export function ItemPanel({
  record,
  item,
  openPaper,
  isBusy,
  onAct,
  onFiles,
  onOpenPaper,
  onClose,
}: {
  record: RecordAnswer;
  item: ChecklistItemAnswer;
  openPaper: { readonly code: string; readonly title: string } | null;
  isBusy: boolean;
  onAct: (what: ItemAct, said: string, undo?: ItemAct) => void;
  onFiles: (files: readonly File[]) => void;
  onOpenPaper: (code: string) => void;
  onClose: () => void;
}) {
  const { me, documentType } = useMe();
  const [reason, setReason] = useState<string | null>(null);
  const chooser = useRef<HTMLInputElement>(null);
  const hint = itemHint(item, todayText());
  const kinds = item.documentTypes.map((t) => documentType(t)?.label.toLowerCase() ?? t).join(" or ");
  const unaccepted = item.papers.filter((p) => !p.isAccepted);
  const canTie = openPaper !== null && record.may.file && !item.papers.some((p) => p.code === openPaper.code);
  const isOpen = item.state !== "waived";
  return (
    <section className="item-panel" aria-label={item.label}>
      <div className="d-flex align-items-start gap-2">
        <ClipMark state={item.state} size={24} />
        <div className="flex-grow-1">
          <div>
            <strong>{item.label}</strong>{" "}
            <span className="text-2">
              {[
                capital(itemStateWords[item.state]),
                hint.words,
                item.dueOn && item.state === "outstanding" ? `due ${dayText(item.dueOn)}` : null,
              ]
                .filter((w, i, all) => w && all.indexOf(w) === i)
                .join(" · ")}
            </span>
          </div>
          {item.waived ? (
            <div className="text-2 small">
              “{item.waived.reason}”, {item.waived.by}, <When at={item.waived.at} />
            </div>
          ) : (
            <div className="text-2 small">
              {[
                item.state === "outstanding" || item.state === "expired" ? item.missing : "",
                `A ${kinds}${item.settledBy === "person" ? ", accepted by a person" : ""}`,
              ]
                .filter(Boolean)
                .join(" · ")}
            </div>
          )}
        </div>
        <CloseButton aria-label="Close the item" onClick={onClose} />
      </div>
      {item.papers.map((p) => (
        <div key={p.code} className="d-flex flex-wrap align-items-center gap-2 mt-1 ps-4">
          <button type="button" className="btn btn-quiet p-0 fw-bold text-truncate" onClick={() => onOpenPaper(p.code)}>
            {p.title}
          </button>
          <span className="mono text-3 small">{p.code}</span>
          {p.endsOn ? (
            <span className={`chip ${p.endsOn < todayText() ? "plum" : ""}`}>
              {p.endsOn < todayText() ? "was valid" : "valid"} until {dayText(p.endsOn)}
            </span>
          ) : null}
          {item.settledBy === "person" ? (
            p.isAccepted ? (
              <span className="chip moss">accepted</span>
            ) : (
              <span className="chip amber">not accepted yet</span>
            )
          ) : null}
          <span className="ms-auto d-flex gap-1">
            {item.settledBy === "person" && item.mayAccept && isOpen ? (
              p.isAccepted ? (
                <Button
                  size="sm"
                  variant="quiet"
                  disabled={isBusy}
                  onClick={() =>
                    onAct({ act: "takeBack", item: item.key, document: p.code }, "Withdraw acceptance", {
                      act: "accept",
                      item: item.key,
                      document: p.code,
                    })
                  }
                >
                  Reject
                </Button>
              ) : (
                <Button
                  size="sm"
                  variant={unaccepted[0] === p ? "primary" : "plain"}
                  disabled={isBusy}
                  onClick={() =>
                    onAct({ act: "accept", item: item.key, document: p.code }, `${item.label} accepted`, {
                      act: "takeBack",
                      item: item.key,
                      document: p.code,
                    })
                  }
                >
                  Accept
                </Button>
              )
            ) : null}
            {record.may.file ? (
              <Button
                size="sm"
                variant="quiet"
                disabled={isBusy}
                onClick={() =>
                  onAct({ act: "untie", item: item.key, document: p.code }, `Unlinked from ${item.label}`, {
                    act: "tie",
                    item: item.key,
                    document: p.code,
                  })
                }
              >
                Unlink
              </Button>
            ) : null}
          </span>
        </div>
      ))}
      {reason === null ? (
        <div className="d-flex flex-wrap gap-2 mt-2 ps-4">
          {isOpen && me.may.add ? (
            <>
              <Button size="sm" variant="plain" onClick={() => chooser.current?.click()}>
                Add document
              </Button>
              <input
                ref={chooser}
                type="file"
                hidden
                multiple
                aria-label={`Documents for ${item.label}`}
                onChange={(e) => {
                  onFiles([...(e.target.files ?? [])]);
                  e.target.value = "";
                }}
              />
            </>
          ) : null}
          {isOpen && canTie ? (
            <Button
              size="sm"
              variant="plain"
              disabled={isBusy}
              onClick={() =>
                onAct({ act: "tie", item: item.key, document: openPaper.code }, `Linked to ${item.label}`, {
                  act: "untie",
                  item: item.key,
                  document: openPaper.code,
                })
              }
            >
              Link open document
            </Button>
          ) : null}
          {isOpen && record.may.edit && item.state !== "complete" ? (
            <Button size="sm" variant="quiet" onClick={() => setReason("")}>
              Waive…
            </Button>
          ) : null}
          {item.state === "waived" && record.may.edit ? (
            <Button
              size="sm"
              variant="plain"
              disabled={isBusy}
              onClick={() => onAct({ act: "ask", item: item.key }, `${item.label} is required again`)}
            >
              Require again
            </Button>
          ) : null}
          {item.isOwn && record.may.edit ? (
            <Button
              size="sm"
              variant="quiet"
              disabled={isBusy}
              onClick={() =>
                onAct({ act: "remove", item: item.key }, `${item.label} is no longer required`, {
                  act: "add",
                  label: item.label,
                  documentTypes: [...item.documentTypes],
                  dueOn: item.dueOn,
                })
              }
            >
              Remove from checklist
            </Button>
          ) : null}
        </div>
      ) : (
        <Form
          className="d-flex gap-2 mt-2 ps-4"
          onSubmit={(e) => {
            e.preventDefault();
            if (reason.trim() === "") return;
            onAct({ act: "waive", item: item.key, reason: reason.trim() }, `${item.label} is waived`, { act: "ask", item: item.key });
            setReason(null);
          }}
          onKeyDown={(e) => {
            if (e.key === "Escape") setReason(null);
          }}
        >
          <Form.Control
            size="sm"
            autoFocus
            aria-label={`Why ${item.label} is waived`}
            placeholder="Reason"
            maxLength={300}
            value={reason}
            onChange={(e) => setReason(e.target.value)}
            style={{ maxWidth: 420 }}
          />
          <Button size="sm" type="submit" disabled={reason.trim() === ""}>
            Waive
          </Button>
          <Button size="sm" variant="quiet" onClick={() => setReason(null)}>
            Cancel
          </Button>
        </Form>
      )}
    </section>
  );
}
