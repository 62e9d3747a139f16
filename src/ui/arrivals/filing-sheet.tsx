"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Fragment, type ReactNode, type Ref, useDeferredValue, useImperativeHandle, useMemo, useRef, useState } from "react";
import { Button, Form } from "react-bootstrap";
import { Paperclip, X } from "react-bootstrap-icons";
import { problemWords } from "#core/arrivals/problems.ts";
import { prefillProperties } from "#core/documents/prefill-properties.ts";
import { fieldValuesSchema } from "#core/documents/properties-schema.ts";
import type { FieldValue, FieldValues } from "#core/records/record-type.ts";
import type { ArrivalAnswer } from "#server/arrivals/list-arrivals.ts";
import type { Filed } from "#server/documents/file-away.ts";
import type { ShelfAnswer } from "#server/repository/shelves.ts";
import type { LookupHit } from "#server/records/look-up.ts";
import type { RecordAnswer } from "#server/records/load-record-page.ts";
import { apiGet, ApiProblem, apiSend, wordsOf } from "../kit/api.ts";
import { useNotices } from "../kit/notices.tsx";
import { amountText, countText, dayText } from "../kit/words.ts";
import { useMe } from "../people/me-context.tsx";
import { LookUp, type LookUpHandle } from "../records/look-up.tsx";
import { recordPath } from "../records/record-href.ts";
import { FieldInput } from "./field-input.tsx";
import { usualType } from "./usual-type.ts";
import { PlaceSteps } from "./place-steps.tsx";

type Chosen = Pick<RecordAnswer, "company" | "type" | "key" | "title" | "status" | "date" | "amount" | "currency" | "fields" | "above">;
interface Preview {
  readonly title: string;
  readonly place: { readonly folder: readonly string[]; readonly fileName: string; readonly unassigned: boolean };
  readonly sameName: boolean;
}
export interface SheetHandle {
  file(): void;
  lookUp(): void;
  properties(): void;
}

