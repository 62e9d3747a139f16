"use client";
import { Form } from "react-bootstrap";
import { flatten, type SectionTree } from "#core/sections/section-tree.ts";

/** Chooses a section: the tree as a list, for those who do not drag. */
export function MoveTo({ tree, label, onMove }: { tree: SectionTree; label: string; onMove: (path: string | null) => void }) {
  return (
    <Form.Select
      size="sm"
      style={{ width: 210 }}
      aria-label={label}
      value=""
      onChange={(e) => e.target.value !== "" && onMove(e.target.value === "none" ? null : e.target.value)}
    >
      <option value="">Move to section …</option>
      {flatten(tree).map((p) => (
        <option key={p.path} value={p.path}>
          {"\u2003".repeat(p.depth)}
          {p.section.label}
        </option>
      ))}
      <option value="none">No section</option>
    </Form.Select>
  );
}
