"use client";
import type { Ref } from "react";
import { Button, Form } from "react-bootstrap";
import { ArrowBarUp, Paperclip, X } from "react-bootstrap-icons";
import { countText, percentText } from "../kit/words.ts";
import { usualType } from "../arrivals/usual-type.ts";
import { useMe } from "../people/me-context.tsx";
import { LookUp, type LookUpHandle } from "../records/look-up.tsx";
import { useDrop } from "./use-drop.ts";
import type { PileState } from "./pile-proposal.ts";
import type { PileSheet } from "./use-bench.ts";

/** A pile's head: how many pages, and its small filing sheet. Pages dropped on it go to the pile's front. */
export function PileHead({
  at,
  count,
  state,
  isReading = false,
  company,
  queue,
  versionOf,
  handle,
  onSheet,
  onJoin,
  onDrop,
}: {
  at: number;
  count: number;
  state: PileState;
  /** Its pages may still be being read. */
  isReading?: boolean;
  company: string | undefined;
  /** The queue it came by, which says what such documents usually are. */
  queue: string | undefined;
  /** The document that the pile may become the next version of. */
  versionOf: string | null;
  handle: Ref<LookUpHandle>;
  onSheet: (to: Partial<PileSheet>) => void;
  /** Null for the first pile. */
  onJoin: (() => void) | null;
  onDrop: (keys: ReadonlySet<string>) => void;
}) {
  const { me, recordType, documentType } = useMe();
  const [head, over] = useDrop(onDrop);
  const { sheet, recordCertainty, typeCertainty, needsCheck } = state;
  const { record } = sheet;
  const type = sheet.documentType === null ? undefined : documentType(sheet.documentType);
  const usual = record ? me.documentTypes.filter((t) => t.usualFor.includes(record.type)) : [];
  const others = me.documentTypes.filter((t) => !usual.includes(t));
  return (
    <div ref={head} className={`bench-head ${over ? "is-over" : ""}`} role="group" aria-label={`Document ${at + 1}`}>
      <span className="bench-number">{at + 1}</span>
      <span className="text-2 text-nowrap">{countText(count, "page")}</span>
      {sheet.asVersion && versionOf ? (
        <span className="chip amber">
          next version of <code>{versionOf}</code>
          <Button variant="quiet" className="p-0" aria-label="File as a separate document" onClick={() => onSheet({ asVersion: false })}>
            <X size={15} />
          </Button>
        </span>
      ) : record ? (
        <span className="chip amber bench-record" title={record.title}>
          <Paperclip size={13} className="flex-shrink-0" aria-hidden="true" />
          <span className="text-truncate">
            {recordType(record.type)?.short ?? record.type} <code>{record.key}</code> {record.title}
          </span>
          {recordCertainty === null ? null : <span className="certainty">{percentText(recordCertainty)}</span>}
          <Button variant="quiet" className="p-0" aria-label={`Remove ${record.key}`} onClick={() => onSheet({ record: null, number: "" })}>
            <X size={15} />
          </Button>
        </span>
      ) : (
        <div className="bench-look-up">
          <LookUp
            handle={handle}
            company={company}
            placeholder="Clip to: number or name"
            onChoose={(hit) =>
              onSheet({
                record: { company: hit.company, type: hit.type, key: hit.key, title: hit.title },
                documentType: sheet.documentType ?? (usualType(me.documentTypes, hit.type, queue) || null),
              })
            }
          />
        </div>
      )}
      {(record || sheet.documentType !== null) && !sheet.asVersion ? (
        <>
          <Form.Select
            size="sm"
            aria-label={`Document type of document ${at + 1}`}
            style={{ width: 168 }}
            value={sheet.documentType ?? ""}
            onChange={(e) => onSheet({ documentType: e.target.value || null })}
          >
            <option value="">Type …</option>
            {[...usual, ...others].map((t) => (
              <option key={t.key} value={t.key}>
                {t.label}
              </option>
            ))}
          </Form.Select>
          {typeCertainty === null ? null : (
            <span className="certainty" title={`Certainty of the document type: ${percentText(typeCertainty)}`}>
              {percentText(typeCertainty)}
            </span>
          )}
          {record && type?.properties.some((p) => p.key === "documentNumber") ? (
            <Form.Control
              size="sm"
              aria-label={`Number of document ${at + 1}`}
              placeholder="Number"
              style={{ width: 104 }}
              value={sheet.number}
              onChange={(e) => onSheet({ number: e.target.value })}
            />
          ) : null}
        </>
      ) : null}
      <span className="ms-auto" />
      {needsCheck ? (
        <Button size="sm" variant="plain" onClick={() => onSheet({})} title="Confirm record and type  O">
          Check, then confirm <kbd>O</kbd>
        </Button>
      ) : null}
      {!record && isReading && !sheet.isSettled ? <span className="text-2 small">Reading …</span> : null}
      {versionOf && !record && !sheet.asVersion ? (
        <Button size="sm" variant="quiet" onClick={() => onSheet({ asVersion: true })}>
          Next version of {versionOf}
        </Button>
      ) : null}
      {onJoin ? (
        <Button
          size="sm"
          variant="quiet"
          onClick={onJoin}
          aria-label={`Join document ${at + 1} to the one before`}
          title="Join to the one before"
        >
          <ArrowBarUp size={15} />
        </Button>
      ) : null}
    </div>
  );
}
