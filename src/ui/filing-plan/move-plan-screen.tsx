"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useRouter } from "next/navigation";
import { parseAsString, useQueryState } from "nuqs";
import { Button, ButtonGroup, Form, ProgressBar, Table } from "react-bootstrap";
import { ArrowRight, ExclamationTriangle, FileEarmark, Folder2 } from "react-bootstrap-icons";
import { useDeferredValue, useState } from "react";
import type { PlanAnswer, StepAnswer } from "#server/filing-plan/load-plan.ts";
import { Where } from "../frame/top-slot.tsx";
import { apiGet, ApiProblem, apiSend, queryOf, wordsOf } from "../kit/api.ts";
import { Link } from "../kit/link.tsx";
import { saveCsv } from "../kit/save-csv.ts";
import { useNotices } from "../kit/notices.tsx";
import { Empty, Skeletons, Trouble, When } from "../kit/parts.tsx";
import { countText, dayText } from "../kit/words.ts";
import { recordHref } from "../records/record-href.ts";
import { moveWhyWords, planStateWords, stepStateWords } from "./plan-words.ts";

/** A plan that is under way is looked at so often, ms. */
const LOOK_MS = 700;
const PAGE = 100;
const underWay = ["drawing", "running", "undoing"];
const shows = [
  { key: "", label: "all" },
  { key: "planned", label: "to move" },
  { key: "moved", label: "moved" },
  { key: "numbered", label: "with a number" },
  { key: "trouble", label: "clashes" },
] as const;

