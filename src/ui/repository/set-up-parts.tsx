"use client";
import { useQuery } from "@tanstack/react-query";
import { Button, ProgressBar, Table } from "react-bootstrap";
import { CheckCircleFill, DashCircle, QuestionCircle, XCircleFill } from "react-bootstrap-icons";
import type { FolderRule } from "#core/filing-plan/folder-rule.ts";
import { presentations } from "#core/shared/refusals.ts";
import type { RulePreview } from "#server/filing-plan/preview-rule.ts";
import type { ProbeStep } from "#server/ports/repository.ts";
import { apiSend } from "../kit/api.ts";
import { Skeletons } from "../kit/parts.tsx";
import { countText, sizeText } from "../kit/words.ts";

const probeWords: Readonly<Record<ProbeStep["step"], { readonly label: string; readonly help: string }>> = {
  reach: { label: "Connect", help: "Check the address and that the server runs." },
  signIn: { label: "Sign in", help: "Check user name, password and permissions." },
  write: { label: "Write a file", help: "The account needs write permission." },
  readBack: { label: "Read it back", help: "The file read back differs: check for software that changes files there." },
  rename: { label: "Rename it", help: "The account needs rename permission." },
  remove: { label: "Remove it", help: "The account needs delete permission." },
  clock: { label: "Clock difference", help: "" },
  space: { label: "Free space", help: "" },
};
const telling = new Set<string>(["repository-address", "repository-password", "repository-rights", "bucket-missing"]);
/** What to do about a line that failed: what the step needs, unless the server was not there or had no room. */
function helpWith(step: ProbeStep): string {
  if (step.why === "repository-unreachable") return probeWords.reach.help;
  // These name what is wrong themselves; what to do stands beside it in the one table.
  if (step.why !== undefined && telling.has(step.why)) return presentations[step.why as keyof typeof presentations].next;
  return step.why === "repository-full" ? "Free some space there." : probeWords[step.step].help;
}

/** Making folders, as a job that is watched. */
export interface Job {
  readonly state: string;
  readonly done: number;
  readonly failed: number;
  readonly total: number | null;
  readonly failures: readonly { readonly what: string; readonly why: string }[];
}

/** The check of a connection: each line with its result and what to do. */
export function CheckLines({ checks }: { checks: readonly ProbeStep[] }) {
  return (
    <ul className="list-unstyled" aria-live="polite">
      {checks.map((s) => (
        <li key={s.step} className="d-flex gap-2 py-2 border-bottom align-items-baseline">
          <Mark outcome={s.outcome} />
          <span className="flex-grow-1">
            {probeWords[s.step].label}
            {s.outcome === "failed" ? (
              <span className="problem d-block">
                {s.why && s.why in presentations ? `${presentations[s.why as keyof typeof presentations].title}. ` : ""}
                {helpWith(s)}
              </span>
            ) : null}
          </span>
          <span className="text-2">{valueOf(s)}</span>
        </li>
      ))}
    </ul>
  );
}

function Mark({ outcome }: { outcome: ProbeStep["outcome"] }) {
  if (outcome === "ok") return <CheckCircleFill color="var(--moss)" aria-label="fine" />;
  if (outcome === "failed") return <XCircleFill color="var(--rust)" aria-label="failed" />;
  return outcome === "skipped" ? (
    <DashCircle className="text-3" aria-label="not checked" />
  ) : (
    <QuestionCircle className="text-3" aria-label="not known" />
  );
}

function valueOf(s: ProbeStep): string {
  if (s.value === undefined) return s.outcome === "skipped" ? "not checked" : s.outcome === "unknown" ? "not reported" : "";
  return s.step === "space" ? `${sizeText(s.value)}` : Math.abs(s.value) < 2 ? "none" : `${s.value} s`;
}

/** What a few real records of a type would get. */
export function TypePreview({ typeKey, label, rule }: { typeKey: string; label: string; rule: FolderRule }) {
  const preview = useQuery({
    queryKey: ["rulePreview", typeKey, rule, "odd"],
    // The connection that is being set up is not in use yet: names are shown by the limits of the first until then.
    queryFn: ({ signal }) =>
      apiSend<RulePreview>(
        "POST",
        `/folder-rules/${typeKey}/preview`,
        { rule: { ...rule, connection: undefined, variants: [] }, sample: "odd" },
        signal,
      ),
  });
  const p = preview.data;
  return (
    <section className="mb-3">
      <h3 className="h6 mb-1">
        {label} {p ? <span className="text-2 fw-normal">{countText(p.records, "record")}</span> : null}
      </h3>
      {p?.errors.map((e) => (
        <p key={e.message} className="problem mb-1">
          {e.message}
        </p>
      ))}
      <ul className="place">
        {p?.samples.slice(0, 3).map((s) => (
          <li key={s.key} className="text-2">
            {s.segments.join(" › ")}
          </li>
        ))}
      </ul>
      {p && (p.clashCount > 0 || p.tooLong > 0) ? (
        <p className="problem mb-0">
          {p.clashCount > 0 ? `${countText(p.clashCount, "name is", "names are")} shared. ` : ""}
          {p.tooLong > 0 ? `${countText(p.tooLong, "path is", "paths are")} too long.` : ""}
        </p>
      ) : null}
    </section>
  );
}

/** How far making folders is, every failure with its reason, and another try for those. */
export function Result({ data, onAgain, isBusy }: { data: Job | undefined; onAgain: () => void; isBusy: boolean }) {
  if (!data) return <Skeletons rows={2} />;
  const over = ["done", "failed"].includes(data.state);
  return (
    <>
      <h2 className="mb-2" aria-live="polite">
        {over ? `${countText(data.done, "folder")} created` : "Creating folders"}
        {data.failed > 0 ? `, ${data.failed} not` : ""}
      </h2>
      <ProgressBar
        now={data.done + data.failed}
        max={Math.max(1, data.total ?? 1)}
        style={{ height: 8 }}
        aria-label="Folders created so far"
        className="mb-3"
      />
      {data.failures.length > 0 ? (
        <>
          <Table size="sm">
            <thead>
              <tr>
                <th>Record</th>
                <th>Reason</th>
              </tr>
            </thead>
            <tbody>
              {data.failures.slice(0, 200).map((f) => (
                <tr key={f.what}>
                  <td>{f.what}</td>
                  <td className="problem">{f.why}</td>
                </tr>
              ))}
            </tbody>
          </Table>
          {over ? (
            <Button variant="plain" onClick={onAgain} disabled={isBusy}>
              Retry
            </Button>
          ) : null}
        </>
      ) : null}
    </>
  );
}
