"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useRouter } from "next/navigation";
import { useRef, useState } from "react";
import { Button, Form } from "react-bootstrap";
import { Archive, Hdd, HddNetwork } from "react-bootstrap-icons";
import type { FolderRule } from "#core/filing-plan/folder-rule.ts";
import type { ProbeStep } from "#server/ports/repository.ts";
import type { ConnectionAnswer, SetUp } from "#server/repository/manage-connections.ts";
import { Where } from "../frame/top-slot.tsx";
import { apiGet, ApiProblem, apiSend, sentenceOf, wordsOf } from "../kit/api.ts";
import { Link } from "../kit/link.tsx";
import { useNotices } from "../kit/notices.tsx";
import { Skeletons, Trouble } from "../kit/parts.tsx";
import { useMe } from "../people/me-context.tsx";
import { CheckLines, type Job, Result, TypePreview } from "./set-up-parts.tsx";

const kinds = [
  { key: "disk", label: "Folder on disk", about: "on this server, or a mounted share", icon: Hdd },
  { key: "webdav", label: "WebDAV server", about: "over HTTP, with user name and password", icon: HddNetwork },
  { key: "bucket", label: "S3-compatible bucket", about: "object store, with an access key", icon: Archive },
] as const;
type Kind = (typeof kinds)[number]["key"];

const stages: readonly { readonly key: SetUp["step"]; readonly label: string }[] = [
  { key: "kind", label: "Kind" },
  { key: "address", label: "Address" },
  { key: "check", label: "Check" },
  { key: "types", label: "Record types" },
  { key: "layout", label: "Layout" },
  { key: "preview", label: "Preview" },
  { key: "run", label: "Create folders" },
  { key: "result", label: "Result" },
];
const fieldsOf: Readonly<Record<Kind, readonly { readonly key: string; readonly label: string; readonly hint: string }[]>> = {
  disk: [{ key: "folder", label: "Folder", hint: "/srv/papers" }],
  webdav: [
    { key: "address", label: "Address", hint: "https://files.example/dav" },
    { key: "root", label: "Folder on the server", hint: "Documents" },
    { key: "user", label: "Name", hint: "" },
  ],
  bucket: [
    { key: "address", label: "Address", hint: "https://store.example" },
    { key: "bucket", label: "Bucket", hint: "papers" },
    { key: "region", label: "Region", hint: "us-east-1" },
    { key: "root", label: "Key prefix", hint: "may be empty" },
    { key: "user", label: "Access key", hint: "" },
  ],
};
interface Plan {
  readonly rules: readonly { readonly recordType: string; readonly version: number; readonly rule: FolderRule }[];
  readonly counts: Readonly<Record<string, number>>;
}

/** The guided set-up of a connection: each step is kept, so that it can be left and taken up again; what is in use can be changed. */
export function ConnectionScreen({ connectionKey }: { connectionKey: string }) {
  const found = useQuery({
    // Never from what was remembered: the step that was left last is taken up again.
    queryKey: ["connection", connectionKey],
    gcTime: 0,
    queryFn: ({ signal }) => apiGet<{ items: ConnectionAnswer[] }>("/connections", signal),
    refetchOnWindowFocus: false,
  });
  if (found.isPending) return <Skeletons rows={5} />;
  if (found.isError)
    return (
      <>
        <Where title="Connection" />
        <Trouble {...wordsOf(found.error)} />
      </>
    );
  const known = found.data.items.find((c) => c.key === connectionKey);
  return <Guide key={connectionKey} connectionKey={connectionKey} known={known ?? null} again={() => found.refetch()} />;
}

