"use client";
import { type MouseEvent, useMemo, useState } from "react";
import { Table } from "react-bootstrap";
import { type Cell, cellsOfTable, MAIL_TEXT_LINE } from "#core/pages/text-page.ts";
import type { EInvoice } from "#core/reading/e-invoice.ts";
import { type Box, boxAround } from "#core/reading/page-lines.ts";
import type { Outline, TableSheet } from "#server/reading/read-outcome.ts";
import { Icon } from "../kit/icon.tsx";
import { amountText, countText, dayText, fullTime, sizeText } from "../kit/words.ts";
import { isWithin } from "./typed-pieces.ts";
import { hitClass, MarkNumber, markClass, TypedText, type TypedProps } from "./typed-text.tsx";

/** A table's sheets, as plain cells: nothing in them is worked out or followed. A click on one takes what it holds, while a field wants words. */
export function TableView({ sheets, marks, hits, onPick }: TypedProps & { sheets: readonly TableSheet[] }) {
  const [shown, setShown] = useState(0);
  // The sheet follows what is pointed at from beside it, or searched for.
  const wanted = hits.find((h) => h.now)?.page ?? marks.find((m) => m.now)?.page;
  const [followed, setFollowed] = useState<number | undefined>(undefined);
  if (wanted !== followed) {
    setFollowed(wanted);
    if (wanted !== undefined) setShown(wanted - 1);
  }
  const sheet = sheets[shown];
  const cells = useMemo(() => new Map(cellsOfTable(sheet?.rows ?? []).map((c) => [`${c.row} ${c.column}`, c])), [sheet]);
  return (
    <>
      {sheets.length > 1 ? (
        <div className="d-flex gap-1 mb-2 flex-wrap" role="group" aria-label="Sheets">
          {sheets.map((s, i) => (
            <button
              key={i}
              type="button"
              className={`btn btn-sm btn-plain ${i === shown ? "btn-on" : ""}`}
              aria-pressed={i === shown}
              onClick={() => setShown(i)}
            >
              {s.name || `Sheet ${i + 1}`}
            </button>
          ))}
        </div>
      ) : null}
      {sheet ? (
        <div className={`grid-paper ${onPick ? "is-picking" : ""}`} tabIndex={0} role="region" aria-label="Table" data-page={shown + 1}>
          {sheets.length === 1 && sheet.name ? (
            <h2 className="p-2 mb-0">
              <TypedText text={sheet.name} marks={marks} hits={hits} onPick={onPick} />
            </h2>
          ) : null}
          <Table size="sm">
            <tbody>
              {sheet.rows.slice(0, 500).map((row, r) => (
                <tr key={r}>
                  {row.map((text, i) => (
                    <TableCell
                      key={i}
                      text={text}
                      cell={cells.get(`${r} ${i}`)}
                      page={shown + 1}
                      marks={marks}
                      hits={hits}
                      onPick={onPick}
                    />
                  ))}
                </tr>
              ))}
            </tbody>
          </Table>
        </div>
      ) : null}
      {sheet && (sheet.truncated || sheet.rows.length > 500) ? (
        <p className="text-2 text-center mt-2">
          The first {countText(Math.min(500, sheet.rows.length), "row")}; download the file to see all.
        </p>
      ) : null}
    </>
  );
}

function TableCell({ text, cell, page, marks, hits, onPick }: TypedProps & { text: string; cell: Cell | undefined; page: number }) {
  if (!cell) return <td>{text}</td>;
  const isOn = (of: { readonly page: number; readonly box: Box }): boolean =>
    of.page === page && cell.words.some((w) => isWithin(w, of.box));
  const on = marks.filter(isOn);
  const found = hits.filter(isOn);
  const mark = on.find((m) => m.now) ?? on[0];
  return (
    <td
      className={`${mark ? markClass(mark) : ""} ${hitClass(found.some((h) => h.now) ? "now" : found.length > 0 ? "yes" : "no")}`}
      {...(onPick
        ? {
            // The field that wants the words keeps the keyboard.
            onMouseDown: (e: MouseEvent) => e.preventDefault(),
            onClick: () => onPick({ page, box: boxAround(cell.words.map((w) => w.box)), text: cell.words.map((w) => w.text).join(" ") }),
          }
        : {})}
    >
      {text}
      {on.map((m) => (
        <MarkNumber key={m.number} mark={m} />
      ))}
    </td>
  );
}

