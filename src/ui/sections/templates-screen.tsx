"use client";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { parseAsString, useQueryState } from "nuqs";
import { useState } from "react";
import { Button, Form } from "react-bootstrap";
import { ArrowLeft, FolderSymlink, Plus, Trash } from "react-bootstrap-icons";
import type { ReadingOrder } from "#core/sections/reading-order.ts";
import type { SectionTree } from "#core/sections/section-tree.ts";
import type { TemplateAnswer } from "#server/sections/manage-templates.ts";
import { TypeChoice } from "../checklists/type-choice.tsx";
import { TypeNav } from "../filing-plan/type-nav.tsx";
import { PlanTabs } from "../filing-plan/plan-tabs.tsx";
import { Where } from "../frame/top-slot.tsx";
import { ApiProblem, apiGet, apiSend, wordsOf } from "../kit/api.ts";
import { Columns } from "../kit/columns.tsx";
import { freeKey } from "../kit/lists.ts";
import { useNotices } from "../kit/notices.tsx";
import { useWarnBeforeLeaving } from "../kit/use-warn-before-leaving.ts";
import { Empty, Skeletons, Trouble } from "../kit/parts.tsx";
import { countText } from "../kit/words.ts";
import { useMe } from "../people/me-context.tsx";
import { everyNamed } from "./own-sections-dialog.tsx";
import { TreeEditor } from "./tree-editor.tsx";

interface Draft {
  readonly sections: SectionTree;
  readonly orders: readonly ReadingOrder[];
  readonly applies: "all" | "choice";
}
const draftOf = (t: TemplateAnswer | undefined): Draft => ({
  sections: t?.sections ?? [],
  orders: t?.orders ?? [],
  applies: t?.applies ?? "all",
});

/** Sections by record type: what a record's documents stand under. */
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
  const draft: Draft = drafts[typeKey] ?? draftOf(inForce);
  const isChanged = drafts[typeKey] !== undefined && JSON.stringify(draft) !== JSON.stringify(draftOf(inForce));
  const save = useMutation({
    mutationFn: () => apiSend<{ version: number }>("PUT", `/sections/${typeKey}`, { ...draft, version: inForce?.version ?? 0 }),
    onSuccess: async () => {
      await client.invalidateQueries({ queryKey: ["sectionTemplates"] });
      forget();
      void client.invalidateQueries({ queryKey: ["record"] });
      notices.done(`Sections of ${type?.plural.toLowerCase() ?? ""} saved`, {
        more: "Documents of removed sections have no section until they are moved.",
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
  useWarnBeforeLeaving(isChanged);
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
        <TypeNav
          current={typeKey}
          isChanged={(t) => drafts[t] !== undefined}
          countOf={(t) => (lists.data.items.find((l) => l.recordType === t)?.sections ?? []).length}
          onChoose={(t) => {
            void setTypeKey(t);
            save.reset();
            setStep(1);
          }}
        />
        <section className="d-flex flex-column h-100" aria-label="Sections" style={{ background: "var(--paper-0)" }}>
          <div className="bar step-back">
            <Button variant="quiet" onClick={() => setStep(0)}>
              <ArrowLeft /> Record types
            </Button>
          </div>
          <div className="scroll px-4 py-3" tabIndex={0} role="region" aria-label="Section tree">
            <h2 className="mb-1" style={{ fontSize: "1.25rem" }}>
              {type?.plural}
            </h2>
            <p className="text-2">
              Dividers for their documents.
              {inForce && inForce.ownRecords > 0
                ? ` ${countText(inForce.ownRecords, "record has", "records have")} their own sections and keep them.`
                : ""}
            </p>
            {draft.sections.length === 0 ? (
              <Empty icon={<FolderSymlink size={32} />} title="No sections yet">
                Until then documents are grouped by document type.
              </Empty>
            ) : (
              <Form.Check
                id="applies-all"
                className="mb-2"
                label={`All ${type?.plural.toLowerCase()} have these sections by default`}
                checked={draft.applies === "all"}
                onChange={(e) => write({ applies: e.target.checked ? "all" : "choice" })}
              />
            )}
            <TreeEditor tree={draft.sections} errors={errors} onChange={(sections) => write({ sections })} />
            <h3 className="mt-4 mb-1" style={{ fontSize: "1rem" }}>
              Reading orders
            </h3>
            <p className="text-2">Orders for paging through a record. Without one, the section order applies.</p>
            {draft.orders.map((o, i) => {
              const set = (part: Partial<ReadingOrder>): void =>
                write({ orders: draft.orders.map((x, n) => (n === i ? { ...x, ...part } : x)) });
              return (
                <div key={o.key} className="rule-item d-flex flex-wrap gap-2 align-items-center">
                  <Form.Control
                    size="sm"
                    style={{ width: 180 }}
                    aria-label={`Name of reading order ${i + 1}`}
                    maxLength={40}
                    isInvalid={o.label.trim() === ""}
                    value={o.label}
                    onChange={(e) => set({ label: e.target.value })}
                  />
                  <TypeChoice
                    value={o.documentTypes}
                    between="then"
                    label={`Documents of ${o.label || "this order"}`}
                    wrong={o.documentTypes.length === 0}
                    onChange={(v) => set({ documentTypes: [...v] })}
                  />
                  <Form.Check
                    id={`rest-${o.key}`}
                    label="then all others"
                    checked={o.rest === "after"}
                    onChange={(e) => set({ rest: e.target.checked ? "after" : "leftOut" })}
                  />
                  <Button
                    size="sm"
                    variant="quiet"
                    className="ms-auto"
                    aria-label={`Remove ${o.label || "this order"}`}
                    onClick={() => write({ orders: draft.orders.filter((_, n) => n !== i) })}
                  >
                    <Trash />
                  </Button>
                </div>
              );
            })}
            <Button
              variant="plain"
              size="sm"
              className="mt-2"
              onClick={() =>
                write({
                  orders: [
                    ...draft.orders,
                    {
                      key: freeKey(
                        "order",
                        draft.orders.map((o) => o.key),
                      ),
                      label: "",
                      documentTypes: [],
                      rest: "after",
                    },
                  ],
                })
              }
            >
              <Plus /> Add a reading order
            </Button>
          </div>
          <div className="foot">
            <span className="text-2 small" style={{ flex: 1 }}>
              {isChanged ? "" : inForce && inForce.version > 0 ? `Version ${inForce.version}` : ""}
            </span>
            {isChanged ? (
              <Button variant="plain" onClick={forget}>
                Reset
              </Button>
            ) : null}
            <Button
              disabled={
                !isChanged ||
                !everyNamed(draft.sections) ||
                !draft.orders.every((o) => o.label.trim() !== "" && o.documentTypes.length > 0) ||
                save.isPending
              }
              onClick={() => save.mutate()}
            >
              Save sections
            </Button>
          </div>
        </section>
      </Columns>
    </>
  );
}