/** A move plan: every move, old and new, before anything happens; then how far it is, what did not work, and the way back. */
export function MovePlanScreen({ id }: { id: string }) {
  const notices = useNotices();
  const client = useQueryClient();
  const router = useRouter();
  const [show, setShow] = useQueryState("show", parseAsString.withDefault(""));
  const [q, setQ] = useQueryState("q", parseAsString.withDefault(""));
  const [pages, setPages] = useState<readonly string[]>([""]);
  const asked = useDeferredValue(q);
  const plan = useQuery({
    queryKey: ["movePlan", id],
    queryFn: ({ signal }) => apiGet<PlanAnswer>(`/move-plans/${id}`, signal),
    refetchInterval: (query) => (query.state.data && underWay.includes(query.state.data.state) ? LOOK_MS : false),
  });
  const cursor = pages.at(-1) ?? "";
  const steps = useQuery({
    // Asked again when the plan is in another state: what was seen last before it was over is not how it ended.
    queryKey: ["planSteps", id, plan.data?.state, show, asked, cursor],
    queryFn: ({ signal }) =>
      apiGet<{ items: StepAnswer[]; next: string | null; total: number }>(
        `/move-plans/${id}/steps${queryOf({ show, q: asked, cursor, limit: PAGE })}`,
        signal,
      ),
    refetchInterval: plan.data && underWay.includes(plan.data.state) ? LOOK_MS * 2 : false,
    placeholderData: (p) => p,
  });
  const filingPlan = useQuery({
    queryKey: ["plan"],
    // Only what moves to another connection says which.
    enabled: steps.data?.items.some((s) => s.toConnection !== s.fromConnection) === true,
    queryFn: ({ signal }) => apiGet<{ connections: readonly { key: string; label: string }[] }>("/folder-rules", signal),
    refetchOnWindowFocus: false,
  });
  const labelOf = (key: string): string => filingPlan.data?.connections.find((c) => c.key === key)?.label ?? key;
  const act = useMutation({
    mutationFn: (what: string) => apiSend<PlanAnswer>("POST", `/move-plans/${id}/${what}`),
    // A look that is under way would show how it stood before.
    onMutate: () => client.cancelQueries({ queryKey: ["movePlan", id] }),
    onSuccess: (after, what) => {
      client.setQueryData(["movePlan", id], after);
      void client.invalidateQueries({ queryKey: ["planSteps", id] });
      void client.invalidateQueries({ queryKey: ["plan"] });
      if (what === "drop") router.push("/filing-plan");
      if (what === "undo") notices.done("Undoing", { more: "Everything moves back to where it was." });
    },
    onError: (e, what) => {
      // It was over before it could be stopped: what is there to be said stands on the page.
      if (what !== "stop" || !(e instanceof ApiProblem) || e.code !== "plan-state") notices.wrong(e);
      void plan.refetch();
    },
  });
  if (plan.isPending) return <Skeletons rows={6} />;
  if (plan.isError)
    return (
      <>
        <Where title="Move plan" />
        <Trouble {...wordsOf(plan.error)} />
      </>
    );
  const p = plan.data;
  const state = planStateWords[p.state] ?? { word: p.state, tone: "" };
  const toMove = Math.max(0, p.steps - p.clashes - p.failed);
  const choose = (key: string): void => {
    setPages([""]);
    void setShow(key === "" ? null : key);
  };
  return (
    <div className="d-flex flex-column h-100">
      <Where title={`Move plan: ${p.label}`}>
        <span className={`chip ${state.tone}`}>{state.word}</span>
      </Where>
      <div className="px-4 pt-3" aria-live="polite">
        <p className="mb-1" style={{ fontSize: "1.0625rem" }}>
          {p.state === "drawing" ? (
            <>
              Computing: {p.looked.toLocaleString("en-GB")} records checked, {p.steps.toLocaleString("en-GB")} moves so far.
            </>
          ) : p.steps === 0 ? (
            <>Everything is where the filing plan says.</>
          ) : (
            <>
              <strong>{countText(p.documents, "document")}</strong> in <strong>{countText(p.folders, "folder")}</strong>
              {p.clashes > 0 ? (
                <span style={{ color: "var(--rust)" }}>
                  {" "}
                  · <ExclamationTriangle aria-hidden="true" /> {countText(p.clashes, "clash", "clashes")}
                </span>
              ) : null}
              {p.failed > 0 ? <span style={{ color: "var(--rust)" }}> · {p.failed} failed</span> : null}
            </>
          )}
        </p>
        {["running", "stopped", "undoing", "done"].includes(p.state) && p.steps > 0 ? (
          <div className="d-flex gap-3 align-items-center mb-1">
            <ProgressBar
              className="flex-grow-1"
              style={{ maxWidth: 420, height: 8 }}
              now={p.done}
              max={Math.max(1, p.state === "undoing" ? p.steps : toMove)}
              aria-label="Moved so far"
            />
            <span className="text-2 small mono">
              {p.done.toLocaleString("en-GB")} of {toMove.toLocaleString("en-GB")}
            </span>
          </div>
        ) : null}
        {p.why !== null && underWay.includes(p.state) ? (
          <p className="problem mb-1">Waiting: {moveWhyWords[p.why] ?? p.why}. It continues automatically.</p>
        ) : null}
        {p.state === "done" && p.undoUntil !== null ? (
          <p className="text-2 small mb-1">Can be undone until {dayText(p.undoUntil)}.</p>
        ) : null}
      </div>
      <div className="bar px-4">
        <ButtonGroup size="sm" aria-label="Moves shown">
          {shows.map((s) => (
            <Button
              key={s.key}
              variant="plain"
              className={show === s.key ? "btn-on" : ""}
              aria-pressed={show === s.key}
              onClick={() => choose(s.key)}
            >
              {s.label}
            </Button>
          ))}
        </ButtonGroup>
        <Form.Control
          size="sm"
          style={{ maxWidth: 260 }}
          placeholder="Search old or new location"
          aria-label="Search old or new location"
          value={q}
          onChange={(e) => {
            setPages([""]);
            void setQ(e.target.value || null);
          }}
        />
        <span className="text-2 small ms-auto">{steps.data ? countText(steps.data.total, "move") : ""}</span>
        <Button
          size="sm"
          variant="plain"
          onClick={() => void saveCsv(`/api/v1/move-plans/${id}/steps${queryOf({ show, q })}`, "move-plan.csv").catch(notices.wrong)}
        >
          CSV
        </Button>
      </div>
      <div className="scroll flex-grow-1 px-3" tabIndex={0} role="region" aria-label="Moves">
        {steps.isPending ? <Skeletons rows={6} /> : null}
        {steps.data && steps.data.items.length === 0 ? (
          <Empty icon={<Folder2 size={28} />} title={p.steps === 0 ? "Nothing to move" : "No such moves"}>
            {p.steps === 0 && p.state !== "drawing" ? "Every folder and file is where it belongs." : null}
          </Empty>
        ) : null}
        {steps.data && steps.data.items.length > 0 ? (
          <Table className="mb-0" size="sm">
            <thead>
              <tr>
                <th>From</th>
                <th>To</th>
                <th className="num">Documents</th>
                <th>State</th>
              </tr>
            </thead>
            <tbody>
              {steps.data.items.map((s) => (
                <tr key={s.position}>
                  <td className="text-break text-2" style={{ width: "38%" }}>
                    {s.kind === "file" ? <FileEarmark aria-hidden="true" /> : <Folder2 aria-hidden="true" />}{" "}
                    <Changed text={s.from} other={s.to} />
                  </td>
                  <td className="text-break" style={{ width: "42%" }}>
                    <ArrowRight aria-hidden="true" className="text-3" />{" "}
                    {s.code ? (
                      <Link href={`/documents/${s.code}`}>
                        <Changed text={s.to} other={s.from} />
                      </Link>
                    ) : s.record ? (
                      <Link href={recordHref(s.record)}>
                        <Changed text={s.to} other={s.from} />
                      </Link>
                    ) : (
                      <Changed text={s.to} other={s.from} />
                    )}
                    {s.toConnection !== s.fromConnection ? <span className="chip ms-1">{labelOf(s.toConnection)}</span> : null}
                    {s.foundBy === "number" ? <span className="text-2 small"> the name was taken</span> : null}
                  </td>
                  <td className="num">{s.documents}</td>
                  <td className="text-nowrap">
                    <span className={s.state === "clash" || s.state === "failed" ? "problem" : "text-2"}>
                      {stepStateWords[s.state] ?? s.state}
                    </span>
                    {s.why ? <div className="problem">{moveWhyWords[s.why] ?? s.why}</div> : null}
                  </td>
                </tr>
              ))}
            </tbody>
          </Table>
        ) : null}
        <div className="d-flex gap-2 p-3">
          {pages.length > 1 ? (
            <Button size="sm" variant="plain" onClick={() => setPages((c) => c.slice(0, -1))}>
              Before
            </Button>
          ) : null}
          {steps.data?.next ? (
            <Button size="sm" variant="plain" onClick={() => setPages((c) => [...c, steps.data.next ?? ""])}>
              More
            </Button>
          ) : null}
        </div>
      </div>
      <div className="foot">
        <Link className="btn btn-quiet" href="/filing-plan">
          Filing plan
        </Link>
        {p.state === "drawn" || p.state === "drawing" ? (
          <Button variant="plain" className={p.steps === 0 ? "last" : ""} onClick={() => act.mutate("drop")} disabled={act.isPending}>
            Discard plan
          </Button>
        ) : null}
        {p.state === "done" || p.state === "stopped" ? (
          <Button variant="plain" onClick={() => act.mutate("undo")} disabled={act.isPending || p.done === 0}>
            Undo all
          </Button>
        ) : null}
        {(p.failed > 0 || p.clashes > 0) && (p.state === "done" || p.state === "stopped") ? (
          <Button
            variant={p.state === "done" ? "primary" : "plain"}
            className={p.state === "done" ? "last" : ""}
            onClick={() => act.mutate("retry")}
            disabled={act.isPending}
          >
            Retry failed moves
          </Button>
        ) : null}
        {p.state === "drawn" && p.steps > 0 ? (
          <Button className="last" onClick={() => act.mutate("start")} disabled={act.isPending || toMove === 0}>
            {p.recordType ? "Save rule and start moving" : "Start moving"} {countText(p.documents, "document")}
          </Button>
        ) : null}
        {p.state === "running" || p.state === "undoing" ? (
          <Button className="last" variant="plain" onClick={() => act.mutate("stop")} disabled={act.isPending}>
            Stop
          </Button>
        ) : null}
        {p.state === "stopped" ? (
          <Button className="last" onClick={() => act.mutate("continue")} disabled={act.isPending}>
            Resume
          </Button>
        ) : null}
      </div>
    </div>
  );
}

