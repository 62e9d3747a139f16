"use client";
import { useState } from "react";
import { Button, Modal } from "react-bootstrap";
import type { SectionTree } from "#core/sections/section-tree.ts";
import type { SectionAct } from "#server/sections/change-sections.ts";
import { Dialog } from "../kit/dialog.tsx";
import { TreeEditor } from "./tree-editor.tsx";

/** The sections of one record, as its own. */
export function OwnSectionsDialog({
  tree,
  isOwn,
  hasTemplate,
  onAct,
  onHide,
}: {
  tree: SectionTree;
  isOwn: boolean;
  hasTemplate: boolean;
  onAct: (what: SectionAct) => void;
  onHide: () => void;
}) {
  const [draft, setDraft] = useState(tree);
  const isWhole = everyNamed(draft);
  return (
    <Dialog show onHide={onHide} size="xl" scrollable>
      <Modal.Header closeButton>
        <Modal.Title as="h2">Sections of this record</Modal.Title>
      </Modal.Header>
      <Modal.Body>
        <p className="text-2">Changes apply to this record only. Documents stay in renamed sections.</p>
        <TreeEditor tree={draft} errors={[]} onChange={setDraft} />
      </Modal.Body>
      <Modal.Footer>
        {isOwn ? (
          <Button
            variant="plain"
            className="me-auto"
            onClick={() => {
              onAct({ act: "reset" });
              onHide();
            }}
          >
            {hasTemplate ? "Use the record type's sections" : "No sections"}
          </Button>
        ) : null}
        <Button variant="plain" onClick={onHide}>
          Cancel
        </Button>
        <Button
          disabled={!isWhole}
          onClick={() => {
            onAct({ act: "change", sections: [...draft] });
            onHide();
          }}
        >
          Save sections
        </Button>
      </Modal.Footer>
    </Dialog>
  );
}

/** Whether every section has a name that can be used. */
export const everyNamed = (tree: SectionTree): boolean =>
  tree.every((s) => s.label.trim() !== "" && !s.label.includes("/") && everyNamed(s.sections));
