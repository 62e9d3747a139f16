"use client";
import { useMutation } from "@tanstack/react-query";
import { type Ref, useEffect, useImperativeHandle, useMemo, useRef, useState } from "react";
import { Button, Form } from "react-bootstrap";
import { ArrowLeft, Paperclip, PlusLg, X } from "react-bootstrap-icons";
import { type DraftNeighbour, type DraftSource, draftFields, draftTitle, fillDraft } from "#core/drafts/fill-draft.ts";
import { fieldValuesSchema } from "#core/documents/properties-schema.ts";
import { propertiesFromReadings } from "#core/documents/fill-from-readings.ts";
import { prefillProperties } from "#core/documents/prefill-properties.ts";
import type { FieldValues } from "#core/records/record-type.ts";
import { valueOfWords } from "#core/reading/value-of-words.ts";
import type { ArrivalAnswer } from "#server/arrivals/list-arrivals.ts";
import type { MadeDraft } from "#server/drafts/make-draft.ts";
import type { Chosen } from "../arrivals/clip-to.tsx";
import type { SheetHandle } from "../arrivals/filing-sheet.tsx";
import { apiGet, ApiProblem, apiSend } from "../kit/api.ts";
import { useNotices } from "../kit/notices.tsx";
import { numberPlaces, type PageMark, type PickedWords } from "../pages/marks.ts";
import { useMe } from "../people/me-context.tsx";
import { LookUp } from "../records/look-up.tsx";
import { recordPath } from "../records/record-href.ts";
import type { RecordAnswer } from "#server/records/load-record-page.ts";
import { DraftFields } from "./draft-fields.tsx";
import { NewAccountForm, useNewAccount } from "./new-account.tsx";

