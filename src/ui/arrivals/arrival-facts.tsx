"use client";
import { problemWords } from "#core/arrivals/problems.ts";
import type { ArrivalAnswer } from "#server/arrivals/list-arrivals.ts";
import { When } from "../kit/parts.tsx";
import { countText, sizeText, sourceWords, stateWords } from "../kit/words.ts";
import { SayForm } from "./say-form.tsx";
import { useMe } from "../people/me-context.tsx";

/** What is known of an arrival, for people who look at it and do not file it. */
export function ArrivalFacts({ arrival: a, onSaid }: { arrival: ArrivalAnswer; onSaid: () => void }) {
  const { me } = useMe();
  const facts: readonly (readonly [string, React.ReactNode])[] = [
    ["State", stateWords[a.state] ?? a.state],
    ["Received", <When key="when" at={a.receivedAt} />],
    ["From", [a.sender ?? a.receivedBy, sourceWords[a.source]].filter(Boolean).join(" · ")],
    ...(a.mail?.spf || a.mail?.dkim
      ? [
          [
            "Sender check",
            [a.mail.spf ? `SPF ${a.mail.spf}` : null, a.mail.dkim ? `DKIM ${a.mail.dkim}` : null].filter(Boolean).join(" · "),
          ] as const,
        ]
      : []),
    ...(a.mail?.junk ? [["Possible junk", a.mail.junk] as const] : []),
    ["Queue", me.queues.find((q) => q.key === a.queue)?.label ?? a.queue],
    ["Company", me.companies.find((c) => c.code === a.company)?.name ?? "not known"],
    ["Size", [a.pages ? countText(a.pages, "page") : null, sizeText(a.bytes)].filter(Boolean).join(" · ")],
    ...(a.note ? [["Note", a.note] as const] : []),
    ...(a.problem ? [["Problem", problemWords[a.problem.code].what] as const] : []),
  ];
  return (
    <div className="know" tabIndex={0} role="region" aria-label="Arrival details">
      <section>
        <h2 className="mb-2 text-break">{a.fileName}</h2>
        <dl className="mb-0">
          {facts.map(([name, value]) => (
            <div key={name} className="field-row">
              <dt className="fw-normal text-2">{name}</dt>
              <dd className="mb-0 text-break">{value}</dd>
            </div>
          ))}
        </dl>
      </section>
      {me.may.add && a.isMine ? <SayForm arrival={a} onSaid={onSaid} /> : null}
      <section className="text-2">
        You need a role that can file; yours {me.may.add ? "lets you add and read documents" : "lets you read"}.
      </section>
    </div>
  );
}
