"use client";
import { Fragment, type ReactNode, type Ref, useState } from "react";
import { Button, Form } from "react-bootstrap";
import { ExclamationTriangle, Paperclip, PlusLg, X } from "react-bootstrap-icons";
import type { LookupHit } from "#server/records/look-up.ts";
import type { RecordAnswer } from "#server/records/load-record-page.ts";
import type { ShelfAnswer } from "#server/repository/shelves.ts";
import type { ReasonAnswer, SuggestionAnswer } from "#server/matching/load-suggestions.ts";
import { amountText, dayText } from "../kit/words.ts";
import type { Numbers } from "../pages/marks.ts";
import { useMe } from "../people/me-context.tsx";
import { LookUp, type LookUpHandle } from "../records/look-up.tsx";

export type Chosen = Pick<
  RecordAnswer,
  "company" | "type" | "key" | "title" | "status" | "date" | "amount" | "currency" | "fields" | "parent"
> &
  Partial<Pick<RecordAnswer, "chain">>;
/** Names one record. */
export type Named = Pick<LookupHit, "company" | "type" | "key">;
export const sameRecord = (a: Named, b: Named): boolean => a.company === b.company && a.type === b.type && a.key === b.key;

/** Records along the chain that are offered with the main one. */
const ALONG_SHOWN = 6;
/** Reasons shown at first: the strongest. */
const REASONS_SHOWN = 5;