/** A mail: who, what, its text, and its parts. */
export function MailView({ mail, ...typed }: TypedProps & { mail: Extract<Outline, { kind: "mail" }> }) {
  return (
    <article className="plain-paper" data-page={1}>
      <h2 className="mb-2">{mail.subject ? <TypedText text={mail.subject} {...typed} /> : "(no subject)"}</h2>
      <dl className="facts mb-3 pb-2 border-bottom">
        <div>
          <dt>From</dt>
          <dd>{mail.from}</dd>
        </div>
        <div>
          <dt>To</dt>
          <dd>{mail.to}</dd>
        </div>
        {mail.cc ? (
          <div>
            <dt>Copy</dt>
            <dd>{mail.cc}</dd>
          </div>
        ) : null}
        {mail.sentAt ? (
          <div>
            <dt>Sent</dt>
            <dd suppressHydrationWarning>{fullTime(mail.sentAt)}</dd>
          </div>
        ) : null}
      </dl>
      <div className="prose">
        <TypedText text={mail.text} firstLine={MAIL_TEXT_LINE} {...typed} />
      </div>
      {mail.parts.length > 0 ? (
        <div className="mt-4 pt-2 border-top">
          <h3 className="mb-2">{countText(mail.parts.length, "part")}</h3>
          {mail.parts.map((p) => (
            <div key={p.part} className="d-flex gap-2 align-items-center py-1">
              <Icon name="clip" />
              <span>{p.fileName}</span>
              <span className="text-3">
                {sizeText(p.sizeBytes)}
                {p.aside ? " · not kept" : " · a separate arrival"}
              </span>
            </div>
          ))}
        </div>
      ) : null}
    </article>
  );
}

/** Plain text; lines as they are. */
export function TextView({ text, mono, ...typed }: TypedProps & { text: string; mono: boolean }) {
  const shown = <TypedText text={text} {...typed} />;
  return (
    <article className="plain-paper" data-page={1}>
      {mono ? <pre>{shown}</pre> : <div className="prose">{shown}</div>}
    </article>
  );
}

/** An e-invoice, readable: who to whom, its lines and sums, exactly as it says. */
export function InvoiceView({ invoice }: { invoice: EInvoice }) {
  const fact = (label: string, value: string | null): React.ReactNode =>
    value ? (
      <div>
        <dt>{label}</dt>
        <dd>{value}</dd>
      </div>
    ) : null;
  const money = (value: string | null): string => (value === null ? "" : amountText(value, null));
  return (
    <article className="plain-paper e-invoice">
      <div className="d-flex justify-content-between gap-3 mb-3">
        <div>
          <strong>{invoice.seller.name}</strong>
          <div className="text-2">{invoice.seller.address}</div>
        </div>
        <div className="text-end">
          <h2 className="mb-0">{invoice.isCredit ? "Credit note" : "Invoice"}</h2>
          <span className="mono">{invoice.number}</span>
        </div>
      </div>
      <dl className="facts mb-3 pb-2 border-bottom">
        {fact("For", [invoice.buyer.name, invoice.buyer.address].filter(Boolean).join(", "))}
        {fact("Dated", dayText(invoice.date))}
        {fact("Due", dayText(invoice.dueDate))}
        {fact("Delivered", dayText(invoice.deliveryDate))}
        {fact("Your order", invoice.orderReference)}
        {fact("Your reference", invoice.buyerReference)}
        {fact("VAT number", invoice.seller.vatNumber)}
        {fact("IBAN", invoice.ibans.join(", "))}
      </dl>
      <Table size="sm">
        <thead>
          <tr>
            <th>Description</th>
            <th className="text-end">Quantity</th>
            <th className="text-end">Price</th>
            <th className="text-end">Amount</th>
          </tr>
        </thead>
        <tbody>
          {invoice.lines.slice(0, 500).map((l, i) => (
            <tr key={i}>
              <td>{l.text}</td>
              <td className="text-end mono">{l.quantity === null ? "" : Number(l.quantity).toLocaleString("en-GB")}</td>
              <td className="text-end mono">
                {l.price === null ? "" : Number(l.price).toLocaleString("en-GB", { minimumFractionDigits: 2, maximumFractionDigits: 4 })}
              </td>
              <td className="text-end mono">{money(l.amount)}</td>
            </tr>
          ))}
        </tbody>
        <tfoot>
          {(
            [
              ["Net", invoice.net],
              ["VAT", invoice.tax],
              [`Total ${invoice.currency ?? ""}`, invoice.total ?? invoice.payable],
            ] as const
          ).map(([label, value]) => (
            <tr key={label}>
              <td colSpan={3} className="text-end">
                {label}
              </td>
              <td className="text-end mono fw-bold">{money(value)}</td>
            </tr>
          ))}
        </tfoot>
      </Table>
      {invoice.note ? <p className="text-2 mb-0">{invoice.note}</p> : null}
    </article>
  );
}
