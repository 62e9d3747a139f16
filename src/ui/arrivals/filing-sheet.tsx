"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import {
  Fragment,
  type ReactNode,
  type Ref,
  useDeferredValue,
  useEffect,
  useImperativeHandle,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
} from "react";
import { Button } from "react-bootstrap";
import { createPortal, flushSync } from "react-dom";
import { problemWords } from "#core/arrivals/problems.ts";
import { readingOfProperty } from "#core/documents/fill-from-readings.ts";
import { fieldValuesSchema } from "#core/documents/properties-schema.ts";
import type { FieldValues } from "#core/records/record-type.ts";
import type { Reading } from "#core/reading/reading.ts";
import { valueOfWords } from "#core/reading/value-of-words.ts";
import type { ReasonAnswer } from "#server/matching/load-suggestions.ts";
import type { ArrivalAnswer } from "#server/arrivals/list-arrivals.ts";
import type { Filed } from "#server/documents/file-away.ts";
import type { ShelfAnswer } from "#server/repository/shelves.ts";
import { apiGet, ApiProblem, apiSend, wordsOf } from "../kit/api.ts";
import { useNotices } from "../kit/notices.tsx";
import { countText } from "../kit/words.ts";
import { knownWide, ReachChoice } from "../reach/reach-choice.tsx";
import { ReachQuestion } from "../reach/reach-question.tsx";
import { useMe } from "../people/me-context.tsx";
import { type LookUpHandle } from "../records/look-up.tsx";
import { recordQuery } from "../records/record-query.ts";
import { type Chosen, ClipTo, type Named, sameRecord } from "./clip-to.tsx";
import { ComparisonLine, useComparison } from "../comparing/comparison-line.tsx";
import { ComparisonPanel } from "../comparing/comparison-panel.tsx";
import type { PointAt } from "../comparing/pointing.ts";
import { SheetDoubts } from "./sheet-doubts.tsx";
import { SheetFields } from "./sheet-fields.tsx";
import { SheetMore } from "./sheet-more.tsx";
import { numberPlaces, type PageMark, type PickedWords } from "../pages/marks.ts";
import { keptSheet, type SheetState, type Wish } from "./kept-sheet.ts";
import { chosenType, clipOf, isTypeUnsure, previewQuery, startsWith, typeOfSheet, valuesOfSheet, wishOfSheet } from "./sheet-wish.ts";
import { PlaceSteps } from "./place-steps.tsx";
import { UnlockForm } from "./unlock-form.tsx";
import { TypeQuestion } from "./type-question.tsx";

export interface SheetHandle {
  file(): void;
  lookUp(): void;
  properties(): void;
  /** Takes the suggestion of that number, from 1. */
  suggest(number: number): void;
  /** Opens or closes the document beside its record. */
  compare(): void;
  /** Begins a record that is made from the document. */
  draft(): void;
}