/** A path whose steps that differ from the other's stand out. */
function Changed({ text, other }: { text: string; other: string }) {
  const [mine, theirs] = [text.split("/"), new Set(other.split("/"))];
  return (
    <>
      {mine.map((step, i) => (
        <span key={i}>
          {i > 0 ? <span className="text-3"> › </span> : null}
          <span className="path-step">{theirs.has(step) ? step : <strong>{step}</strong>}</span>
        </span>
      ))}
    </>
  );
}

/** The move plans there were, newest first. */
export function MovePlansScreen() {
  const plans = useQuery({ queryKey: ["movePlans"], queryFn: ({ signal }) => apiGet<{ items: PlanAnswer[] }>("/move-plans", signal) });
  return (
    <div className="scroll">
      <Where title="Move plans" />
      <div className="page">
        {plans.isPending ? <Skeletons rows={4} /> : null}
        {plans.isError ? <Trouble {...wordsOf(plans.error)} /> : null}
        {plans.data?.items.length === 0 ? (
          <Empty icon={<Folder2 size={28} />} title="No move plans yet">
            Change a folder rule and choose <em>Show all moves</em>. <Link href="/filing-plan">Go to filing plan</Link>
          </Empty>
        ) : null}
        {plans.data && plans.data.items.length > 0 ? (
          <Table>
            <thead>
              <tr>
                <th>What</th>
                <th>State</th>
                <th className="num">Documents</th>
                <th className="num">Moves</th>
                <th>Created</th>
              </tr>
            </thead>
            <tbody>
              {plans.data.items.map((p) => (
                <tr key={p.id}>
                  <td>
                    <Link href={`/filing-plan/moves/${p.id}`}>{p.label}</Link>
                  </td>
                  <td>
                    <span className={`chip ${planStateWords[p.state]?.tone ?? ""}`}>{planStateWords[p.state]?.word ?? p.state}</span>
                  </td>
                  <td className="num">{p.documents.toLocaleString("en-GB")}</td>
                  <td className="num">
                    {p.done.toLocaleString("en-GB")} / {p.steps.toLocaleString("en-GB")}
                  </td>
                  <td>
                    <When at={p.madeAt} />
                  </td>
                </tr>
              ))}
            </tbody>
          </Table>
        ) : null}
      </div>
    </div>
  );
}