/** Which records the document is clipped to: the program's suggestions with their reasons, those that were chosen, and the look-up. */
export function ClipTo({
  records,
  suggestions,
  numbers,
  company,
  shelves,
  shelf,
  lacks,
  handle,
  isProposed,
  onAdd,
  onLookedUp,
  onSeeking,
  onInstead,
  onFirst,
  onTakeOff,
  onShelf,
  onDraft,
  isNone,
  more,
}: {
  records: readonly Chosen[];
  suggestions: readonly SuggestionAnswer[];
  /** Numbers of reasons that stand on the page. */
  numbers: Numbers<ReasonAnswer>;
  company: string | undefined;
  shelves: readonly ShelfAnswer[];
  shelf: number | null;
  /** Somebody tried to file without any. */
  lacks: boolean;
  handle: Ref<LookUpHandle>;
  /** The record shown is only the program's proposal: what is looked up goes in its place. */
  isProposed: boolean;
  onAdd: (hit: Named) => void;
  onLookedUp: (hit: Named) => void;
  /** A record that was chosen is still sought. */
  onSeeking: (isSought: boolean) => void;
  /** Takes a suggestion in place of the main record. */
  onInstead: (hit: Named) => void;
  onFirst: (record: Chosen) => void;
  onTakeOff: (record: Chosen) => void;
  onShelf: (id: number | null) => void;
  /** Makes a record from the document; absent where nobody may. */
  onDraft?: () => void;
  /** The program has looked, and found none that it may belong to. */
  isNone: boolean;
  /** What else is to be said about a clip, in its card. */
  more?: (record: Chosen) => ReactNode;
}) {
  const { recordType } = useMe();
  const account = records.find((r) => recordType(r.type)?.kind === "standing") ?? null;
  const main = records[0];
  const parent = main?.parent && !records.some((r) => r.type === main.parent?.type) ? main.parent : null;
  // What is suggested anyway is not offered twice.
  const along = (main?.chain ?? [])
    .filter((r) => !records.some((o) => sameRecord(o, r)) && !(main && sameRecord(main, r)) && !suggestions.some((s) => sameRecord(s, r)))
    .slice(0, ALONG_SHOWN);
  const others = suggestions.filter((s) => !records.some((r) => sameRecord(r, s)));
  return (
    <section>
      <div className="head">
        <h2>Clip to</h2>
        <span className="text-2 small ms-auto">
          {isProposed ? "find another" : records.length > 0 ? "and another" : "look up"} <kbd>/</kbd>
        </span>
        {onDraft && !(records.length === 0 && isNone) ? (
          <button type="button" className="btn btn-quiet btn-sm p-0 ms-3" onClick={onDraft}>
            new record <kbd>N</kbd>
          </button>
        ) : null}
      </div>
      {records.map((r, i) => {
        const suggested = suggestions.find((s) => sameRecord(s, r));
        return (
          <div key={`${r.company}${r.type}${r.key}`} className={`clip-card ${i === 0 ? "is-main" : ""}`}>
            <Paperclip size={18} className="loop" aria-hidden="true" />
            <div style={{ minWidth: 0 }}>
              <div className="fw-bold">
                {recordType(r.type)?.label} <span className="mono">{r.key}</span>
              </div>
              <div className="text-2 small">
                {[r.title, amountText(r.amount, r.currency), dayText(r.date), r.status].filter(Boolean).join(" · ")}
              </div>
              {i > 0 ? (
                <button type="button" className="btn btn-quiet btn-sm p-0 text-decoration-underline" onClick={() => onFirst(r)}>
                  store here
                </button>
              ) : records.length > 1 ? (
                <div className="small text-3">decides the location</div>
              ) : null}
              {i === 0 && suggested ? <Reasons suggestion={suggested} numbers={numbers} isClose={isClose(suggested, suggestions)} /> : null}
              {more?.(r)}
            </div>
            <div className="d-flex flex-column align-items-end">
              {suggested ? <Certainty suggestion={suggested} /> : null}
              <Button variant="quiet" aria-label={`Remove ${r.key}`} onClick={() => onTakeOff(r)}>
                <X size={18} />
              </Button>
            </div>
          </div>
        );
      })}
      {parent ? (
        <button
          type="button"
          className="clip-card w-100 text-start"
          onClick={() => onAdd({ company: main?.company ?? "", type: parent.type, key: parent.key })}
        >
          <Paperclip size={18} className="loop" aria-hidden="true" />
          <span style={{ minWidth: 0 }}>
            <strong>{parent.title}</strong> <span className="mono">{parent.key}</span>
            <span className="d-block text-2 small">
              {recordType(parent.type)?.label.toLowerCase()}, parent {main?.key}
            </span>
          </span>
          <span className="text-2">add</span>
        </button>
      ) : null}
      {along.length > 0 ? (
        <div className="along" role="group" aria-label={`Along the chain of ${main?.key ?? ""}`}>
          {along.map((r) => (
            <button key={`${r.type}${r.key}`} type="button" className="chip border-0" title={r.title} onClick={() => onAdd(r)}>
              <PlusLg size={11} aria-hidden="true" /> {recordType(r.type)?.short ?? r.type} <span className="mono">{r.key}</span>
            </button>
          ))}
        </div>
      ) : null}
      {others.length > 0 ? (
        <ul className="suggestions" aria-label={records.length > 0 ? "Other suggestions" : "Suggestions"}>
          {others.map((s) => {
            const number = suggestions.indexOf(s) + 1;
            const [first] = s.reasons;
            return (
              <li key={`${s.company}${s.type}${s.key}`}>
                <button type="button" onClick={() => onInstead(s)} title={s.reasons.map((r) => r.words).join(" · ")}>
                  <kbd>{number}</kbd>
                  <span className="what">
                    <strong>
                      {recordType(s.type)?.label} <span className="mono">{s.key}</span>
                    </strong>
                    <span className="d-block text-2 small text-truncate">
                      {[s.title, amountText(s.amount, s.currency), s.status, first?.words].filter(Boolean).join(" · ")}
                    </span>
                  </span>
                  <Certainty suggestion={s} />
                </button>
              </li>
            );
          })}
        </ul>
      ) : null}
      <LookUp
        handle={handle}
        company={company}
        parent={account && records.length === 1 ? account : undefined}
        onChoose={onLookedUp}
        onSeeking={onSeeking}
        placeholder={account && records.length === 1 ? `Of ${account.title}` : "Number, name or any field"}
      />
      {records.length === 0 && shelves.length > 0 ? (
        <Form.Select
          size="sm"
          className="mt-2"
          aria-label="Or put it on a shelf"
          value={shelf ?? ""}
          onChange={(e) => onShelf(e.target.value === "" ? null : Number(e.target.value))}
        >
          <option value="">or, for a document without a record, a shelf</option>
          {shelves.map((s) => (
            <option key={s.id} value={s.id}>
              {s.path.split("/").join(" › ")}
            </option>
          ))}
        </Form.Select>
      ) : null}
      {onDraft && records.length === 0 && isNone ? (
        <div className="none-of-ours">
          <span>No matching record found.</span>
          <Button variant="plain" size="sm" className="text-nowrap" onClick={onDraft}>
            <PlusLg size={12} aria-hidden="true" /> New record <kbd>N</kbd>
          </Button>
        </div>
      ) : null}
      {lacks ? <div className="problem mt-1">Choose the record this document belongs to.</div> : null}
    </section>
  );
}

