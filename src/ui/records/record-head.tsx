"use client";
import { Fragment, type ReactNode, useState } from "react";
import { Button } from "react-bootstrap";
import { ArrowRight, ClockHistory, Copy, Folder2, Printer, UpcScan } from "react-bootstrap-icons";
import type { RecordAnswer } from "#server/records/load-record-page.ts";
import { queryOf } from "../kit/api.ts";
import { Link } from "../kit/link.tsx";
import { useNotices } from "../kit/notices.tsx";
import { amountText, countText, dayText } from "../kit/words.ts";
import { useMe } from "../people/me-context.tsx";
import { Answering } from "./answering.tsx";
import { PrintCodes } from "./print-codes.tsx";
import { ScanDialog } from "./scan-dialog.tsx";
import { recordHref } from "./record-href.ts";

/** Facts shown in the head; the rest of the fields are for the business system. */
const FACTS_MAX = 5;
const lower = (text: string | undefined): string => (text ?? "record").toLowerCase();

/** What a record is: title, account above, its main facts, its chain, what is beneath it, its folder. */
export function RecordHead({
  record: r,
  onTimeline,
  children,
}: {
  record: RecordAnswer;
  onTimeline: () => void;
  /** Its checklist. */
  children?: ReactNode;
}) {
  const { me, recordType } = useMe();
  const [printing, setPrinting] = useState(false);
  const [scanning, setScanning] = useState(false);
  const notices = useNotices();
  const type = recordType(r.type);
  const facts = (type?.fields ?? [])
    .filter((f) => r.fields[f.key] && !["currency", "net", "tax", "documentNumber", "name"].includes(f.key))
    .slice(0, FACTS_MAX);
  const copyPlace = (): void => {
    if (r.folder)
      void navigator.clipboard
        .writeText(r.folder.location)
        .then(() => notices.done("Location copied", { more: r.folder?.location ?? "" }), notices.wrong);
  };
  return (
    <header className="px-3 px-md-4 pt-3 pb-2 border-bottom" style={{ flex: "none" }}>
      <div className="d-flex align-items-center flex-wrap gap-2 mb-2">
        <h2 style={{ fontSize: "1.25rem" }}>{r.title}</h2>
        {r.status ? <span className="chip sea">{r.status}</span> : null}
        <span className="ms-auto" />
        {me.may.file ? (
          <Button variant="quiet" onClick={() => setPrinting(true)}>
            <UpcScan /> Cover sheet
          </Button>
        ) : null}
        {me.may.add ? (
          <Button variant="quiet" onClick={() => setScanning(true)} title="Assign the next scanned batch to this record">
            <Printer /> Scan
          </Button>
        ) : null}
        <Button variant="quiet" onClick={onTimeline}>
          <ClockHistory /> Timeline
        </Button>
      </div>
      <dl className="facts mb-0">
        {r.parent ? (
          <div>
            <dt>Account</dt>
            <dd>
              <Link href={recordHref({ ...r.parent })} className="fw-bold">
                {r.parent.title}
              </Link>{" "}
              <span className="mono">{r.parent.key}</span>
            </dd>
          </div>
        ) : type && type.parent.length > 0 && type.parent.every((t) => recordType(t)) ? (
          <div>
            <dt>Account</dt>
            <dd>
              <span className="chip amber">none yet</span>
            </dd>
          </div>
        ) : null}
        {facts.map((f) => (
          <div key={f.key}>
            <dt>{f.label}</dt>
            <dd className={f.kind === "amount" || f.key === "iban" ? "mono" : ""}>
              {f.kind === "date"
                ? dayText(String(r.fields[f.key]))
                : f.kind === "amount"
                  ? amountText(String(r.fields[f.key]), r.currency)
                  : String(r.fields[f.key])}
            </dd>
          </div>
        ))}
        {r.chain.length > 1 ? (
          <div>
            <dt>Chain</dt>
            <dd className="d-flex flex-wrap align-items-center gap-1">
              {r.chain.slice(0, 9).map((c, i) => (
                <Fragment key={c.type + c.key}>
                  {i > 0 ? <ArrowRight size={13} aria-hidden="true" className="text-3" /> : null}
                  {c.type === r.type && c.key === r.key ? (
                    <span className="chip btn-on">
                      {recordType(c.type)?.short} {c.key}
                    </span>
                  ) : (
                    <Link href={recordHref(c)} className="chip">
                      {recordType(c.type)?.short} {c.key}
                    </Link>
                  )}
                </Fragment>
              ))}
            </dd>
          </div>
        ) : null}
        {r.children.length > 0 ? (
          <div>
            <dt>Child records</dt>
            <dd className="d-flex flex-wrap align-items-center gap-1">
              {r.children.map((b) => (
                <Link
                  key={b.type}
                  href={`/records/${b.type}${queryOf({ parent: `${r.type}:${r.key}`, company: r.company })}`}
                  className="chip"
                >
                  {countText(b.count, lower(recordType(b.type)?.label), lower(recordType(b.type)?.plural))}
                </Link>
              ))}
            </dd>
          </div>
        ) : null}
        {r.responsible || r.may.edit ? (
          <div>
            <dt>Responsible</dt>
            <dd>
              <Answering record={r} />
            </dd>
          </div>
        ) : null}
        {r.folder ? (
          <div>
            <dt>Folder</dt>
            <dd>
              <button type="button" className="btn btn-quiet p-0" onClick={copyPlace} title={r.folder.location}>
                <Folder2 /> {r.folder.path.split("/").at(-1)} <Copy size={12} aria-label="copy location" />
              </button>
            </dd>
          </div>
        ) : null}
      </dl>
      {children}
      {scanning ? <ScanDialog record={r} onHide={() => setScanning(false)} /> : null}
      {printing ? <PrintCodes records={[r]} onHide={() => setPrinting(false)} /> : null}
    </header>
  );
}