/** The filing sheet: which record, what kind of paper, its properties, and the exact place it will get. */
export function FilingSheet({
  arrival,
  handle,
  onFiled,
  note,
  actions,
}: {
  arrival: ArrivalAnswer;
  handle: Ref<SheetHandle>;
  onFiled: (filed: Filed, arrival: ArrivalAnswer) => void;
  /** What is to be known before anything is chosen. */
  note?: ReactNode;
  actions: ReactNode;
}) {
  const { me, company, recordType, documentType } = useMe();
  const notices = useNotices();
  const client = useQueryClient();
  const tied = arrival.tied;
  const tiedRecord = useQuery({
    queryKey: ["record", tied?.company, tied?.type, tied?.key],
    enabled: tied !== null,
    staleTime: 30_000,
    queryFn: ({ signal }) =>
      apiGet<RecordAnswer>(`${recordPath(tied ?? { company: "", type: "", key: "" })}?company=${tied?.company ?? ""}`, signal),
  });
  // Until somebody chooses, the record that was said on the way in stands.
  const [picked, setPicked] = useState<readonly Chosen[] | null>(null);
  const given = useMemo<readonly Chosen[]>(() => (tiedRecord.data ? [tiedRecord.data] : []), [tiedRecord.data]);
  const records = picked ?? given;
  const setRecords = (change: (now: readonly Chosen[]) => readonly Chosen[]): void => setPicked((now) => change(now ?? given));
  const [pickedType, setPickedType] = useState<string | null>(null);
  const typeKey =
    pickedType ?? arrival.proposedType?.type ?? (records[0] ? usualType(me.documentTypes, records[0].type, arrival.queue) : "");
  const [typed, setTyped] = useState<FieldValues>({});
  const [title, setTitle] = useState<string | null>(null);
  const [tried, setTried] = useState(false);
  const [shelf, setShelf] = useState<number | null>(null);
  const shelves = useQuery({
    queryKey: ["shelves"],
    staleTime: 60_000,
    queryFn: ({ signal }) => apiGet<{ items: ShelfAnswer[] }>("/repository/shelves", signal),
  });
  const lookUp = useRef<LookUpHandle>(null);
  const propertiesBox = useRef<HTMLDivElement>(null);
  const type = documentType(typeKey);
  const choose = async (hit: Pick<LookupHit, "company" | "type" | "key">): Promise<void> => {
    try {
      const full = await client.fetchQuery({
        queryKey: ["record", hit.company, hit.type, hit.key],
        queryFn: () => apiGet<RecordAnswer>(`${recordPath(hit)}?company=${hit.company}`),
        staleTime: 30_000,
      });
      setRecords((now) =>
        now.some((r) => r.company === full.company && r.type === full.type && r.key === full.key) ? now : [...now, full],
      );
    } catch (error) {
      notices.wrong(error);
    }
  };
  const values = useMemo(() => (type ? prefillProperties(type.properties, records, typed) : {}), [type, records, typed]);
  const filing = useMemo(
    () => ({
      documentType: typeKey,
      clips: records.map(({ company: c, type: t, key }) => ({ company: c, type: t, key })),
      properties: values,
      ...(title ? { title } : {}),
      ...(records.length === 0 && shelf !== null ? { shelf } : {}),
    }),
    [typeKey, records, values, title, shelf],
  );
  const asked = useDeferredValue(filing);
  const checked = useMemo(() => (type ? fieldValuesSchema(type.properties).safeParse(values) : null), [type, values]);
  const wrong = new Map((checked && !checked.success ? checked.error.issues : []).map((i) => [String(i.path[0]), i.message]));
  const ready = (records.length > 0 || shelf !== null) && type !== undefined;
  const preview = useQuery({
    queryKey: ["preview", arrival.id, asked],
    enabled: (asked.clips.length > 0 || asked.shelf !== undefined) && asked.documentType !== "" && wrong.size === 0,
    retry: false,
    queryFn: ({ signal }) => apiSend<Preview>("POST", `/arrivals/${arrival.id}/preview`, asked, signal),
    placeholderData: (before) => before,
  });
  const filingNow = useMutation({
    mutationFn: () => apiSend<Filed>("POST", `/arrivals/${arrival.id}/file`, filing),
    onSuccess: (filed) => onFiled(filed, arrival),
    onError: (error) => {
      notices.wrong(error);
      if (error instanceof ApiProblem && error.code === "stale") void client.invalidateQueries({ queryKey: ["arrivals"] });
    },
  });
  const file = (): void => {
    setTried(true);
    if (!ready || wrong.size > 0) {
      if (records.length === 0 && shelf === null) lookUp.current?.focus();
      else propertiesBox.current?.querySelector<HTMLElement>("select, input")?.focus();
      return;
    }
    if (!filingNow.isPending) filingNow.mutate();
  };
  useImperativeHandle(handle, () => ({
    file,
    lookUp: () => lookUp.current?.focus(),
    properties: () => propertiesBox.current?.querySelector<HTMLElement>("input, select")?.focus(),
  }));
  const account = records.find((r) => recordType(r.type)?.kind === "standing") ?? null;
  const above = records[0]?.above && !records.some((r) => r.type === records[0]?.above?.type) ? records[0].above : null;
  const problem = arrival.problem ? problemWords[arrival.problem.code] : null;
  const types = usualFirst(me.documentTypes, records[0]?.type);
  return (
    <>
      <div className="know" tabIndex={-1}>
        {problem ? (
          <section style={{ background: problem.stops ? "var(--rust-1)" : "var(--amber-1)" }}>
            <div className={problem.stops ? "problem" : ""} style={problem.stops ? {} : { color: "var(--amber-7)" }}>
              <strong>{problem.what}</strong> {problem.next}
              {arrival.problem?.code === "too-many-pages" ? (
                <>
                  {" "}
                  <a href={`/bench?arrivals=${arrival.id}`}>To the bench</a>{" "}
                </>
              ) : null}
              {arrival.problem?.detail ? <span className="text-2"> ({arrival.problem.detail})</span> : null}
            </div>
          </section>
        ) : null}
        {note}
        <section>
          <div className="head">
            <h2>Clip to</h2>
            <span className="text-2 small">
              {records.length > 0 ? "and another" : "look up"} <kbd>/</kbd>
            </span>
          </div>
          {records.map((r, i) => (
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
                  <button
                    type="button"
                    className="btn btn-quiet btn-sm p-0 text-decoration-underline"
                    onClick={() => setRecords((now) => [r, ...now.filter((o) => o !== r)])}
                  >
                    place it here
                  </button>
                ) : records.length > 1 ? (
                  <div className="small text-3">decides the place</div>
                ) : null}
              </div>
              <Button variant="quiet" aria-label={`Take off ${r.key}`} onClick={() => setRecords((now) => now.filter((o) => o !== r))}>
                <X size={18} />
              </Button>
            </div>
          ))}
          {above ? (
            <button
              type="button"
              className="clip-card w-100 text-start"
              onClick={() => void choose({ company: records[0]?.company ?? "", type: above.type, key: above.key })}
            >
              <Paperclip size={18} className="loop" aria-hidden="true" />
              <span style={{ minWidth: 0 }}>
                <strong>{above.title}</strong> <span className="mono">{above.key}</span>
                <span className="d-block text-2 small">
                  {recordType(above.type)?.label.toLowerCase()}, above {records[0]?.key}
                </span>
              </span>
              <span className="text-2">add</span>
            </button>
          ) : null}
          <LookUp
            handle={lookUp}
            company={arrival.company ?? company}
            above={account && records.length === 1 ? account : undefined}
            onChoose={(hit) => void choose(hit)}
            placeholder={account && records.length === 1 ? `Beneath ${account.title}` : "Number, name or any field"}
          />
          {records.length === 0 && shelves.data && shelves.data.items.length > 0 ? (
            <Form.Select
              size="sm"
              className="mt-2"
              aria-label="Or put it on a shelf"
              value={shelf ?? ""}
              onChange={(e) => setShelf(e.target.value === "" ? null : Number(e.target.value))}
            >
              <option value="">or, for a paper of no record, a shelf</option>
              {shelves.data.items.map((s) => (
                <option key={s.id} value={s.id}>
                  {s.path.split("/").join(" › ")}
                </option>
              ))}
            </Form.Select>
          ) : null}
          {tried && records.length === 0 && shelf === null ? (
            <div className="problem mt-1">Choose the record this paper belongs to.</div>
          ) : null}
        </section>
        <section ref={propertiesBox}>
          <div className="field-row">
            <label htmlFor="sheet-type">Document type</label>
            <Form.Select
              id="sheet-type"
              value={typeKey}
              isInvalid={tried && !type}
              onChange={(e) => setPickedType(e.target.value)}
              className="fw-bold"
            >
              <option value="">Choose …</option>
              {types.usual.length > 0 ? (
                <optgroup label={`Usual for ${recordType(records[0]?.type ?? "")?.plural.toLowerCase() ?? "it"}`}>
                  {types.usual.map((t) => (
                    <option key={t.key} value={t.key}>
                      {t.label}
                    </option>
                  ))}
                </optgroup>
              ) : null}
              {types.others.length > 0 ? (
                <optgroup label={types.usual.length > 0 ? "Others" : "All"}>
                  {types.others.map((t) => (
                    <option key={t.key} value={t.key}>
                      {t.label}
                    </option>
                  ))}
                </optgroup>
              ) : null}
            </Form.Select>
          </div>
          {type ? (
            <>
              <div className="field-row">
                <label htmlFor="sheet-title">Title</label>
                <Form.Control
                  id="sheet-title"
                  value={title ?? preview.data?.title ?? ""}
                  onChange={(e) => setTitle(e.target.value || null)}
                  maxLength={200}
                />
              </div>
              {type.properties.map((p) => (
                <div key={p.key} className="field-row">
                  <label htmlFor={`sheet-${p.key}`}>{p.label}</label>
                  <FieldInput
                    id={`sheet-${p.key}`}
                    field={p}
                    value={values[p.key] ?? null}
                    wrong={wrong.has(p.key)}
                    onChange={(value: FieldValue) => setTyped((now) => ({ ...now, [p.key]: value ?? "" }))}
                  />
                  {wrong.has(p.key) ? (
                    <div className="problem">
                      {p.label} {wrong.get(p.key)}.
                    </div>
                  ) : null}
                </div>
              ))}
            </>
          ) : (
            <p className="text-2 mb-0">The properties follow from the type.</p>
          )}
        </section>
        {arrival.children.length > 0 ? (
          <section className="text-2 small">
            {countText(arrival.children.length, "part")} of this mail {arrival.children.length === 1 ? "stands" : "stand"} in Arrivals as{" "}
            {arrival.children.length === 1 ? "an arrival of its own" : "arrivals of their own"}:{" "}
            {arrival.children.map((id, i) => (
              <Fragment key={id}>
                {i > 0 ? ", " : ""}
                <a href={`/arrivals?at=${id}`}>open part {i + 1}</a>
              </Fragment>
            ))}
          </section>
        ) : null}
      </div>
      <section className="will-be" aria-live="polite">
        <div className="text-2 mb-1">Will be placed as</div>
        {preview.data && ready ? (
          <>
            <PlaceSteps folder={preview.data.place.folder} fileName={preview.data.place.fileName} />
            {preview.data.place.unassigned ? <div className="chip amber mt-1">no account above yet</div> : null}
            {preview.data.sameName ? (
              <div className="small mt-1" style={{ color: "var(--amber-7)" }}>
                A paper of that name is there already; this one gets a number.
              </div>
            ) : null}
          </>
        ) : preview.isError && ready ? (
          <div className="problem">
            {wordsOf(preview.error).title}. {wordsOf(preview.error).next}
          </div>
        ) : (
          <div className="text-3">
            {records.length === 0 && shelf === null ? "Choose a record to see the place." : "Choose a document type to see the place."}
          </div>
        )}
      </section>
      <div className="foot">
        {actions}
        <Button className="last" onClick={file} disabled={filingNow.isPending || !me.may.file}>
          {filingNow.isPending ? "Filing …" : "File, next"} <kbd>F</kbd>
        </Button>
      </div>
    </>
  );
}

function usualFirst<T extends { readonly usualFor: readonly string[] }>(
  types: readonly T[],
  recordType: string | undefined,
): { usual: readonly T[]; others: readonly T[] } {
  const usual = recordType === undefined ? [] : types.filter((t) => t.usualFor.includes(recordType));
  return { usual, others: types.filter((t) => !usual.includes(t)) };
}