/** The filing sheet: which record, what kind of document, its properties, and the exact place it will get. */
export function FilingSheet({
  arrival,
  handle,
  onFiled,
  onFiling,
  onRefused,
  isTooSoon,
  note,
  actions,
  onMarks,
  onWants,
  picked: words,
  panelAt = null,
  onDraft,
  onCompare,
  onUnlocked,
}: {
  arrival: ArrivalAnswer;
  handle: Ref<SheetHandle>;
  /** `isOpen`: its sheet still stands, nobody has gone on to another document. */
  onFiled: (filed: Filed, arrival: ArrivalAnswer, isOpen: boolean) => void;
  /** It was sent and there is nothing to ask: the next document may open. Gets the title it will have. */
  onFiling?: (arrival: ArrivalAnswer, title: string) => void;
  /** It was refused when this sheet had gone already. */
  onRefused?: (error: unknown, arrival: ArrivalAnswer, state: SheetState) => void;
  /** Whether nobody can have looked at the document yet. */
  isTooSoon?: () => boolean;
  /** What is to be known before anything is chosen. */
  note?: ReactNode;
  actions: ReactNode;
  /** What is pointed at on the page from here. */
  onMarks?: (marks: readonly PageMark[]) => void;
  /** Whether a field wants words that are pointed at. */
  onWants?: (wants: boolean) => void;
  /** Words that were pointed at for the field one is in. */
  picked?: PickedWords | null;
  /** Where the document beside its record is shown. */
  panelAt?: HTMLElement | null;
  /** The comparison opens beside the document. */
  onCompare?: () => void;
  /** A locked file was opened with its password: the arrival that holds the open copy. */
  onUnlocked?: (id: string) => void;
  /** Makes a record from the document, starting from what was chosen here. */
  onDraft?: (start: Chosen | null, documentType: string) => void;
}) {
  const { me, company, documentType } = useMe();
  const notices = useNotices();
  const client = useQueryClient();
  const tied = startsWith(arrival);
  const tiedRecord = useQuery({ ...recordQuery(tied ?? { company: "", type: "", key: "" }), enabled: tied !== null });
  // Until somebody chooses, the record that was said on the way in stands, else the one that the program proposes.
  // What was done here before it was refused stands again.
  const [kept] = useState(() => keptSheet(client, arrival.id));
  const [picked, setPicked] = useState<readonly Chosen[] | null>(kept?.picked ?? null);
  const given = useMemo<readonly Chosen[]>(() => (tiedRecord.data ? [tiedRecord.data] : []), [tiedRecord.data]);
  const records = picked ?? given;
  const isProposed = picked === null && arrival.tied === null && records.length > 0;
  const main = records[0];
  const setRecords = (change: (now: readonly Chosen[]) => readonly Chosen[]): void => setPicked((now) => change(now ?? given));
  const [pickedType, setPickedType] = useState<string | null>(kept?.pickedType ?? null);
  const proposedType = chosenType(arrival);
  const typeKey = typeOfSheet(arrival, pickedType, main, me.documentTypes);
  const [typed, setTyped] = useState<FieldValues>(kept?.typed ?? {});
  const [active, setActive] = useState<string | null>(null);
  const [pointed, setPointed] = useState<SheetState["pointed"]>(kept?.pointed ?? new Map());
  const [title, setTitle] = useState<string | null>(kept?.title ?? null);
  const [reaches, setReaches] = useState<SheetState["reaches"]>(kept?.reaches ?? new Map());
  /** What is asked about before it is filed: its clips would show on many records. */
  const [wide, setWide] = useState<Wish | null>(kept?.wide ?? null);
  const [tried, setTried] = useState(false);
  const [asksType, setAsksType] = useState(false);
  const [shelf, setShelf] = useState<number | null>(kept?.shelf ?? null);
  const shelves = useQuery({
    queryKey: ["shelves"],
    staleTime: 60_000,
    queryFn: ({ signal }) => apiGet<{ items: ShelfAnswer[] }>("/repository/shelves", signal),
  });
  const lookUp = useRef<LookUpHandle>(null);
  const propertiesBox = useRef<HTMLDivElement>(null);
  const type = documentType(typeKey);
  const comparison = useComparison(
    arrival.id,
    main && typeKey !== "" ? { company: main.company, type: main.type, key: main.key, documentType: typeKey } : null,
  );
  const mayDraft = onDraft !== undefined && me.recordTypes.some((t) => t.draft);
  const [compares, setCompares] = useState(false);
  const toggleComparison = (): void => {
    if (!compares) onCompare?.();
    setCompares(!compares && comparison.data?.compared != null);
  };
  const [pointedLine, setPointedLine] = useState<Parameters<PointAt>[0]>(null);
  const load = async (hit: Named): Promise<Chosen | null> => {
    try {
      return await client.fetchQuery(recordQuery(hit));
    } catch (error) {
      notices.wrong(error);
      return null;
    }
  };
  // Who is fast files before the record that was just chosen is found and there: it is filed as soon as it is.
  const coming = useRef({ count: 0, isFileWanted: false });
  const latestFile = useRef<() => void>(() => {});
  const stands = useRef(true);
  useEffect(() => {
    const { current } = coming;
    stands.current = true;
    // Who leaves the document meanwhile files nothing: what they chose has not come, and what stood there before was not meant.
    return () => {
      stands.current = false;
      current.isFileWanted = false;
    };
  }, []);
  const bring = async (hit: Named, into: (now: readonly Chosen[], full: Chosen) => readonly Chosen[]): Promise<void> => {
    coming.current.count++;
    const full = await load(hit);
    coming.current.count--;
    if (full) flushSync(() => setRecords((now) => into(now, full)));
    if (coming.current.count > 0 || !coming.current.isFileWanted) return;
    coming.current.isFileWanted = false;
    if (full) latestFile.current();
  };
  /** What was looked up and chosen has not been found yet, or now is: where nothing was, nothing is filed. */
  const seek = (isSought: boolean): void => {
    coming.current.count += isSought ? 1 : -1;
    if (coming.current.count === 0) coming.current.isFileWanted = false;
  };
  const choose = (hit: Named): Promise<void> => bring(hit, (now, full) => (now.some((r) => sameRecord(r, full)) ? now : [...now, full]));
  const instead = (hit: Named): Promise<void> => bring(hit, (now, full) => [full, ...now.slice(1).filter((r) => !sameRecord(r, full))]);
  const values = useMemo(() => valuesOfSheet(arrival, type, records, typed), [arrival, type, records, typed]);
  const filing = useMemo(
    () => wishOfSheet(typeKey, records, values, { reaches, title, shelf }),
    [typeKey, records, reaches, values, title, shelf],
  );
  const asked = useDeferredValue(filing);
  const checked = useMemo(() => (type ? fieldValuesSchema(type.properties).safeParse(values) : null), [type, values]);
  const wrong = new Map((checked && !checked.success ? checked.error.issues : []).map((i) => [String(i.path[0]), i.message]));
  const ready = (records.length > 0 || shelf !== null) && type !== undefined;
  const preview = useQuery({
    ...previewQuery(arrival.id, asked),
    enabled: (asked.clips.length > 0 || asked.shelf !== undefined) && asked.documentType !== "" && wrong.size === 0,
    retry: false,
    placeholderData: (before) => before,
  });
  const filingNow = useMutation({
    mutationFn: async ({ how, state, showsOnMany }: { readonly how: Wish; readonly state: SheetState; readonly showsOnMany?: boolean }) => {
      // Only where a value still is what was pointed at.
      const places = [...state.pointed].flatMap(([property, at]) => (how.properties[property] === at.value ? [{ property, ...at }] : []));
      if (places.length > 0) await apiSend("POST", `/arrivals/${arrival.id}/readings`, { places });
      return apiSend<Filed>("POST", `/arrivals/${arrival.id}/file`, {
        ...how,
        ...(showsOnMany ? { showsOnMany: true } : {}),
      });
    },
    onSuccess: (filed) => onFiled(filed, arrival, stands.current),
    onError: (error, { how, state }) => {
      const isWide = error instanceof ApiProblem && error.code === "reaches-many";
      if (!stands.current) {
        onRefused?.(error, arrival, { ...state, wide: isWide ? how : null });
        return;
      }
      if (isWide) {
        setWide(how);
        return;
      }
      notices.wrong(error);
      if (error instanceof ApiProblem && error.code === "stale") void client.invalidateQueries({ queryKey: ["arrivals"] });
    },
  });
  const send = (how: Wish, showsOnMany = false, saidType = pickedType): void => {
    setWide(null);
    const isWide = showsOnMany ? false : knownWide(client, how.documentType, how.clips);
    if (isWide) {
      setWide(how);
      return;
    }
    filingNow.mutate({ how, showsOnMany, state: { picked, pickedType: saidType, typed, pointed, title, reaches, shelf, wide: null } });
    // Where something may still have to be asked, the sheet stays until that is known.
    if (isWide === false) onFiling?.(arrival, preview.data && asked === filing ? preview.data.title : arrival.fileName);
  };
  const file = (): void => {
    if (filingNow.isPending || isTooSoon?.()) return;
    if (coming.current.count > 0) {
      coming.current.isFileWanted = true;
      return;
    }
    setTried(true);
    if (!ready || wrong.size > 0) {
      if (records.length === 0 && shelf === null) lookUp.current?.focus();
      else propertiesBox.current?.querySelector<HTMLElement>("select, input")?.focus();
      return;
    }
    if (isTypeUnsure(arrival, pickedType, typeKey)) setAsksType(true);
    else send(filing);
  };
  useLayoutEffect(() => {
    latestFile.current = file;
  });
  useImperativeHandle(handle, () => ({
    file,
    lookUp: () => lookUp.current?.focus(),
    properties: () => propertiesBox.current?.querySelector<HTMLElement>("input, select")?.focus(),
    suggest: (number) => {
      const wanted = arrival.suggestions[number - 1];
      if (wanted) void instead(wanted);
    },
    draft: () => mayDraft && onDraft?.(main ?? null, typeKey),
    compare: toggleComparison,
  }));
  // Reasons of the main record first, then what was read: the same numbers here and on the page.
  const suggestion = main ? arrival.suggestions.find((s) => sameRecord(s, main)) : undefined;
  const shown = useMemo(
    () => ({
      reasons: suggestion?.reasons ?? [],
      readings: (type?.properties ?? []).flatMap((p) => {
        const reading = readingOfProperty(p.key, arrival.readings);
        return reading && values[p.key] === reading.value ? [{ reading, property: p.key, label: p.label }] : [];
      }),
    }),
    [suggestion, type, values, arrival.readings],
  );
  const numbers = useMemo(() => numberPlaces<ReasonAnswer | Reading>([...shown.reasons, ...shown.readings.map((r) => r.reading)]), [shown]);
  const marks = useMemo(() => {
    const made = new Map<number, PageMark>();
    const put = (number: number | undefined, at: ReasonAnswer | Reading, mark: Pick<PageMark, "words" | "tone" | "now">): void => {
      if (number === undefined || at.page == null || at.box == null) return;
      const before = made.get(number);
      made.set(number, before ? { ...before, now: before.now || mark.now } : { number, page: at.page, box: at.box, ...mark });
    };
    for (const r of shown.reasons) put(numbers.get(r), r, { words: r.words, tone: r.against ? "against" : "for", now: false });
    for (const r of shown.readings) put(numbers.get(r.reading), r.reading, { words: r.label, tone: "for", now: r.property === active });
    if (pointedLine) made.set(0, { number: 0, ...pointedLine, tone: "for", now: true });
    return [...made.values()];
  }, [shown, numbers, active, pointedLine]);
  useEffect(() => onMarks?.(marks), [marks, onMarks]);
  const wants = active !== null;
  useEffect(() => onWants?.(wants), [wants, onWants]);
  // Words that were pointed at go to the field one is in, and teach where this sender keeps it.
  const [taken, setTaken] = useState(words);
  if (words !== taken) {
    setTaken(words);
    const property = type?.properties.find((p) => p.key === active);
    const value = property && words ? valueOfWords(property.kind, words.text) : null;
    if (property && words && value !== null) {
      setTyped((now) => ({ ...now, [property.key]: value }));
      setPointed((now) => new Map(now).set(property.key, { value, page: words.page, box: words.box }));
    }
  }
  const problem = arrival.problem ? problemWords[arrival.problem.code] : null;
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
            {arrival.problem?.code === "locked" && arrival.kind === "pdf" && onUnlocked ? (
              <UnlockForm arrival={arrival} onOpened={onUnlocked} />
            ) : null}
          </section>
        ) : null}
        {kept?.why ? (
          <section className="problem" role="status" style={{ background: "var(--rust-1)" }}>
            <strong>Not filed.</strong> {kept.why} Your entries are unchanged.
          </section>
        ) : null}
        {note}
        <ClipTo
          records={records}
          suggestions={arrival.suggestions}
          numbers={numbers}
          company={arrival.company ?? company}
          shelves={shelves.data?.items ?? []}
          shelf={shelf}
          lacks={tried && records.length === 0 && shelf === null}
          handle={lookUp}
          isProposed={isProposed}
          onAdd={(hit) => void choose(hit)}
          onLookedUp={(hit) => void (isProposed ? instead(hit) : choose(hit))}
          onSeeking={seek}
          onInstead={(hit) => void instead(hit)}
          onFirst={(r) => setRecords((now) => [r, ...now.filter((o) => o !== r)])}
          onTakeOff={(r) => setRecords((now) => now.filter((o) => o !== r))}
          onShelf={setShelf}
          more={(r) =>
            typeKey === "" ? null : (
              <ReachChoice
                documentType={typeKey}
                clip={{ ...r, reach: reaches.get(clipOf(r)) }}
                onChange={(reach) => setReaches((now) => new Map(now).set(clipOf(r), reach))}
              />
            )
          }
          isNone={arrival.readings.length > 0 && arrival.suggestions.every((s) => s.verdict === "none")}
          {...(mayDraft ? { onDraft: () => onDraft(main ?? null, typeKey) } : {})}
        />
        {comparison.data ? <ComparisonLine comparison={comparison.data} isOpen={compares} onToggle={toggleComparison} /> : null}
        {compares && comparison.data && panelAt
          ? createPortal(
              <ComparisonPanel
                comparison={comparison.data}
                onClose={() => {
                  setCompares(false);
                  setPointedLine(null);
                }}
                onPoint={setPointedLine}
              />,
              panelAt,
            )
          : null}
        <SheetDoubts doubts={arrival.doubts} />
        <SheetFields
          box={propertiesBox}
          typeKey={typeKey}
          isTypeUnsure={isTypeUnsure(arrival, pickedType, typeKey)}
          typeWords={pickedType === null ? (proposedType?.words ?? []) : []}
          mainType={main?.type}
          type={type}
          title={title}
          shownTitle={preview.data?.title ?? ""}
          values={values}
          readings={arrival.readings}
          numbers={numbers}
          wrong={wrong}
          tried={tried}
          onType={setPickedType}
          onTitle={setTitle}
          onValue={(property, value) => setTyped((now) => ({ ...now, [property]: value ?? "" }))}
          onEnter={setActive}
        />
        <SheetMore readings={arrival.readings} type={type} onPoint={setPointedLine} />
        {arrival.children.length > 0 ? (
          <section className="text-2 small">
            {countText(arrival.children.length, "part")} of this mail {arrival.children.length === 1 ? "stands" : "stand"} in Arrivals as{" "}
            {arrival.children.length === 1 ? "a separate arrival" : "separate arrivals"}:{" "}
            {arrival.children.map((id, i) => (
              <Fragment key={id}>
                {i > 0 ? ", " : ""}
                <a href={`/arrivals?at=${id}`}>open attachment {i + 1}</a>
              </Fragment>
            ))}
          </section>
        ) : null}
      </div>
      <section className="will-be" aria-live="polite">
        <div className="text-2 mb-1">Will be stored as</div>
        {preview.data && ready ? (
          <>
            <PlaceSteps folder={preview.data.place.folder} fileName={preview.data.place.fileName} />
            {preview.data.place.unassigned ? <div className="chip amber mt-1">no parent account yet</div> : null}
            {preview.data.sameName ? (
              <div className="small mt-1" style={{ color: "var(--amber-7)" }}>
                That name is taken; a number is added.
              </div>
            ) : null}
          </>
        ) : preview.isError && ready ? (
          <div className="problem">
            {wordsOf(preview.error).title}. {wordsOf(preview.error).next}
          </div>
        ) : (
          <div className="text-3">
            {records.length === 0 && shelf === null
              ? "Choose a record to see the location."
              : !type
                ? "Choose a document type to see the location."
                : wrong.size > 0
                  ? "Fill in the fields to see the location."
                  : "Working out the location …"}
          </div>
        )}
      </section>
      <TypeQuestion
        type={asksType ? typeKey : null}
        certainty={proposedType?.type === typeKey ? proposedType.certainty : null}
        onConfirm={() => {
          setAsksType(false);
          setPickedType(typeKey);
          send(filing, false, typeKey);
        }}
        onChange={() => {
          setAsksType(false);
          // After the dialog has given the focus back.
          setTimeout(() => propertiesBox.current?.querySelector<HTMLElement>("select")?.focus());
        }}
        onHide={() => setAsksType(false)}
      />
      <ReachQuestion
        about={wide}
        isBusy={filingNow.isPending}
        onHide={() => setWide(null)}
        onShow={() => send(filing, true)}
        onOwnOnly={() => send({ ...filing, clips: filing.clips.map((c) => ({ ...c, reach: [] })) })}
      />
      <div className="foot">
        {actions}
        <Button className="last" onClick={file} disabled={filingNow.isPending || !me.may.file}>
          {filingNow.isPending ? "Filing …" : "File and next"} <kbd>F</kbd>
        </Button>
      </div>
    </>
  );
}
