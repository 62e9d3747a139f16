"use client";
import { Button, Table } from "react-bootstrap";
import { X } from "react-bootstrap-icons";
import type { InvoiceCompared } from "#core/comparing/compare-invoice.ts";
import type { DeliveryCompared } from "#core/comparing/compare-delivery.ts";
import { deliveredWords, wordsOfFinding } from "#core/comparing/words.ts";
import type { Comparison } from "#server/comparing/load-comparison.ts";
import { Link } from "../kit/link.tsx";
import { amountText, countText } from "../kit/words.ts";
import { useMe } from "../people/me-context.tsx";
import { recordHref } from "../records/record-href.ts";
import { type PointAt, pointing } from "./pointing.ts";
import { StatementTable } from "./statement-table.tsx";

/** The document beside its record, line by line. */
export function ComparisonPanel({ comparison, onClose, onPoint }: { comparison: Comparison; onClose: () => void; onPoint: PointAt }) {
  const { recordType } = useMe();
  const { compared, beside } = comparison;
  if (!compared || !beside) return null;
  return (
    <section className="beside" aria-label={`Compared with ${beside.key}`} onMouseLeave={() => onPoint(null)}>
      <header>
        <h2>
          Compared with {recordType(beside.type)?.label.toLowerCase()} <Link href={recordHref(beside)}>{beside.key}</Link>
        </h2>
        <span className="text-2 text-truncate">{beside.title}</span>
        <Button variant="quiet" className="ms-auto" aria-label="Close the comparison" onClick={onClose}>
          <X size={20} />
        </Button>
      </header>
      <div className="beside-scroll" tabIndex={0} role="region" aria-label="Lines compared">
        {compared.kind === "invoice" ? <InvoiceTable compared={compared} currency={comparison.currency} onPoint={onPoint} /> : null}
        {compared.kind === "delivery" ? <DeliveryTable compared={compared} onPoint={onPoint} /> : null}
        {compared.kind === "statement" ? <StatementTable compared={compared} comparison={comparison} onPoint={onPoint} /> : null}
      </div>
    </section>
  );
}

const figure = (value: string | null | undefined): string =>
  value == null ? "" : /\.\d{3,}$/.test(value) ? value : amountText(value, null);
/** A quantity for people: 6,400. */
const count = (value: string | null | undefined): string => {
  if (value == null) return "";
  const [whole = "", places] = value.split(".");
  return whole.replace(/\B(?=(\d{3})+(?!\d))/g, ",") + (places === undefined ? "" : `.${places}`);
};

