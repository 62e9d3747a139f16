"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { parseAsString, useQueryState } from "nuqs";
import { useDeferredValue, useEffect, useState } from "react";
import { Button, ProgressBar } from "react-bootstrap";
import { ArrowLeft, Plus } from "react-bootstrap-icons";
import type { ChecklistAnswer } from "#server/checklists/manage-rules.ts";
import type { ChecklistPreview } from "#server/checklists/preview-rules.ts";
import { TypeNav } from "../filing-plan/type-nav.tsx";
import { PlanTabs } from "../filing-plan/plan-tabs.tsx";
import { Where } from "../frame/top-slot.tsx";
import { ApiProblem, apiGet, apiSend, wordsOf } from "../kit/api.ts";
import { Columns } from "../kit/columns.tsx";
import { Link } from "../kit/link.tsx";
import { freeKey, moved } from "../kit/lists.ts";
import { useNotices } from "../kit/notices.tsx";
import { useWarnBeforeLeaving } from "../kit/use-warn-before-leaving.ts";
import { Empty, Skeletons, Trouble } from "../kit/parts.tsx";
import { countText } from "../kit/words.ts";
import { useMe } from "../people/me-context.tsx";
import { recordHref } from "../records/record-href.ts";
import { ClipMark } from "./clip-mark.tsx";
import { type DraftItem, ItemEditor } from "./item-editor.tsx";

interface Lists {
  readonly items: readonly ChecklistAnswer[];
  readonly roles: readonly string[];
}
interface Job {
  readonly state: string;
  readonly done: number;
  readonly total: number | null;
}
/** How often progress is asked for, ms. */
const ASK_MS = 500;

