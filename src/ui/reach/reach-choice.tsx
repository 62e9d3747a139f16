"use client";
import { type QueryClient, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Form } from "react-bootstrap";
import { ExclamationTriangle, Eye } from "react-bootstrap-icons";
import type { ReachAnswer } from "#server/reach/reach.ts";
import { apiSend } from "../kit/api.ts";
import { useMe } from "../people/me-context.tsx";

/** A clip whose reach is chosen; without a reach of its own that of the document type holds. */
export interface ReachingClip {
  readonly company: string;
  readonly type: string;
  readonly key: string;
  readonly reach?: readonly string[] | undefined;
}

interface Reaches {
  readonly items: readonly ReachAnswer[];
}
const sentOf = (clips: readonly ReachingClip[]) =>
  clips.map(({ company, type, key, reach }) => ({ company, type, key, ...(reach ? { reach } : {}) }));
/** Asks which records would see some clips. */
export const reachQuery = (documentType: string, clips: readonly ReachingClip[]) => ({
  queryKey: ["reach", documentType, sentOf(clips)],
  staleTime: 30_000,
  queryFn: ({ signal }: { signal: AbortSignal }) =>
    apiSend<Reaches>("POST", "/clips/reach", { documentType, clips: sentOf(clips) }, signal),
});

/** Whether one of these clips would show on many records, as far as that was asked already: null when it was not. */
export function knownWide(client: QueryClient, documentType: string, clips: readonly ReachingClip[]): boolean | null {
  const known = clips.map((c) => client.getQueryData<Reaches>(reachQuery(documentType, [c]).queryKey)?.items[0]?.isWide ?? null);
  return known.includes(true) ? true : known.includes(null) ? null : false;
}

/** Which records would see some clips. */
export const useReach = (documentType: string, clips: readonly ReachingClip[], enabled = true) =>
  useQuery({
    ...reachQuery(documentType, clips),
    enabled: enabled && documentType !== "" && clips.length > 0,
    placeholderData: (before: Reaches | undefined) => before,
  });

/** Which other records see a clip: one line that says it, opened to choose record types along the chain. */
export function ReachChoice({
  documentType,
  clip,
  onChange,
}: {
  documentType: string;
  clip: ReachingClip;
  onChange: (reach: readonly string[]) => void;
}) {
  const { me, recordType } = useMe();
  const [isOpen, setOpen] = useState(false);
  const reach = useReach(documentType, [clip]);
  const known = reach.data?.items[0];
  if (!known) return null;
  // What was chosen stands at once; how many that are follows.
  const chosen = clip.reach ?? known.reach;
  const countOf = (type: string): number => known.along.find((a) => a.type === type)?.count ?? 0;
  const offered = me.recordTypes.filter((t) => t.key !== clip.type);
  const shown = offered.filter((t) => countOf(t.key) > 0 || chosen.includes(t.key));
  const others = offered.filter((t) => !shown.includes(t));
  const toggle = (type: string): void => onChange(chosen.includes(type) ? chosen.filter((t) => t !== type) : [...chosen, type]);
  return (
    <div className="reach">
      <button type="button" className="btn btn-quiet btn-sm p-0" aria-expanded={isOpen} onClick={() => setOpen(!isOpen)}>
        <Eye size={13} aria-hidden="true" />{" "}
        {known.reach.length === 0
          ? "not shown on other records"
          : known.total === 0
            ? `also shown on ${known.reach.map((t) => (recordType(t)?.plural ?? t).toLowerCase()).join(", ")} to come`
            : `also shown on ${known.words}`}
      </button>
      {known.isWide ? (
        <p className="clash">
          <ExclamationTriangle size={14} aria-hidden="true" /> That is a lot: {named(known)}.
        </p>
      ) : null}
      {isOpen ? (
        <fieldset className="reach-types">
          <legend className="visually-hidden">Record types that also show this document on {clip.key}</legend>
          {shown.map((t) => (
            <Form.Check
              key={t.key}
              id={`reach-${clip.key}-${t.key}`}
              checked={chosen.includes(t.key)}
              onChange={() => toggle(t.key)}
              label={
                <>
                  {t.plural} <span className="text-2">{countOf(t.key) === 0 ? "none yet" : countOf(t.key).toLocaleString("en")}</span>
                </>
              }
            />
          ))}
          {others.length > 0 ? (
            <Form.Select size="sm" aria-label="Add record type" value="" onChange={(e) => e.target.value !== "" && toggle(e.target.value)}>
              <option value="">add record type …</option>
              {others.map((t) => (
                <option key={t.key} value={t.key}>
                  {t.plural}
                </option>
              ))}
            </Form.Select>
          ) : null}
        </fieldset>
      ) : null}
    </div>
  );
}

/** Some of the records by name, and how many more. */
export function named(answer: ReachAnswer): string {
  const keys = answer.named.map((n) => n.key).join(", ");
  const more = answer.total - answer.named.length;
  return more > 0 ? `${keys} and ${more.toLocaleString("en")} more` : keys;
}
