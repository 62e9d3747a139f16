"use client";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Button } from "react-bootstrap";
import { Plus } from "react-bootstrap-icons";
import type { ItemAct } from "#server/checklists/decide-item.ts";
import type { ChecklistItemAnswer } from "#server/checklists/load-items.ts";
import type { RecordAnswer } from "#server/records/load-record-page.ts";
import { apiSend, queryOf } from "../kit/api.ts";
import { useNotices } from "../kit/notices.tsx";
import { todayText } from "../kit/words.ts";
import { takeDrop } from "../kit/taken-drops.ts";
import { useKeys } from "../kit/use-keys.ts";
import { recordPath } from "../records/record-href.ts";
import { AddItem } from "./add-item.tsx";
import { ClipMark, itemStateWords } from "./clip-mark.tsx";
import { draggedPapers } from "../documents/dragged-papers.ts";
import { ItemPanel } from "./item-panel.tsx";
import { itemHint } from "./item-words.ts";
import { useFileOnItem } from "./file-on-item.ts";

/** What a record's documents ought to be, as clip marks one can act on: choose one to see its documents, or drop a document on it. */
export function ChecklistStrip({
  record,
  openPaper,
  onOpenPaper,
}: {
  record: RecordAnswer;
  /** The document that is on screen, which can be tied to an item. */
  openPaper: { readonly code: string; readonly title: string } | null;
  onOpenPaper: (code: string) => void;
}) {
  const notices = useNotices();
  const client = useQueryClient();
  const [chosen, setChosen] = useState<string | null>(null);
  const [adding, setAdding] = useState(false);
  const [over, setOver] = useState<string | null>(null);
  const fileOn = useFileOnItem(record);
  const items = record.checklist;
  const act = useMutation({
    mutationFn: ({ what }: { what: ItemAct; said: string; undo?: ItemAct }) =>
      apiSend<{ items: readonly ChecklistItemAnswer[] }>(
        "POST",
        `${recordPath(record)}/checklist${queryOf({ company: record.company })}`,
        what,
      ),
    onSuccess: ({ items: now }, { said, undo }) => {
      client.setQueriesData<RecordAnswer>({ queryKey: ["record"] }, (was) =>
        was && was.id === record.id ? { ...was, checklist: now } : was,
      );
      void client.invalidateQueries({ queryKey: ["missing"] });
      notices.done(said, undo ? { undo: () => act.mutate({ what: undo, said: "Undone" }) } : {});
    },
    onError: notices.wrong,
  });
  const step = (by: number): void => {
    const at = items.findIndex((i) => i.key === chosen);
    const next = items[at === -1 ? (by > 0 ? 0 : items.length - 1) : Math.max(0, Math.min(items.length - 1, at + by))];
    if (next) setChosen(next.key);
  };
  // Without an item that is open, Esc belongs to the page around.
  useKeys({ "]": () => step(1), "[": () => step(-1), ...(chosen === null ? {} : { Escape: () => setChosen(null) }) });
  if (items.length === 0 && !record.may.edit) return null;
  const done = items.filter((i) => i.state === "complete" || i.state === "waived").length;
  const today = todayText();
  const current = items.find((i) => i.key === chosen);
  return (
    <section className="checklist" aria-label="Checklist">
      <div className="d-flex flex-wrap align-items-center gap-2">
        <strong className="text-nowrap">{items.length === 0 ? "No checklist" : `Checklist ${done} of ${items.length}`}</strong>
        {items.map((item) => {
          const hint = itemHint(item, today);
          return (
            <button
              key={item.key}
              type="button"
              className={`item is-${item.state} ${hint.isUrgent ? "is-urgent" : ""} ${over === item.key ? "is-over" : ""}`}
              aria-expanded={item.key === chosen}
              title={`${item.label}: ${itemStateWords[item.state]}${item.state === "outstanding" && item.missing ? `. ${item.missing}` : ""}`}
              onClick={() => setChosen((now) => (now === item.key ? null : item.key))}
              onDragOver={(e) => {
                e.preventDefault();
                setOver(item.key);
              }}
              onDragLeave={() => setOver(null)}
              onDrop={(e) => {
                e.preventDefault();
                takeDrop(e);
                setOver(null);
                const codes = draggedPapers(e.dataTransfer);
                for (const document of codes)
                  act.mutate({
                    what: { act: "tie", item: item.key, document },
                    said: `Linked to ${item.label}`,
                    undo: { act: "untie", item: item.key, document },
                  });
                if (codes.length > 0) return;
                if (e.dataTransfer.files.length > 0) void fileOn([...e.dataTransfer.files], item);
              }}
            >
              <ClipMark state={item.state} />
              <span>{item.label}</span>
              <span className="visually-hidden">, {itemStateWords[item.state]}</span>
              {hint.words ? <span className="hint">{hint.words}</span> : null}
            </button>
          );
        })}
        {record.may.edit ? (
          <Button variant="quiet" size="sm" onClick={() => setAdding((a) => !a)} aria-expanded={adding} title="Add an item to this record">
            <Plus aria-hidden="true" /> Add item
          </Button>
        ) : null}
      </div>
      {adding ? (
        <AddItem
          onAdd={(label, documentTypes, dueOn) => {
            act.mutate({ what: { act: "add", label, documentTypes: [...documentTypes], dueOn }, said: `${label} is required` });
            setAdding(false);
          }}
          onCancel={() => setAdding(false)}
        />
      ) : null}
      {current ? (
        <ItemPanel
          record={record}
          item={current}
          openPaper={openPaper}
          isBusy={act.isPending}
          onAct={(what, said, undo) => act.mutate({ what, said, ...(undo ? { undo } : {}) })}
          onFiles={(files) => void fileOn(files, current)}
          onOpenPaper={onOpenPaper}
          onClose={() => setChosen(null)}
        />
      ) : null}
    </section>
  );
}