/** Checklists by record type: what documents there ought to be, and what a change would do to the records there are. */
export function ChecklistRulesScreen() {
  const { me } = useMe();
  const notices = useNotices();
  const client = useQueryClient();
  const lists = useQuery({
    queryKey: ["checklists"],
    queryFn: ({ signal }) => apiGet<Lists>("/checklists/rules", signal),
    refetchOnWindowFocus: false,
  });
  const [typeKey, setTypeKey] = useQueryState("type", parseAsString.withDefault("freightBooking"));
  const [drafts, setDrafts] = useState<Readonly<Record<string, readonly DraftItem[]>>>({});
  const [open, setOpen] = useState<string | null>(null);
  const [step, setStep] = useState(0);
  const [job, setJob] = useState<string | null>(null);
  const type = me.recordTypes.find((t) => t.key === typeKey);
  const inForce = lists.data?.items.find((l) => l.recordType === typeKey);
  const items: readonly DraftItem[] = drafts[typeKey] ?? inForce?.items ?? [];
  const isChanged = drafts[typeKey] !== undefined && JSON.stringify(drafts[typeKey]) !== JSON.stringify(inForce?.items ?? []);
  const asked = useDeferredValue(items);
  const isWhole = asked.every((i) => i.label.trim() !== "" && i.documentTypes.length > 0);
  const preview = useQuery({
    queryKey: ["checklistPreview", typeKey, asked],
    enabled: type !== undefined && lists.isSuccess && isWhole,
    queryFn: ({ signal }) => apiSend<ChecklistPreview>("POST", `/checklists/rules/${typeKey}/preview`, { items: asked }, signal),
    placeholderData: (p) => p,
    retry: false,
  });
  const errors = preview.error instanceof ApiProblem ? preview.error.errors : [];
  const progress = useQuery({
    queryKey: ["job", job],
    enabled: job !== null,
    queryFn: ({ signal }) => apiGet<Job>(`/jobs/${job ?? ""}`, signal),
    refetchInterval: (q) => (q.state.data && ["done", "failed"].includes(q.state.data.state) ? false : ASK_MS),
  });
  const isDone = progress.data?.state === "done";
  const isUnderWay = job !== null && !isDone && progress.data?.state !== "failed";
  useEffect(() => {
    if (!isDone || job === null) return;
    notices.done(`All ${countText(progress.data?.done ?? 0, "record")} re-evaluated`, {
      more: "Show missing documents",
      href: `/records/missing?type=${typeKey}`,
    });
    for (const key of ["missing", "record", "records", "checklistPreview"]) void client.invalidateQueries({ queryKey: [key] });
    // oxlint-disable-next-line react/exhaustive-deps -- once, when it is done
  }, [isDone]);
  const forget = (): void =>
    setDrafts((d) => {
      const { [typeKey]: _dropped, ...rest } = d;
      return rest;
    });
  const save = useMutation({
    mutationFn: () =>
      apiSend<{ version: number; job: string }>("PUT", `/checklists/rules/${typeKey}`, { items, version: inForce?.version ?? 0 }),
    onSuccess: async (saved) => {
      await client.invalidateQueries({ queryKey: ["checklists"] });
      forget();
      setOpen(null);
      setJob(saved.job);
    },
    onError: notices.wrong,
  });
  useWarnBeforeLeaving(isChanged);
  const write = (next: readonly DraftItem[]): void => setDrafts((d) => ({ ...d, [typeKey]: next }));
  const add = (): void => {
    const key = freeKey(
      "item",
      items.map((i) => i.key),
    );
    write([
      ...items,
      {
        key,
        label: "",
        documentTypes: [],
        count: 1,
        papersThat: [],
        when: [],
        due: null,
        validity: null,
        settledBy: "clip",
        acceptedBy: [],
        along: "own",
        missing: "",
      },
    ]);
    setOpen(key);
  };
  if (lists.isPending) return <Skeletons rows={8} />;
  if (lists.isError)
    return (
      <>
        <Where title="Filing plan" />
        <Trouble {...wordsOf(lists.error)} />
      </>
    );
  return (
    <>
      <Where title="Filing plan">
        <PlanTabs current="checklists" />
      </Where>
      <Columns
        name="checklists"
        grows={1}
        step={step}
        sides={{ 0: { start: 250, min: 200, max: 400 }, 2: { start: 360, min: 260, max: 560 } }}
      >
        <TypeNav
          current={typeKey}
          isChanged={(t) => drafts[t] !== undefined}
          countOf={(t) => (lists.data.items.find((l) => l.recordType === t)?.items ?? []).length}
          onChoose={(t) => {
            void setTypeKey(t);
            setOpen(null);
            setStep(1);
          }}
        />
        <section className="d-flex flex-column h-100" aria-label="Checklist" style={{ background: "var(--paper-0)" }}>
          <div className="bar step-back">
            <Button variant="quiet" onClick={() => setStep(0)}>
              <ArrowLeft /> Record types
            </Button>
            <Button variant="plain" className="ms-auto" onClick={() => setStep(2)}>
              Effect
            </Button>
          </div>
          <div className="scroll px-4 py-3" tabIndex={0} role="region" aria-label="Items">
            <h2 className="mb-1" style={{ fontSize: "1.25rem" }}>
              {type?.plural}
            </h2>
            <p className="text-2">Documents each of them must have.</p>
            {items.length === 0 ? (
              <Empty icon={<ClipMark state="waived" size={34} />} title="Nothing is required yet">
                Start with the document you miss most often.
              </Empty>
            ) : null}
            {type ? (
              <ol className="list-unstyled mb-2">
                {items.map((item, i) => (
                  <ItemEditor
                    key={item.key}
                    type={type}
                    item={item}
                    index={i}
                    count={items.length}
                    isOpen={open === item.key}
                    errors={errors
                      .filter((e) => e.path.startsWith(`items.${i}.`))
                      .map((e) => ({ ...e, path: e.path.slice(`items.${i}.`.length) }))}
                    roles={lists.data.roles}
                    onOpen={() => setOpen((now) => (now === item.key ? null : item.key))}
                    onChange={(next) => write(items.map((x, n) => (n === i ? next : x)))}
                    onMove={(by) => write(moved(items, i, by))}
                    onRemove={() => write(items.filter((_, n) => n !== i))}
                  />
                ))}
              </ol>
            ) : null}
            <Button variant="plain" onClick={add}>
              <Plus /> Add an item
            </Button>
          </div>
          <div className="foot">
            <span className="text-2 small" style={{ flex: 1, minWidth: 0 }}>
              {isChanged ? "" : inForce && inForce.version > 0 ? `Version ${inForce.version}` : ""}
            </span>
            {isChanged ? (
              <Button variant="plain" onClick={forget}>
                Reset
              </Button>
            ) : null}
            <Button disabled={!isChanged || !isWhole || errors.length > 0 || save.isPending || isUnderWay} onClick={() => save.mutate()}>
              Save checklist
            </Button>
          </div>
        </section>
        <section className="scroll px-3 py-3" aria-label="Effect" tabIndex={0}>
          <div className="bar step-back px-0">
            <Button variant="quiet" onClick={() => setStep(1)}>
              <ArrowLeft /> Items
            </Button>
          </div>
          {isUnderWay ? (
            <div className="mb-3" role="status">
              <strong>Evaluating all {type?.plural.toLowerCase()} again</strong>
              <ProgressBar className="my-1" now={progress.data?.done ?? 0} max={progress.data?.total ?? 1} aria-label="Records evaluated" />
              <span className="text-2 small">
                {(progress.data?.done ?? 0).toLocaleString("en-GB")} of {(progress.data?.total ?? 0).toLocaleString("en-GB")}. You can keep
                working.
              </span>
            </div>
          ) : null}
          <PreviewOf
            preview={preview.data}
            isChanged={isChanged}
            isLoading={preview.isFetching}
            typeKey={typeKey}
            plural={type?.plural.toLowerCase() ?? "records"}
          />
        </section>
      </Columns>
    </>
  );
}

