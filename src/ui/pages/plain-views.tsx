"use client";
import { useState } from "react";
import { Table } from "react-bootstrap";
import type { EInvoice } from "#core/reading/e-invoice.ts";
import type { Outline, TableSheet } from "#server/reading/read-outcome.ts";
import { Icon } from "../kit/icon.tsx";
import { amountText, countText, dayText, fullTime, sizeText } from "../kit/words.ts";

/** A table's sheets, as plain cells: nothing in them is worked out or followed. */
export function TableView({ sheets }: { sheets: readonly TableSheet[] }) {
  const [shown, setShown] = useState(0);
  const sheet = sheets[shown];
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
        <div className="grid-paper" tabIndex={0} role="region" aria-label="Table">
          <Table size="sm">
            <tbody>
              {sheet.rows.slice(0, 500).map((row, r) => (
                <tr key={r}>
                  {row.map((cell, i) => (
                    <td key={i}>{cell}</td>
                  ))}
                </tr>
              ))}
            </tbody>
          </Table>
        </div>
      ) : null}
      {sheet && (sheet.truncated || sheet.rows.length > 500) ? (
        <p className="text-2 text-center mt-2">The first {countText(Math.min(500, sheet.rows.length), "row")}; download it for all.</p>
      ) : null}
    </>
  );
}

/** A mail: who, what, its text, and its parts. */
export function MailView({ mail }: { mail: Extract<Outline, { kind: "mail" }> }) {
  return (
    <article className="plain-paper">
      <h2 className="mb-2">{mail.subject || "(no subject)"}</h2>
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
      <div className="prose">{mail.text}</div>
      {mail.parts.length > 0 ? (
        <div className="mt-4 pt-2 border-top">
          <h3 className="mb-2">{countText(mail.parts.length, "part")}</h3>
          {mail.parts.map((p) => (
            <div key={p.part} className="d-flex gap-2 align-items-center py-1">
              <Icon name="clip" />
              <span>{p.fileName}</span>
              <span className="text-3">
                {sizeText(p.sizeBytes)}
                {p.aside ? " · left aside" : " · an arrival of its own"}
              </span>
            </div>
          ))}
        </div>
      ) : null}
    </article>
  );
}

/** Plain text; lines as they are. */
export function TextView({ text, mono }: { text: string; mono: boolean }) {
  return <article className="plain-paper">{mono ? <pre>{text}</pre> : <div className="prose">{text}</div>}</article>;
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