function InvoiceTable({ compared, currency, onPoint }: { compared: InvoiceCompared; currency: string | null; onPoint: PointAt }) {
  const hasReceived = compared.lines.some((l) => l.received !== null);
  const hasBefore = compared.lines.some((l) => l.invoicedBefore !== null && l.invoicedBefore !== "0");
  const findingsOf = (line: number): readonly string[] => compared.findings.filter((f) => f.line === line).map((f) => f.code);
  const whole = compared.findings.filter((f) => f.line === null);
  const span = 2 + Number(hasReceived) + Number(hasBefore);
  return (
    <>
      {whole.length > 0 ? (
        <ul className="findings">
          {whole.map((f) => (
            <li key={f.code + f.what} className={f.code === "within-tolerance" ? "text-2" : "problem"}>
              {wordsOfFinding(f, currency)}
            </li>
          ))}
        </ul>
      ) : null}
      <Table size="sm" className="numbers">
        <thead>
          <tr>
            <th rowSpan={2}>Line</th>
            <th colSpan={span} className="group">
              Quantity
            </th>
            <th colSpan={2} className="group">
              Price
            </th>
            <th rowSpan={2} className="group">
              Difference
            </th>
          </tr>
          <tr>
            <th className="group">document</th>
            <th>ordered</th>
            {hasReceived ? <th>received</th> : null}
            {hasBefore ? <th>invoiced earlier</th> : null}
            <th className="group">document</th>
            <th>order</th>
          </tr>
        </thead>
        <tbody>
          {compared.lines.map((l, i) => {
            const codes = l.paper ? findingsOf(i) : [];
            const odd = (prefix: string): string => (codes.some((c) => c.startsWith(prefix)) ? "odd" : "");
            return (
              <tr key={i} className={`is-${l.state}`} {...pointing(l, onPoint)}>
                <td>
                  {l.text}
                  {l.state === "unordered" ? <span className="chip rust ms-1">not ordered</span> : null}
                  {l.state === "missing" ? <span className="chip ms-1">not on the document</span> : null}
                </td>
                <td className={`group ${odd("quantity")}`}>
                  {count(l.paper?.quantity)} <span className="text-2">{l.paper ? l.unit : ""}</span>
                </td>
                <td>{count(l.order?.quantity)}</td>
                {hasReceived ? <td className={odd("quantity-over-received")}>{count(l.received)}</td> : null}
                {hasBefore ? <td>{count(l.invoicedBefore)}</td> : null}
                <td className={`group ${odd("price")}`}>{figure(l.paper?.price)}</td>
                <td>{figure(l.order?.price)}</td>
                <td className={`group ${l.state === "apart" ? "odd" : ""}`}>
                  {l.difference === null || Number(l.difference) === 0 ? "" : signed(l.difference)}
                </td>
              </tr>
            );
          })}
          {compared.lines.length === 0 ? (
            <tr>
              <td colSpan={span + 4} className="text-2">
                One of them has no lines, so only totals are compared.
              </td>
            </tr>
          ) : null}
        </tbody>
        {compared.sums.of ? (
          <tfoot>
            <tr>
              <td colSpan={1 + span}>
                {compared.sums.of === "net" ? "Net" : "Total"}
                {currency ? ` in ${currency}` : ""}
                {Number(compared.sums.invoicedBefore) > 0 ? (
                  <span className="text-2"> · {amountText(compared.sums.invoicedBefore, null)} invoiced earlier</span>
                ) : null}
              </td>
              <td className="group">{figure(compared.sums.paper)}</td>
              <td>{figure(compared.sums.order)}</td>
              <td className={`group ${whole.some((f) => f.code.startsWith("total")) ? "odd" : ""}`}>
                {compared.sums.difference === null
                  ? ""
                  : Number(compared.sums.difference) === 0
                    ? "none"
                    : signed(compared.sums.difference)}
              </td>
            </tr>
          </tfoot>
        ) : null}
      </Table>
    </>
  );
}

const signed = (value: string): string => (Number(value) > 0 ? `+${amountText(value, null)}` : amountText(value, null).replace("-", "−"));

function DeliveryTable({ compared, onPoint }: { compared: DeliveryCompared; onPoint: PointAt }) {
  const hasBefore = compared.lines.some((l) => l.receivedBefore !== null);
  return (
    <>
      {compared.fields.length > 0 ? (
        <ul className="findings">
          {compared.fields.map((f) => (
            <li key={f.field} className={f.isSame ? "text-2" : "problem"}>
              {f.field}: {f.isSame ? `${f.paper} on both` : `${f.paper} on the document, ${f.record} on the record`}
            </li>
          ))}
        </ul>
      ) : null}
      {compared.lines.length > 0 ? (
        <Table size="sm" className="numbers">
          <thead>
            <tr>
              <th>Line</th>
              <th className="group">Delivered</th>
              <th>Ordered</th>
              {hasBefore ? <th>Received so far</th> : null}
              <th className="group">Difference</th>
              <th>
                <span className="visually-hidden">State</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {compared.lines.map((l, i) => (
              <tr key={i} className={`is-${l.state}`} {...pointing(l, onPoint)}>
                <td>{l.text}</td>
                <td className="group">
                  {count(l.delivered)} <span className="text-2">{l.delivered === null ? "" : l.unit}</span>
                </td>
                <td>{count(l.ordered)}</td>
                {hasBefore ? <td>{count(l.receivedBefore)}</td> : null}
                <td className={`group ${l.state === "short" || l.state === "over" ? "odd" : ""}`}>
                  {l.difference === null || Number(l.difference) === 0 ? "" : l.difference.replace("-", "−")}
                </td>
                <td className="words">
                  <span className={`chip ${l.state === "same" || l.state === "within" ? "moss" : "rust"}`}>{deliveredWords[l.state]}</span>
                </td>
              </tr>
            ))}
          </tbody>
        </Table>
      ) : (
        <p className="text-2 px-3 pt-2 mb-0">The record has no lines; {countText(compared.fields.length, "fact")} of its fields match.</p>
      )}
    </>
  );
}