/** A rival below this is not worth a line of its own beside what is sure. */
const RIVAL_FROM = 0.05;
const isClose = (suggestion: SuggestionAnswer, all: readonly SuggestionAnswer[]): boolean =>
  suggestion.verdict !== "sure" || all.some((s) => s !== suggestion && s.certainty >= RIVAL_FROM);

/** How sure the program is; moss only where it says that it is sure. */
function Certainty({ suggestion }: { suggestion: SuggestionAnswer }) {
  const percent = Math.min(99, Math.round(suggestion.certainty * 100));
  return (
    <span
      className={`certainty is-${suggestion.verdict}`}
      title={suggestion.verdict === "sure" ? "Certain" : "Not certain: check the reasons"}
    >
      {percent} %
    </span>
  );
}

/** One line: what this one has that the next has not, and the other way round. */
function ToldApart({ apart: { key, own, others, isAsLikely } }: { apart: NonNullable<SuggestionAnswer["apart"]> }) {
  const other = <span className="mono">{key}</span>;
  const parts = [
    own.length > 0 ? (
      <>
        Only this record, not {other}: {own.join(", ")}.
      </>
    ) : null,
    others.length > 0 ? (
      <>
        Only {other}: {others.join(", ")}.
      </>
    ) : null,
    own.length + others.length === 0 ? <>The same reasons apply to {other}.</> : null,
  ].filter((part) => part !== null);
  return (
    <p className="told-apart">
      {isAsLikely ? <strong>{other} is equally likely. </strong> : null}
      {parts.map((part, i) => (
        <Fragment key={i}>{part} </Fragment>
      ))}
    </p>
  );
}

/** Reasons as chips, numbered where they stand on the page; what clashes is a sentence of its own. How it differs from the next one is said where that is close. */
function Reasons({ suggestion, numbers, isClose }: { suggestion: SuggestionAnswer; numbers: Numbers<ReasonAnswer>; isClose: boolean }) {
  const [all, setAll] = useState(false);
  const { reasons, apart } = suggestion;
  const more = reasons.length - REASONS_SHOWN;
  return (
    <>
      <ul className="reasons" aria-label="Reasons">
        {(all ? reasons : reasons.slice(0, REASONS_SHOWN)).map((r) => (
          <li key={r.kind} className={`chip ${r.against ? "rust" : ""}`} title={r.text}>
            {numbers.get(r) !== undefined ? <span className="place-number">{numbers.get(r)}</span> : null}
            {r.words}
          </li>
        ))}
        {!all && (more > 0 || (apart && !isClose)) ? (
          <li>
            <button type="button" className="chip border-0" onClick={() => setAll(true)}>
              {more > 0 ? `${more} more` : `not for ${apart?.key ?? ""}`}
            </button>
          </li>
        ) : null}
      </ul>
      {apart && (isClose || all) ? <ToldApart apart={apart} /> : null}
      {suggestion.clashes
        .filter((c) => c.code !== "alike")
        .map((c) => (
          <p key={c.code} className="clash" role={c.code === "iban-differs" ? "alert" : undefined}>
            <ExclamationTriangle size={14} aria-hidden="true" /> {c.words}
          </p>
        ))}
    </>
  );
}