/** A record that is made from the document beside it: keyed field by field, each with where its value stands, then sent to the business system. */
export function DraftSheet({
  arrival,
  start,
  documentType: startType,
  handle,
  onMade,
  onBack,
  onMarks,
  onWants,
  picked: words,
}: {
  arrival: ArrivalAnswer;
  /** The record that the document seemed to belong to: the draft follows it, or sits beneath it. */
  start: Chosen | null;
  documentType: string;
  handle: Ref<SheetHandle>;
  onMade: (made: MadeDraft) => void;
  onBack: () => void;
  onMarks: (marks: readonly PageMark[]) => void;
  onWants: (wants: boolean) => void;
  picked: PickedWords | null;
}) {
  const { me, company: chosenCompany, recordType, documentType } = useMe();
  const notices = useNotices();
  const types = me.recordTypes.filter((t) => t.draft);
  const [typeKey, setTypeKey] = useState(
    () => (types.find((t) => t.draft?.papers.includes(startType)) ?? types.find((t) => t.kind === "passing") ?? types[0])?.key ?? "",
  );
  const type = recordType(typeKey);
  const box = useRef<HTMLDivElement>(null);
  const company = start?.company ?? arrival.company ?? chosenCompany ?? me.companies[0]?.code ?? "";
  const isParent = (t: string): boolean => type?.parent.includes(t) ?? false;
  const [picks, setPicks] = useState<{
    readonly parent?: (DraftNeighbour & { readonly company: string }) | null;
    readonly follows?: Chosen | null;
  }>({});
  const startParent =
    start && isParent(start.type)
      ? start
      : start?.parent && isParent(start.parent.type)
        ? { ...start.parent, company, currency: null, fields: {} }
        : null;
  const parent = picks.parent === undefined ? startParent : picks.parent;
  const follows = picks.follows === undefined ? (start && recordType(start.type)?.kind === "passing" ? start : null) : picks.follows;
  const filled = useMemo(
    () => (type ? fillDraft(type, arrival.readings, follows) : { values: {}, sources: {} }),
    [type, arrival.readings, follows],
  );
  const accountType = type?.parent.map((t) => recordType(t)).find((t) => t?.draft);
  const account = useNewAccount(accountType, arrival.readings);
  const accountTitle = account.isOpen ? account.title : (parent?.title ?? null);
  const [typed, setTyped] = useState<FieldValues>({});
  const [pointed, setPointed] = useState<Readonly<Record<string, DraftSource>>>({});
  const [active, setActive] = useState<string | null>(null);
  const [title, setTitle] = useState<string | null>(null);
  const [tried, setTried] = useState(false);
  const [refused, setRefused] = useState<ReadonlyMap<string, string>>(new Map());
  const values = useMemo(() => ({ ...filled.values, ...typed }), [filled, typed]);
  const sources = useMemo(() => {
    const all: Record<string, DraftSource> = { ...filled.sources };
    for (const key of Object.keys(typed)) all[key] = pointed[key] ?? { from: "person" };
    return all;
  }, [filled, typed, pointed]);
  const fields = useMemo(() => (type ? draftFields(type) : []), [type]);
  const checked = useMemo(() => fieldValuesSchema(fields).safeParse(values), [fields, values]);
  const issues = new Map(checked.success ? [] : checked.error.issues.map((i) => [String(i.path[0]), i.message]));
  // What is missing is said once somebody tries to send it; what is wrong at once.
  const wrong = new Map([...refused, ...[...issues].filter(([key]) => tried || values[key] != null)]);
  const needsParent = (type?.parent.length ?? 0) > 0 && type?.key !== "contact";
  const papers = type?.draft?.papers[0] ?? (startType || "other");
  const paperType = documentType(startType || papers);
  const properties = useMemo(() => {
    if (!paperType) return {};
    const own = checked.success ? checked.data : {};
    const read = propertiesFromReadings(paperType.properties, arrival.readings);
    return prefillProperties(paperType.properties, [{ key: "", title: "", type: typeKey, currency: null, fields: own }], {
      ...read,
      ...pickOnly(
        own,
        paperType.properties.map((p) => p.key),
      ),
    });
  }, [paperType, checked, arrival.readings, typeKey]);
  const make = useMutation({
    mutationFn: () =>
      apiSend<MadeDraft>("POST", `/arrivals/${arrival.id}/draft`, {
        company,
        type: typeKey,
        title: title ?? "",
        fields: values,
        sources,
        parent: parent && !account.isOpen ? { type: parent.type, key: parent.key } : null,
        newParent: account.isOpen && accountType ? account.wish : null,
        follows: follows ? [{ type: follows.type, key: follows.key }] : [],
        filing: {
          documentType: paperType?.key ?? "other",
          properties,
          clips: follows ? [{ company: follows.company, type: follows.type, key: follows.key }] : [],
        },
      }),
    onSuccess: onMade,
    onError: (error) => {
      notices.wrong(error);
      if (error instanceof ApiProblem) setRefused(new Map(error.errors.map((e) => [e.path.replace(/^fields\./, ""), e.message])));
    },
  });
  const send = (): void => {
    setTried(true);
    setRefused(new Map());
    if (account.isOpen && !account.isValid) {
      box.current?.querySelector<HTMLElement>("#new-account input")?.focus();
      return;
    }
    if (!checked.success || (needsParent && !parent && !account.isOpen)) {
      const first = fields.find((f) => issues.has(f.key));
      box.current?.querySelector<HTMLElement>(first ? `#draft-${first.key}` : "input")?.focus();
      return;
    }
    if (!make.isPending) make.mutate();
  };
  useImperativeHandle(handle, () => ({
    file: send,
    lookUp: () => box.current?.querySelector<HTMLElement>("[role=combobox]")?.focus(),
    properties: () => box.current?.querySelector<HTMLElement>("#draft-fields input, #draft-fields select")?.focus(),
    suggest: () => {},
    compare: () => {},
    draft: () => {},
  }));
  const shown = useMemo(
    () =>
      fields.flatMap((f) => {
        const source = sources[f.key];
        return source?.from === "paper" ? [{ field: f, source }] : [];
      }),
    [fields, sources],
  );
  const numbers = useMemo(() => numberPlaces(shown.map((s) => s.source)), [shown]);
  const marks = useMemo(() => {
    const made = new Map<number, PageMark>();
    for (const { field, source } of shown) {
      const number = numbers.get(source);
      if (number === undefined || source.page === null || source.box === null) continue;
      const before = made.get(number);
      made.set(number, {
        number,
        page: source.page,
        box: source.box,
        words: field.label,
        tone: "for",
        now: (before?.now ?? false) || field.key === active,
      });
    }
    return [...made.values()];
  }, [shown, numbers, active]);
  useEffect(() => onMarks(marks), [marks, onMarks]);
  const wants = active !== null;
  useEffect(() => onWants(wants), [wants, onWants]);
  const [taken, setTaken] = useState(words);
  if (words !== taken) {
    setTaken(words);
    const field = fields.find((f) => f.key === active);
    const value = field && words ? valueOfWords(field.kind, words.text) : null;
    if (field && words && value !== null) {
      setTyped((now) => ({ ...now, [field.key]: value }));
      setPointed((now) => ({ ...now, [field.key]: { from: "paper", page: words.page, box: words.box, text: words.text, certainty: 1 } }));
    }
  }
  const chooseParent = async (hit: { readonly company: string; readonly type: string; readonly key: string }): Promise<void> => {
    try {
      const full = await apiGet<RecordAnswer>(`${recordPath(hit)}?company=${hit.company}`);
      setPicks((now) => ({ ...now, parent: full }));
    } catch (error) {
      notices.wrong(error);
    }
  };
  const chosenTitle = title ?? (type ? draftTitle(type, values, accountTitle) : "");
  return (
    <>
      <div className="know" tabIndex={-1} ref={box}>
        <section>
          <div className="head">
            <h2>New record</h2>
            <Button variant="quiet" onClick={onBack}>
              <ArrowLeft aria-hidden="true" /> Back <kbd>Esc</kbd>
            </Button>
          </div>
          <div className="field-row">
            <label htmlFor="draft-type">Record type</label>
            <Form.Select
              id="draft-type"
              className="fw-bold"
              value={typeKey}
              onChange={(e) => {
                setTypeKey(e.target.value);
                setPicks({});
                account.close();
                setRefused(new Map());
              }}
            >
              {types.map((t) => (
                <option key={t.key} value={t.key}>
                  {t.label}
                </option>
              ))}
            </Form.Select>
          </div>
          {parent ? (
            <div className="clip-card">
              <Paperclip size={18} className="loop" aria-hidden="true" />
              <div style={{ minWidth: 0 }}>
                <strong>{parent.title}</strong> <span className="mono">{parent.key}</span>
                <div className="text-2 small">{recordType(parent.type)?.label.toLowerCase()}, parent</div>
              </div>
              <Button variant="quiet" aria-label={`Remove ${parent.key}`} onClick={() => setPicks((now) => ({ ...now, parent: null }))}>
                <X size={18} />
              </Button>
            </div>
          ) : account.isOpen && accountType ? (
            <NewAccountForm account={account} type={accountType} tried={tried} />
          ) : type && type.parent.length > 0 ? (
            <>
              <LookUp
                company={company}
                type={type.parent.length === 1 ? type.parent[0] : undefined}
                onChoose={(hit) => isParent(hit.type) && void chooseParent(hit)}
                placeholder={type.parent.map((t) => recordType(t)?.label ?? t).join(" or ")}
              />
              {accountType ? (
                <Button variant="quiet" size="sm" className="mt-1" onClick={account.open}>
                  <PlusLg size={12} aria-hidden="true" /> New {accountType.label.toLowerCase()}
                </Button>
              ) : null}
              {tried && needsParent ? <div className="problem mt-1">Choose the account it belongs to.</div> : null}
            </>
          ) : null}
          {follows ? (
            <div className="clip-card">
              <Paperclip size={18} className="loop" aria-hidden="true" />
              <div style={{ minWidth: 0 }}>
                <strong>
                  {recordType(follows.type)?.label} <span className="mono">{follows.key}</span>
                </strong>
                <div className="text-2 small">precedes it in the chain; the document is clipped to both</div>
              </div>
              <Button variant="quiet" aria-label={`Remove ${follows.key}`} onClick={() => setPicks((now) => ({ ...now, follows: null }))}>
                <X size={18} />
              </Button>
            </div>
          ) : null}
        </section>
        <section id="draft-fields">
          <div className="field-row">
            <label htmlFor="draft-title">Title</label>
            <Form.Control id="draft-title" value={chosenTitle} maxLength={300} onChange={(e) => setTitle(e.target.value || null)} />
          </div>
          <DraftFields
            fields={fields}
            values={values}
            sources={sources}
            numbers={numbers}
            wrong={wrong}
            onValue={(key, value) => {
              setTyped((now) => ({ ...now, [key]: value ?? "" }));
              setPointed((now) => Object.fromEntries(Object.entries(now).filter(([k]) => k !== key)));
              setRefused((now) => new Map([...now].filter(([k]) => k !== key)));
            }}
            onEnter={setActive}
          />
        </section>
      </div>
      <section className="will-be text-2">
        It is sent to the business system. The document is filed as {paperType?.label.toLowerCase() ?? "other"} and clipped to it now, and
        stays clipped when it gets its number.
      </section>
      <div className="foot">
        <Button variant="plain" onClick={onBack}>
          Back
        </Button>
        <Button className="last" disabled={make.isPending} onClick={send}>
          Create and send <kbd>F</kbd>
        </Button>
      </div>
    </>
  );
}

/** Only some of some values. */
function pickOnly(values: FieldValues, keys: readonly string[]): FieldValues {
  return Object.fromEntries(Object.entries(values).filter(([key, value]) => keys.includes(key) && value !== null));
}
