"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { parseAsString, useQueryState } from "nuqs";
import { useDeferredValue, useMemo, useState } from "react";
import { useRouter } from "next/navigation";
import { Button, Dropdown } from "react-bootstrap";
import { ArrowLeft } from "react-bootstrap-icons";
import { FIRST_CONNECTION, type FolderRule } from "#core/filing-plan/folder-rule.ts";
import type { RecordType } from "#core/records/record-type.ts";
import { Where } from "../frame/top-slot.tsx";
import { apiGet, apiSend, wordsOf } from "../kit/api.ts";
import { Columns } from "../kit/columns.tsx";
import { Icon } from "../kit/icon.tsx";
import { Link } from "../kit/link.tsx";
import { useNotices } from "../kit/notices.tsx";
import { useWarnBeforeLeaving } from "../kit/use-warn-before-leaving.ts";
import { Skeletons, Trouble } from "../kit/parts.tsx";
import { useMe } from "../people/me-context.tsx";
import { RuleEditor } from "./rule-editor.tsx";
import { countText } from "../kit/words.ts";
import { PlanTabs } from "./plan-tabs.tsx";
import { PlanFileDialog } from "./plan-file-dialog.tsx";
import { RulePreviewPanel, type PreviewAnswer, type Sample } from "./rule-preview-panel.tsx";

interface Plan {
  readonly rules: readonly { readonly recordType: string; readonly version: number; readonly rule: FolderRule; readonly madeAt: string }[];
  readonly counts: Readonly<Record<string, number>>;
  readonly connections: readonly { readonly key: string; readonly label: string; readonly kind: string }[];
}

const emptyRule = (type: RecordType): FolderRule => ({
  kind: type.kind,
  connection: FIRST_CONNECTION,
  inside: null,
  rootFolder: type.plural,
  groupedBy: null,
  folderName: type.kind === "standing" ? "{title} {key}" : "{key}",
  tellApart: null,
  variants: [],
  subFolders: null,
  fileName: "{title}",
  fileNames: {},
});

