"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { parseAsString, useQueryState } from "nuqs";
import { useEffect, useState } from "react";
import { Button, Form } from "react-bootstrap";
import { ArrowLeft, FolderSymlink } from "react-bootstrap-icons";
import type { SectionTree } from "#core/sections/section-tree.ts";
import type { TemplateAnswer } from "#server/sections/manage-templates.ts";
import { PlanTabs } from "../filing-plan/plan-tabs.tsx";
import { Where } from "../frame/top-slot.tsx";
import { ApiProblem, apiGet, apiSend, wordsOf } from "../kit/api.ts";
import { Columns } from "../kit/columns.tsx";
import { Icon } from "../kit/icon.tsx";
import { useNotices } from "../kit/notices.tsx";
import { Empty, Skeletons, Trouble } from "../kit/parts.tsx";
import { countText } from "../kit/words.ts";
import { useMe } from "../people/me-context.tsx";
import { everyNamed } from "./own-sections-dialog.tsx";
import { TreeEditor } from "./tree-editor.tsx";

interface Draft {
  readonly sections: SectionTree;
  readonly applies: "all" | "choice";
}

/** Sections by record type: what a record's papers stand under. */
export function TemplatesScreen() {
  const { me } = useMe();
  const notices = useNotices();
  const client = useQueryClient();
  const lists = useQuery({
    queryKey: ["sectionTemplates"],
    queryFn: ({ signal }) => apiGet<{ items: readonly TemplateAnswer[] }>("/sections", signal),
    refetchOnWindowFocus: false,
  });
  const [typeKey, setTypeKey] = useQueryState("type", parseAsString.withDefault("freightBooking"));
  const [drafts, setDrafts] = useState<Readonly<Record<string, Draft>>>({});
  const [step, setStep] = useState(0);
  const type = me.recordTypes.find((t) => t.key === typeKey);
  const inForce = lists.data?.items.find((l) => l.recordType === typeKey);
  const draft: Draft = drafts[typeKey] ?? { sections: inForce?.sections ?? [], applies: inForce?.applies ?? "all" };
  const isChanged =
    drafts[typeKey] !== undefined &&
    JSON.stringify(draft) !== JSON.stringify({ sections: inForce?.sections ?? [], applies: inForce?.applies ?? "all" });
  const save = useMutation({
    mutationFn: () => apiSend<{ version: number }>("PUT", `/sections/${typeKey}`, { ...draft, version: inForce?.version ?? 0 }),
    onSuccess: async () => {
      await client.invalidateQueries({ queryKey: ["sectionTemplates"] });
      forget();
      void client.invalidateQueries({ queryKey: ["record"] });
      notices.done(`Sections of ${type?.plural.toLowerCase() ?? ""} saved`, {
        more: "Papers whose section is gone stand in Not placed until they are placed.",
      });
    },
    onError: (error) => {
      if (!(error instanceof ApiProblem) || error.errors.length === 0) notices.wrong(error);
    },
  });
  const errors = save.error instanceof ApiProblem ? save.error.errors : [];
  const forget = (): void =>
    setDrafts((d) => {
      const { [typeKey]: _dropped, ...rest } = d;
      return rest;
    });
  const write = (next: Partial<Draft>): void => {
    save.reset();
    setDrafts((d) => ({ ...d, [typeKey]: { ...draft, ...next } }));
  };
  useEffect(() => {
    const warn = (e: BeforeUnloadEvent): void => {
      if (isChanged) e.preventDefault();
    };
    window.addEventListener("beforeunload", warn);
    return () => window.removeEventListener("beforeunload", warn);
  }, [isChanged]);
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
        <PlanTabs current="sections" />
      </Where>
      <Columns name="sections" grows={1} step={step} sides={{ 0: { start: 250, min: 200, max: 400 } }}>
        <nav className="scroll py-2" aria-label="Record types">
          {me.recordTypes.map((t) => {
            const n = (drafts[t.key]?.sections ?? lists.data.items.find((l) => l.recordType === t.key)?.sections ?? []).length;
            return (
              <button
                key={t.key}
                type="button"
                aria-current={t.key === typeKey ? "true" : undefined}
                className={`paper-row border-0 ${t.key === typeKey ? "is-chosen" : ""}`}
                style={{ gridTemplateColumns: "22px minmax(0, 1fr) auto" }}
                onClick={() => {
                  void setTypeKey(t.key);
                  save.reset();
                  setStep(1);
                }}
              >
                <Icon name={t.icon} size={17} />
                <span className="name">{t.plural}</span>
                {drafts[t.key] ? <span className="chip amber">changed</span> : <span className="text-2 mono">{n || ""}</span>}
              </button>
            );
          })}
        </nav>
        <section className="d-flex flex-column h-100" aria-label="Sections" style={{ background: "var(--paper-0)" }}>
          <div className="bar step-back">
            <Button variant="quiet" onClick={() => setStep(0)}>
              <ArrowLeft /> Record types
            </Button>
          </div>
          <div className="scroll px-4 py-3" tabIndex={0} role="region" aria-label="Tree of sections">
            <h2 className="mb-1" style={{ fontSize: "1.25rem" }}>
              {type?.plural}
            </h2>
            <p className="text-2">
              What their papers stand under.
              {inForce && inForce.ownRecords > 0
                ? ` ${countText(inForce.ownRecords, "record has", "records have")} sections of their own and keep them.`
                : ""}
            </p>
            {draft.sections.length === 0 ? (
              <Empty icon={<FolderSymlink size={32} />} title="No sections yet">
                Until then papers stand under their document types.
              </Empty>
            ) : (
              <Form.Check
                id="applies-all"
                className="mb-2"
                label={`All ${type?.plural.toLowerCase()} have these sections by themselves`}
                checked={draft.applies === "all"}
                onChange={(e) => write({ applies: e.target.checked ? "all" : "choice" })}
              />
            )}
            <TreeEditor tree={draft.sections} errors={errors} onChange={(sections) => write({ sections })} />
          </div>
          <div className="foot">
            <span className="text-2 small" style={{ flex: 1 }}>
              {isChanged ? "" : inForce && inForce.version > 0 ? `Version ${inForce.version}` : ""}
            </span>
            {isChanged ? (
              <Button variant="plain" onClick={forget}>
                Put back
              </Button>
            ) : null}
            <Button disabled={!isChanged || !everyNamed(draft.sections) || save.isPending} onClick={() => save.mutate()}>
              Save the sections
            </Button>
          </div>
        </section>
      </Columns>
    </>
  );
}