function PreviewOf({
  preview: p,
  isChanged,
  isLoading,
  typeKey,
  plural,
}: {
  preview: ChecklistPreview | undefined;
  isChanged: boolean;
  isLoading: boolean;
  typeKey: string;
  plural: string;
}) {
  if (!p) return <Skeletons rows={5} height={40} />;
  const n = (count: number): string => count.toLocaleString("en-GB");
  const change = (before: number, after: number) =>
    before === after ? (
      <>{n(after)}</>
    ) : (
      <>
        <span className="text-2 text-decoration-line-through">{n(before)}</span> <strong>{n(after)}</strong>
      </>
    );
  return (
    <div aria-busy={isLoading}>
      <h3 className="mb-2" style={{ fontSize: "1rem" }}>
        {isChanged ? "Effect of saving" : "Current state"}
      </h3>
      {isChanged ? (
        <p role="status">
          {p.becomeIncomplete === 0 && p.becomeComplete === 0
            ? `No ${plural} become complete or incomplete.`
            : [
                p.becomeIncomplete > 0 ? `${n(p.becomeIncomplete)} ${plural} would become incomplete.` : "",
                p.becomeComplete > 0 ? `${n(p.becomeComplete)} ${plural} would become complete.` : "",
              ]
                .filter(Boolean)
                .join(" ")}
        </p>
      ) : null}
      {p.items.length > 0 ? (
        <table className="numbers w-100">
          <thead>
            <tr>
              <th scope="col">Item</th>
              <th scope="col" className="text-end">
                Applies
              </th>
              <th scope="col" className="text-end">
                Outstanding
              </th>
              <th scope="col" className="text-end">
                Received
              </th>
            </tr>
          </thead>
          <tbody>
            {p.items.map((i) => (
              <tr key={i.key}>
                <td>{i.label || "New item"}</td>
                <td className="num">{change(i.applies.before, i.applies.after)}</td>
                <td className="num">{change(i.missing.before, i.missing.after)}</td>
                <td className="num">{change(i.received.before, i.received.after)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      ) : null}
      <p className="text-2 small mt-2">
        {p.lookedAt < p.records
          ? `The first ${n(p.lookedAt)} of ${n(p.records)} ${plural} were evaluated.`
          : `All ${n(p.records)} ${plural} were evaluated.`}
        {isChanged ? " Nothing is saved yet." : ""}
      </p>
      {isChanged && p.examples.length > 0 ? (
        <>
          <strong>Examples</strong>
          {p.examples.map((e) => (
            <div key={e.company + e.key} className="py-1 border-bottom">
              <Link href={recordHref({ company: e.company, type: typeKey, key: e.key })} className="mono fw-bold">
                {e.key}
              </Link>{" "}
              <span className="text-2">{e.title}</span>
              <div className="small problem">would lack {e.lacks.join(", ").toLowerCase()}</div>
            </div>
          ))}
        </>
      ) : null}
    </div>
  );
}