/** The filing plan: record types, the rule of the one that is open, and what real records would get. */
export function PlanScreen() {
  const { me, company } = useMe();
  const notices = useNotices();
  const client = useQueryClient();
  const plan = useQuery({
    queryKey: ["plan"],
    queryFn: ({ signal }) => apiGet<Plan>("/folder-rules", signal),
    refetchOnWindowFocus: false,
  });
  const [askedType, setTypeKey] = useQueryState("type", parseAsString);
  const [drafts, setDrafts] = useState<Readonly<Record<string, FolderRule>>>({});
  const [sample, setSample] = useState<Sample>("recent");
  const [chosenKeys, setChosenKeys] = useState<readonly string[]>([]);
  const [fileShown, setFileShown] = useState(false);
  const router = useRouter();
  const [seed, setSeed] = useState(1);
  const [step, setStep] = useState(0);
  // An address of a type that there is no more, or that one may not see, opens the first.
  const type = me.recordTypes.find((t) => t.key === askedType) ?? me.recordTypes[0];
  const typeKey = type?.key ?? "";
  const inForce = plan.data?.rules.find((r) => r.recordType === typeKey);
  const rule = type ? (drafts[typeKey] ?? inForce?.rule ?? emptyRule(type)) : null;
  const isChanged = drafts[typeKey] !== undefined && JSON.stringify(drafts[typeKey]) !== JSON.stringify(inForce?.rule);
  const asked = useDeferredValue(rule);
  const preview = useQuery({
    queryKey: ["rulePreview", typeKey, asked, sample, seed, company, chosenKeys],
    enabled: asked !== null,
    queryFn: ({ signal }) =>
      apiSend<PreviewAnswer>(
        "POST",
        `/folder-rules/${typeKey}/preview`,
        { rule: asked, sample, seed, keys: chosenKeys, ...(company ? { company } : {}) },
        signal,
      ),
    placeholderData: (p) => p,
    retry: false,
  });
  const save = useMutation({
    mutationFn: () => apiSend<{ version: number }>("PUT", `/folder-rules/${typeKey}`, { rule, version: inForce?.version ?? 0 }),
    onSuccess: () => {
      setDrafts((d) => {
        const { [typeKey]: _saved, ...rest } = d;
        return rest;
      });
      notices.done(`Saved for new ${type?.plural.toLowerCase()}`, { more: "Folders that exist stay where they are." });
      void client.invalidateQueries({ queryKey: ["plan"] });
    },
    onError: notices.wrong,
  });
  const draw = useMutation({
    mutationFn: (body: Record<string, unknown>) => apiSend<{ id: string }>("POST", "/move-plans", body),
    onSuccess: ({ id }) => {
      setDrafts((d) => {
        const { [typeKey]: _drawn, ...rest } = d;
        return rest;
      });
      router.push(`/filing-plan/moves/${id}`);
    },
    onError: notices.wrong,
  });
  useWarnBeforeLeaving(isChanged);
  const ordered = useMemo(() => [...me.recordTypes], [me.recordTypes]);
  if (plan.isPending) return <Skeletons rows={8} />;
  if (plan.isError)
    return (
      <>
        <Where title="Filing plan" />
        <Trouble {...wordsOf(plan.error)} />
      </>
    );
  const mapped = plan.data.rules.length;
  const errors = preview.data?.errors ?? [];
  const moves = preview.data?.moves ?? { folders: 0, documents: 0 };
  return (
    <>
      <Where title="Filing plan">
        <PlanTabs current="folders" />
        <span className="chip aside">{plan.data.connections.map((c) => c.label).join(" · ")}</span>
      </Where>
      <Columns name="plan" grows={1} step={step} sides={{ 0: { start: 290, min: 220, max: 400 }, 2: { start: 400, min: 280, max: 620 } }}>
        <div className="d-flex flex-column h-100">
          <div className="bar">
            <span className={`chip ${mapped < me.recordTypes.length ? "amber" : "moss"}`}>
              {mapped} of {me.recordTypes.length} record types mapped
            </span>
            <Dropdown align="end" className="ms-auto">
              <Dropdown.Toggle size="sm" variant="plain">
                More
              </Dropdown.Toggle>
              <Dropdown.Menu>
                <Dropdown.Item as={Link} href="/filing-plan/moves">
                  Move plans
                </Dropdown.Item>
                <Dropdown.Item as="button" onClick={() => draw.mutate({ outOfStep: "all" })}>
                  Compute moves for existing folders
                </Dropdown.Item>
                <Dropdown.Item as="button" onClick={() => setFileShown(true)}>
                  Filing plan as a file
                </Dropdown.Item>
              </Dropdown.Menu>
            </Dropdown>
          </div>
          <nav className="scroll py-2" aria-label="Record types">
            {ordered.map((t) => {
              const r = plan.data.rules.find((x) => x.recordType === t.key)?.rule;
              return (
                <button
                  key={t.key}
                  type="button"
                  aria-current={t.key === typeKey ? "true" : undefined}
                  className={`paper-row border-0 ${t.key === typeKey ? "is-chosen" : ""}`}
                  style={{ gridTemplateColumns: "22px minmax(0, 1fr) auto", paddingLeft: r?.inside ? 34 : 16 }}
                  onClick={() => {
                    void setTypeKey(t.key);
                    setStep(1);
                  }}
                >
                  <Icon name={t.icon} size={17} />
                  <span style={{ minWidth: 0 }}>
                    <span className="name d-block">{t.plural}</span>
                    <span className="about d-block">
                      {drafts[t.key] ? <span className="chip amber me-1">changed</span> : null}
                      {r ? describe(r) : <span className="problem">no rule: documents cannot be filed here</span>}
                    </span>
                  </span>
                  <span className="text-2 mono">{(plan.data.counts[t.key] ?? 0).toLocaleString("en-GB")}</span>
                </button>
              );
            })}
          </nav>
        </div>
        <section className="d-flex flex-column h-100" aria-label="Folder rule" style={{ background: "var(--paper-0)" }}>
          <div className="bar step-back">
            <Button variant="quiet" onClick={() => setStep(0)}>
              <ArrowLeft /> Record types
            </Button>
            <Button variant="plain" className="ms-auto" onClick={() => setStep(2)}>
              Preview
            </Button>
          </div>
          <div className="scroll px-4 py-3" tabIndex={0} role="region" aria-label={type?.plural ?? "Rule"}>
            {type && rule ? (
              <>
                <h2 className="mb-3" style={{ fontSize: "1.25rem" }}>
                  {type.plural}
                </h2>
                <RuleEditor
                  key={typeKey}
                  type={type}
                  rule={rule}
                  errors={errors}
                  connections={plan.data.connections}
                  documentTypes={me.documentTypes}
                  parentLabels={type.parent.map((a) => me.recordTypes.find((t) => t.key === a)?.label ?? a)}
                  onChange={(next) => setDrafts((d) => ({ ...d, [typeKey]: next }))}
                />
              </>
            ) : (
              <p className="text-2">There is no record type yet.</p>
            )}
          </div>
          {isChanged && inForce && errors.length === 0 && moves.folders > 0 ? (
            <div className="moves-note mx-4 my-2" role="status">
              <strong>
                This change moves {countText(moves.documents, "document")} in {countText(moves.folders, "folder")}.
              </strong>
              <div className="text-2 small">
                {[
                  (preview.data?.clashCount ?? 0) > 0 ? `${countText(preview.data?.clashCount ?? 0, "name is", "names are")} shared` : null,
                  (preview.data?.tooLong ?? 0) > 0 ? `${countText(preview.data?.tooLong ?? 0, "path is", "paths are")} too long` : null,
                  "Nothing moves until you start it. You can stop, resume and undo.",
                ]
                  .filter(Boolean)
                  .join(". ")}
              </div>
            </div>
          ) : null}
          {type ? (
            <div className="foot">
              <span className="text-2 small" style={{ flex: 1, minWidth: 0 }}>
                {isChanged
                  ? moves.folders > 0
                    ? ""
                    : "No existing folder moves."
                  : inForce
                    ? `Version ${inForce.version}`
                    : "No rule yet"}
              </span>
              {isChanged ? (
                <Button
                  variant="plain"
                  className="last"
                  onClick={() =>
                    setDrafts((d) => {
                      const { [typeKey]: _dropped, ...rest } = d;
                      return rest;
                    })
                  }
                >
                  Reset
                </Button>
              ) : null}
              <Button
                variant={isChanged && inForce && moves.folders > 0 ? "plain" : "primary"}
                className={isChanged ? "" : "last"}
                disabled={(!isChanged && inForce !== undefined) || errors.length > 0 || save.isPending}
                onClick={() => save.mutate()}
              >
                Save for new {type.plural.toLowerCase()}
              </Button>
              {isChanged && inForce && moves.folders > 0 ? (
                <Button
                  disabled={errors.length > 0 || draw.isPending}
                  onClick={() => draw.mutate({ recordType: typeKey, rule, version: inForce.version })}
                >
                  Show all moves
                </Button>
              ) : null}
            </div>
          ) : null}
        </section>
        <RulePreviewPanel
          answer={preview.data}
          error={preview.error}
          onBack={() => setStep(1)}
          sample={sample}
          typeKey={typeKey}
          chosenKeys={chosenKeys}
          onChosen={setChosenKeys}
          onSample={(s) => {
            setSample(s);
            if (s === "random") setSeed((n) => n + 1);
          }}
        />
      </Columns>
      <PlanFileDialog shown={fileShown} onHide={() => setFileShown(false)} />
    </>
  );
}

/** A rule in a line: "Bookings / year / number". */
function describe(rule: FolderRule): string {
  return [
    rule.rootFolder,
    rule.groupedBy ? rule.groupedBy.period : null,
    rule.folderName.replace(/\{([^}|:]+)[^}]*\}/g, (_, field: string) => (field === "key" ? "number" : field)),
  ]
    .filter(Boolean)
    .join(" / ");
}