function Guide({ connectionKey, known, again }: { connectionKey: string; known: ConnectionAnswer | null; again: () => Promise<unknown> }) {
  const { me } = useMe();
  const notices = useNotices();
  const client = useQueryClient();
  const router = useRouter();
  const [kind, setKind] = useState<Kind>((known?.kind as Kind | undefined) ?? "disk");
  const [label, setLabel] = useState(known?.label ?? "");
  const [settings, setSettings] = useState<Readonly<Record<string, string>>>(
    Object.fromEntries(Object.entries(known?.settings ?? {}).map(([k, v]) => [k, String(v)])),
  );
  const [secret, setSecret] = useState("");
  const [step, setStep] = useState<SetUp["step"]>(known?.setUp?.step ?? (known ? "address" : "kind"));
  const [checks, setChecks] = useState<readonly ProbeStep[]>((known?.setUp?.checks as unknown as readonly ProbeStep[] | undefined) ?? []);
  const [types, setTypes] = useState<readonly string[]>(
    known?.setUp?.recordTypes.length ? known.setUp.recordTypes : (known?.recordTypes ?? []),
  );
  const [layout, setLayout] = useState<"flat" | "nested">(known?.setUp?.layout ?? "nested");
  const [job, setJob] = useState<string | null>(known?.setUp?.job ?? null);
  /** Record types whose records have folders elsewhere, once their rule is saved. */
  const [leftElsewhere, setLeftElsewhere] = useState<readonly string[]>([]);
  const isNew = known === null || known.setUp !== null;
  /** The step that is being kept: leaving waits for it. */
  const kept = useRef<Promise<unknown>>(Promise.resolve());
  const plan = useQuery({
    queryKey: ["plan"],
    queryFn: ({ signal }) => apiGet<Plan>("/folder-rules", signal),
    refetchOnWindowFocus: false,
  });
  const keep = (next: SetUp["step"], more: Partial<SetUp> = {}): void => {
    setStep(next);
    // Before its address is saved there is nothing yet to keep the step with.
    if (known && isNew)
      kept.current = apiSend("PUT", `/connections/${connectionKey}/set-up`, {
        setUp: { step: next, recordTypes: types, layout, job, ...more },
      }).catch(notices.wrong);
  };
  const save = useMutation({
    mutationFn: () =>
      apiSend("PUT", `/connections/${connectionKey}`, { label, kind, settings: settings, ...(secret === "" ? {} : { secret }) }),
    onSuccess: async () => {
      setSecret("");
      setChecks([]);
      await again();
      setStep("check");
      check.mutate();
    },
  });
  const check = useMutation({
    mutationFn: () => apiSend<{ steps: readonly ProbeStep[]; passed: boolean }>("POST", `/connections/${connectionKey}/check`),
    onSuccess: ({ steps }) => setChecks(steps),
    onError: notices.wrong,
  });
  const progress = useQuery({
    queryKey: ["job", job],
    enabled: job !== null,
    queryFn: ({ signal }) => apiGet<Job>(`/jobs/${job}`, signal),
    refetchInterval: (q) => (q.state.data && ["done", "failed"].includes(q.state.data.state) ? false : 500),
  });
  /** The rule of a type as this set-up would have it. */
  const ruleFor = (key: string): FolderRule | null => {
    const type = me.recordTypes.find((t) => t.key === key);
    if (!type) return null;
    const was = plan.data?.rules.find((r) => r.recordType === key)?.rule;
    const base: FolderRule = was ?? {
      kind: type.kind,
      connection: connectionKey,
      inside: null,
      rootFolder: type.plural,
      groupedBy: null,
      folderName: type.kind === "standing" ? "{title} {key}" : "{key}",
      tellApart: null,
      variants: [],
      subFolders: null,
      fileName: "{title}",
      fileNames: {},
    };
    const nested = layout === "nested" && type.parent.length > 0;
    return {
      ...base,
      connection: connectionKey,
      rootFolder: base.rootFolder === "" ? type.plural : base.rootFolder,
      inside: nested ? (base.inside ?? { otherwise: `Unassigned ${type.plural.toLowerCase()}` }) : null,
    };
  };
  const moved = types.filter((t) => (plan.data?.rules.find((r) => r.recordType === t)?.rule.connection ?? connectionKey) !== connectionKey);
  const run = useMutation({
    mutationFn: async () => {
      setLeftElsewhere(moved);
      await apiSend("PUT", `/connections/${connectionKey}/set-up`, { setUp: null });
      for (const key of types) {
        const rule = ruleFor(key);
        const version = plan.data?.rules.find((r) => r.recordType === key)?.version ?? 0;
        if (rule) await apiSend("PUT", `/folder-rules/${key}`, { rule, version });
      }
      return apiSend<{ job: string }>("POST", "/repository/provision", { recordTypes: types, connection: connectionKey });
    },
    onSuccess: async ({ job: id }) => {
      setJob(id);
      setStep("result");
      void client.invalidateQueries({ queryKey: ["plan"] });
      await again();
    },
    onError: notices.wrong,
  });
  const tryAgain = useMutation({
    mutationFn: () => apiSend<{ job: string }>("POST", "/repository/provision", { again: job, connection: connectionKey }),
    onSuccess: ({ job: id }) => setJob(id),
    onError: notices.wrong,
  });
  const drawMoves = useMutation({
    mutationFn: () => apiSend<{ id: string }>("POST", "/move-plans", { outOfStep: leftElsewhere }),
    onSuccess: ({ id }) => router.push(`/filing-plan/moves/${id}`),
    onError: notices.wrong,
  });
  const error = save.error;
  const wrong = (path: string): string | null =>
    error instanceof ApiProblem ? (error.errors.find((e) => e.path === path)?.message ?? null) : null;
  /** What is wrong stands beside the fields; above them it would only be said again. */
  const isMarked =
    error instanceof ApiProblem &&
    error.errors.length > 0 &&
    error.errors.every((e) => e.path === "label" || fieldsOf[kind].some((f) => e.path === `settings.${f.key}`));
  const passed = checks.length > 0 && checks.every((s) => s.outcome !== "failed" && s.outcome !== "skipped");
  const at = stages.findIndex((s) => s.key === step);
  return (
    <div className="d-flex flex-column h-100">
      <Where title={known ? `Connection: ${known.label}` : "New connection"}>
        {known ? (
          <span className={`chip ${known.setUp === null ? "moss" : "amber"}`}>{known.setUp === null ? "in use" : "being set up"}</span>
        ) : null}
      </Where>
      <ol className="stages" aria-label="Steps">
        {stages.map((s, i) => (
          <li key={s.key} aria-current={s.key === step ? "step" : undefined} className={i < at ? "is-done" : ""}>
            {s.label}
          </li>
        ))}
      </ol>
      <div className="scroll flex-grow-1" tabIndex={0} role="region" aria-label={stages[at]?.label ?? "Step"}>
        <div className="page" style={{ maxWidth: 760 }}>
          {step === "kind" ? (
            <>
              <h2 className="mb-3">Where are the documents stored?</h2>
              <div
                className="d-grid gap-2"
                role="radiogroup"
                aria-label="Kind of connection"
                style={{ gridTemplateColumns: "1fr 1fr 1fr" }}
              >
                {kinds.map((k) => (
                  <button
                    key={k.key}
                    type="button"
                    role="radio"
                    aria-checked={kind === k.key}
                    className="choice-card"
                    onClick={() => setKind(k.key)}
                  >
                    <k.icon size={20} aria-hidden="true" className="mb-1" />
                    <strong className="d-block">{k.label}</strong>
                    <span className="text-2 small">{k.about}</span>
                  </button>
                ))}
              </div>
            </>
          ) : null}
          {step === "address" ? (
            <Form
              id="connection-form"
              onSubmit={(e) => {
                e.preventDefault();
                save.mutate();
              }}
            >
              <h2 className="mb-3">{kinds.find((k) => k.key === kind)?.label}</h2>
              {error ? (
                <p className="problem" role="alert">
                  {isMarked ? `${error.message}. ${error.next}` : sentenceOf(error)}
                </p>
              ) : null}
              <Form.Group controlId="connection-label" className="mb-3">
                <Form.Label>Display name</Form.Label>
                <Form.Control
                  value={label}
                  isInvalid={wrong("label") !== null}
                  onChange={(e) => setLabel(e.target.value)}
                  placeholder="Quay archive"
                />
                {wrong("label") ? <div className="problem">{wrong("label")}</div> : null}
              </Form.Group>
              {fieldsOf[kind].map((f) => (
                <Form.Group key={f.key} controlId={`connection-${f.key}`} className="mb-3">
                  <Form.Label>{f.label}</Form.Label>
                  <Form.Control
                    value={settings[f.key] ?? ""}
                    placeholder={f.hint}
                    isInvalid={wrong(`settings.${f.key}`) !== null}
                    onChange={(e) => setSettings((s) => ({ ...s, [f.key]: e.target.value }))}
                  />
                  {wrong(`settings.${f.key}`) ? <div className="problem">{wrong(`settings.${f.key}`)}</div> : null}
                </Form.Group>
              ))}
              {kind === "disk" ? (
                <p className="text-2 small">For SMB and NFS, mount the share on this server first and enter the mounted folder.</p>
              ) : (
                <Form.Group controlId="connection-secret" className="mb-3">
                  <Form.Label>{kind === "bucket" ? "Secret key" : "Password"}</Form.Label>
                  <Form.Control
                    type="password"
                    autoComplete="new-password"
                    value={secret}
                    onChange={(e) => setSecret(e.target.value)}
                    placeholder={known?.hasSecret ? "saved; type to change" : ""}
                  />
                  <Form.Text>Stored encrypted and never shown again.</Form.Text>
                </Form.Group>
              )}
            </Form>
          ) : null}
          {step === "check" ? (
            <>
              <h2 className="mb-3">Connection check</h2>
              {check.isPending ? <p className="text-2">Checking …</p> : null}
              <CheckLines checks={checks} />
            </>
          ) : null}
          {step === "types" ? (
            <>
              <h2 className="mb-1">Which record types are stored here?</h2>
              <p className="text-2">Types stored elsewhere move only when you start their move plan.</p>
              <div className="d-grid" style={{ gridTemplateColumns: "1fr 1fr", gap: "4px 24px" }}>
                {me.recordTypes.map((t) => (
                  <Form.Check
                    key={t.key}
                    id={`type-${t.key}`}
                    label={`${t.plural} (${(plan.data?.counts[t.key] ?? 0).toLocaleString("en-GB")})`}
                    checked={types.includes(t.key)}
                    onChange={(e) => setTypes(e.target.checked ? [...types, t.key] : types.filter((x) => x !== t.key))}
                  />
                ))}
              </div>
            </>
          ) : null}
          {step === "layout" ? (
            <>
              <h2 className="mb-3">Folder layout</h2>
              <div className="d-grid gap-2" role="radiogroup" aria-label="Layout" style={{ gridTemplateColumns: "1fr 1fr" }}>
                <button
                  type="button"
                  role="radio"
                  aria-checked={layout === "nested"}
                  className="choice-card"
                  onClick={() => setLayout("nested")}
                >
                  <strong className="d-block">Inside the account’s folder</strong>
                  <span className="text-2 small">a booking’s folder is inside its customer’s folder</span>
                </button>
                <button
                  type="button"
                  role="radio"
                  aria-checked={layout === "flat"}
                  className="choice-card"
                  onClick={() => setLayout("flat")}
                >
                  <strong className="d-block">Flat by type</strong>
                  <span className="text-2 small">one folder per record type</span>
                </button>
              </div>
            </>
          ) : null}
          {step === "preview" || step === "run" ? (
            <>
              <h2 className="mb-3">Folders of real records</h2>
              {types.map((key) => {
                const rule = ruleFor(key);
                return rule ? (
                  <TypePreview
                    key={key}
                    typeKey={key}
                    label={me.recordTypes.find((t) => t.key === key)?.plural ?? key}
                    rule={{ ...rule, connection: known?.setUp === null ? connectionKey : rule.connection }}
                  />
                ) : null;
              })}
              {moved.length > 0 ? (
                <p className="moves-note">
                  {moved.map((k) => me.recordTypes.find((t) => t.key === k)?.plural).join(", ")} are stored on another connection. Their
                  folders stay until you move them; the moves are shown at the end.
                </p>
              ) : null}
            </>
          ) : null}
          {step === "result" ? <Result data={progress.data} onAgain={() => tryAgain.mutate()} isBusy={tryAgain.isPending} /> : null}
        </div>
      </div>
      <div className="foot">
        <Button
          variant="quiet"
          onClick={() =>
            void kept.current.then(() => {
              void client.invalidateQueries({ queryKey: ["connections"] });
              router.push("/set-up");
            })
          }
        >
          {isNew && step !== "result" ? "Finish later" : "Set-up"}
        </Button>
        {at > 0 && step !== "result" ? (
          <Button variant="plain" onClick={() => keep(stages[at - 1]?.key ?? "kind")}>
            Back
          </Button>
        ) : null}
        {step === "kind" ? (
          <Button className="last" onClick={() => setStep("address")}>
            Next
          </Button>
        ) : null}
        {step === "address" ? (
          <Button className="last" type="submit" form="connection-form" disabled={save.isPending || label.trim() === ""}>
            Save and check
          </Button>
        ) : null}
        {step === "check" ? (
          <>
            <Button variant="plain" onClick={() => check.mutate()} disabled={check.isPending}>
              Check again
            </Button>
            <Button className="last" disabled={!passed} onClick={() => keep("types")}>
              Next
            </Button>
          </>
        ) : null}
        {step === "types" ? (
          <Button className="last" onClick={() => (types.length === 0 ? void finish() : keep("layout"))}>
            {types.length === 0 ? "Connect only" : "Next"}
          </Button>
        ) : null}
        {step === "layout" ? (
          <Button className="last" onClick={() => keep("preview")}>
            Next
          </Button>
        ) : null}
        {step === "preview" || step === "run" ? (
          <Button className="last" disabled={run.isPending || types.length === 0} onClick={() => run.mutate()}>
            Save rules and create folders
          </Button>
        ) : null}
        {step === "result" && leftElsewhere.length > 0 ? (
          <Button variant="plain" className="last" disabled={drawMoves.isPending} onClick={() => drawMoves.mutate()}>
            Show moves
          </Button>
        ) : null}
        {step === "result" ? (
          <Link className={`btn btn-primary ${leftElsewhere.length > 0 ? "" : "last"}`} href="/repository">
            Show repository
          </Link>
        ) : null}
      </div>
    </div>
  );
  async function finish(): Promise<void> {
    try {
      if (isNew) await apiSend("PUT", `/connections/${connectionKey}/set-up`, { setUp: null });
      void client.invalidateQueries();
      notices.done(`${label} is connected`);
      router.push("/set-up");
    } catch (e) {
      notices.wrong(e);
    }
  }
}
