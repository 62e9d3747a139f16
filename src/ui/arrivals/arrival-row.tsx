"use client";
import { useState } from "react";
import { Form } from "react-bootstrap";
import { Paperclip } from "react-bootstrap-icons";
import { type ContentKind, contentKinds, hasPictures } from "#core/arrivals/limits.ts";
import { problemWords } from "#core/arrivals/problems.ts";
import type { ArrivalAnswer } from "#server/arrivals/list-arrivals.ts";
import { Icon, kindIcon } from "../kit/icon.tsx";
import { briefTime, countText, fullTime, sizeText, sourceWords } from "../kit/words.ts";

/** One arrival in the list of what waits: its first page, its name, where it came from, and what is to be known of it. */
export function ArrivalRow({
  arrival,
  asPicture,
  chosen,
  ticked,
  anyTicked,
  recordLabel,
  myId,
  onOpen,
  onTick,
}: {
  arrival: ArrivalAnswer;
  /** A larger first page with the name beneath it. */
  asPicture: boolean;
  chosen: boolean;
  ticked: boolean;
  anyTicked: boolean;
  recordLabel: string | null;
  /** Whoever looks: their own claim is no news. */
  myId: string;
  onOpen: (e: React.MouseEvent) => void;
  onTick: (range: boolean) => void;
}) {
  const picture = arrival.pages !== null && hasPictures(arrival.kind) && arrival.state !== "failed";
  /** Its picture did not come, as while its file cannot be reached: its kind is shown then. */
  const [isUnseen, setUnseen] = useState(false);
  const suggested = suggestionChip(arrival);
  const sender = arrival.sender?.replace(/\s*<[^>]*>$/, "");
  return (
    <div
      className={`paper-row h-100 ${asPicture ? "is-picture" : ""} ${chosen ? "is-chosen" : ""} ${ticked ? "is-ticked" : ""}`}
      data-arrival={arrival.id}
      onClick={onOpen}
    >
      <div className="thumb">
        {picture && !isUnseen ? (
          <img
            src={`/api/v1/arrivals/${arrival.id}/pages/1.jpg?width=${asPicture ? 480 : 160}&of=${arrival.sha256.slice(0, 16)}`}
            alt=""
            loading="lazy"
            onError={() => setUnseen(true)}
          />
        ) : (
          <Icon
            name={arrival.problem?.code === "locked" ? "lock" : arrival.state === "failed" ? "broken" : kindIcon(arrival.kind)}
            size={20}
          />
        )}
        {anyTicked || ticked ? (
          <Form.Check
            className="tick"
            checked={ticked}
            aria-label={`Select ${arrival.fileName}`}
            onChange={() => {}}
            onClick={(e) => {
              e.stopPropagation();
              onTick(e.shiftKey);
            }}
          />
        ) : null}
        {(arrival.pages ?? 0) > 0 && picture ? <span className="pages">{arrival.pages}</span> : null}
      </div>
      <div style={{ minWidth: 0 }}>
        <button
          type="button"
          className="name d-block w-100 border-0 bg-transparent p-0 text-start text-reset"
          aria-current={chosen ? "true" : undefined}
        >
          {nameOfArrival(arrival)}
        </button>
        <div className="about d-flex">
          <span className="text-truncate">{sender ?? capital(sourceWords[arrival.source] ?? "")}</span>
          <span className="flex-shrink-0" style={{ whiteSpace: "pre" }}>
            {sender ? ` · ${sourceWords[arrival.source] ?? ""}` : ""} ·{" "}
            <time dateTime={arrival.receivedAt} title={fullTime(arrival.receivedAt)} suppressHydrationWarning>
              {briefTime(arrival.receivedAt)}
            </time>
          </span>
        </div>
        {arrival.state === "waiting" || arrival.state === "reading" ? (
          <span className="chip">{arrival.state}</span>
        ) : arrival.claim && arrival.claim.id !== myId ? (
          <span className="chip plum">{arrival.claim.name} is working on it</span>
        ) : arrival.isHeldBack ? (
          <span className="chip plum">sample</span>
        ) : arrival.handed?.toMe ? (
          <span className="chip plum" title={arrival.handed.word ?? ""}>
            for you, from {arrival.handed.by ?? "somebody"}
          </span>
        ) : arrival.problem ? (
          <span className={`chip ${problemWords[arrival.problem.code].stops ? "rust" : "amber"}`}>
            {problemWords[arrival.problem.code].short}
          </span>
        ) : arrival.duplicates.length > 0 ? (
          <span className="chip amber">{arrival.duplicates[0]?.kind === "near" ? "similar to a filed document" : "already filed"}</span>
        ) : arrival.twin ? (
          <span className="chip amber">{arrival.twin.kind === "near" ? "similar to a waiting document" : "duplicate"}</span>
        ) : arrival.proposedCuts.length > 0 ? (
          <span className="chip">possibly {arrival.proposedCuts.length + 1} documents</span>
        ) : arrival.mail?.asks ? (
          <span className="chip">choose parts</span>
        ) : arrival.mail?.junk ? (
          <span className="chip amber" title={arrival.mail.junk}>
            possible junk
          </span>
        ) : recordLabel ? (
          <span className="chip amber">for {recordLabel}</span>
        ) : suggested ? (
          <span className={`chip ${suggested.tone}`}>
            {suggested.tone === "moss" ? <Paperclip size={11} aria-hidden="true" /> : null} {suggested.words}
          </span>
        ) : arrival.children.length > 0 ? (
          <span className="chip">{countText(arrival.children.length, "part")}</span>
        ) : arrival.parent ? (
          <span className="chip">{arrival.source === "bench" ? "made on the bench" : "mail attachment"}</span>
        ) : (
          <span className="small text-3">{[kindLabel(arrival.kind), sizeText(arrival.bytes)].filter(Boolean).join(" · ")}</span>
        )}
      </div>
    </div>
  );
}

/** What a list says of the program's first suggestion; null when it has none worth saying. */
export function suggestionChip(
  arrival: Pick<ArrivalAnswer, "suggestions" | "none">,
): { readonly words: string; readonly tone: "moss" | "rust" | "amber" | "" } | null {
  const best = arrival.suggestions[0];
  if (!best) return null;
  if (best.verdict === "warning") return { words: "different bank account", tone: "rust" };
  if (best.verdict === "alike") return { words: "two likely records", tone: "rust" };
  if (best.verdict === "sure") return { words: `${best.key} · certain`, tone: "moss" };
  if (best.verdict === "likely") return { words: `${best.key}?`, tone: "" };
  return null;
}

const capital = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);
const kindLabel = (kind: string | null): string => (kind !== null && kind in contentKinds ? contentKinds[kind as ContentKind].label : "");

/** A file's name as people read it: without its ending when that only says what the picture shows. */
export function nameOfArrival(arrival: ArrivalAnswer): string {
  return arrival.fileName.replace(/\.(pdf|eml|msg)$/i, "");
}
