"use client";
import { Button, Table } from "react-bootstrap";
import { Envelope, Files } from "react-bootstrap-icons";
import type { KnownInvoice, StatementCompared } from "#core/comparing/compare-statement.ts";
import { statedWords } from "#core/comparing/words.ts";
import type { Comparison } from "#server/comparing/load-comparison.ts";
import { Link } from "../kit/link.tsx";
import { useNotices } from "../kit/notices.tsx";
import { amountText, dayText } from "../kit/words.ts";
import { recordHref } from "../records/record-href.ts";
import { type PointAt, pointing } from "./pointing.ts";

const chipOf = { paid: "plum", "on-file": "moss", waiting: "amber", "other-amount": "rust", missing: "rust" } as const;

/** An account's statement beside the invoices we have, with a mail that asks for the missing ones. */
export function StatementTable({
  compared,
  comparison,
  onPoint,
}: {
  compared: StatementCompared;
  comparison: Comparison;
  onPoint: PointAt;
}) {
  const notices = useNotices();
  const { mail, beside } = comparison;
  const company = beside?.company ?? "";
  const copy = (): void => {
    if (!mail) return;
    void navigator.clipboard.writeText(`${mail.subject}\n\n${mail.body}`).then(
      () => notices.done("Mail copied"),
      () => notices.wrong(new Error("The browser does not allow copying.")),
    );
  };
  const differs = compared.stated !== null && Math.abs(Number(compared.sum) - Number(compared.stated)) >= 0.005;
  return (
    <>
      <Table size="sm" className="numbers">
        <thead>
          <tr>
            <th>Invoice</th>
            <th className="words">Dated</th>
            <th className="group">Their amount</th>
            <th>Our amount</th>
            <th className="words group">Our status</th>
          </tr>
        </thead>
        <tbody>
          {compared.lines.map((l, i) => {
            const { page, box } = l;
            return (
              <tr key={i} className={`is-${l.state}`} {...pointing({ text: l.number, page, box }, onPoint)}>
                <td className="mono">{l.number}</td>
                <td className="words">{dayText(l.date)}</td>
                <td className="group">{amountText(l.amount, null)}</td>
                <td className={l.state === "other-amount" ? "odd" : ""}>{amountText(l.known?.total, null)}</td>
                <td className="words group">
                  <span className={`chip ${chipOf[l.state]}`}>{statedWords[l.state]}</span>{" "}
                  {l.known ? <Known known={l.known} company={company} /> : null}
                  {l.known && !l.known.hasPaper ? <span className="text-2"> no document</span> : null}
                </td>
              </tr>
            );
          })}
        </tbody>
        <tfoot>
          <tr>
            <td colSpan={2}>Total{comparison.currency ? ` in ${comparison.currency}` : ""}</td>
            <td className={`group ${differs ? "odd" : ""}`}>{amountText(compared.sum, null)}</td>
            <td colSpan={2} className="words">
              {compared.stated === null ? "" : differs ? `its balance is ${amountText(compared.stated, null)}` : "equal to its balance"}
            </td>
          </tr>
        </tfoot>
      </Table>
      {compared.unstated.length > 0 ? (
        <p className="px-3 text-2 mb-2">
          Open in our books, not listed:{" "}
          {compared.unstated.slice(0, 12).map((u, i) => (
            <span key={u.at}>
              {i > 0 ? ", " : ""}
              <Known known={u} company={company} /> {amountText(u.total, null)}
            </span>
          ))}
          {compared.unstated.length > 12 ? ` and ${compared.unstated.length - 12} more` : ""}
        </p>
      ) : null}
      {mail ? (
        <div className="prepared-mail">
          <div className="d-flex align-items-center gap-2 mb-1">
            <strong>{mail.subject}</strong>
            {mail.to ? (
              <span className="text-2 text-truncate">to {mail.to}</span>
            ) : (
              <span className="text-2">the account has no mail address</span>
            )}
          </div>
          <pre>{mail.body}</pre>
          <div className="d-flex gap-2">
            <a
              className="btn btn-primary btn-sm"
              href={`mailto:${encodeURIComponent(mail.to ?? "")}?subject=${encodeURIComponent(mail.subject)}&body=${encodeURIComponent(mail.body)}`}
            >
              <Envelope size={14} aria-hidden="true" /> Open in the mail program
            </a>
            <Button variant="plain" size="sm" onClick={copy}>
              <Files size={14} aria-hidden="true" /> Copy
            </Button>
          </div>
        </div>
      ) : null}
    </>
  );
}

function Known({
  known,
  company,
}: {
  known: { readonly at: string; readonly as: KnownInvoice["as"]; readonly label: string };
  company: string;
}) {
  if (known.as === "arrival") return <Link href={`/arrivals?at=${known.at}`}>{known.label}</Link>;
  if (known.as === "document")
    return (
      <Link className="mono" href={`/documents/${known.at}`}>
        {known.label}
      </Link>
    );
  const [type = "", ...key] = known.at.split(":");
  return (
    <Link className="mono" href={recordHref({ company, type, key: key.join(":") })}>
      {known.label}
    </Link>
  );
}
