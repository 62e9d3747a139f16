"use client";
import { Button, Form } from "react-bootstrap";
import { ArrowDown, ArrowLeft, ArrowRight, ArrowUp, Plus, Trash } from "react-bootstrap-icons";
import { type Section, type SectionTree, type Tint, tints } from "#core/sections/section-tree.ts";
import { TypeChoice } from "../checklists/type-choice.tsx";
import { Icon } from "../kit/icon.tsx";
import { freeKey, moved } from "../kit/lists.ts";
import { useMe } from "../people/me-context.tsx";

const icons = [
  "folder2",
  "cart",
  "box-seam",
  "receipt",
  "camera",
  "shield-exclamation",
  "patch-check",
  "person-badge",
  "chat-square-quote",
  "bank",
  "tools",
  "journal-text",
] as const;
const tintWords: Readonly<Record<Tint, string>> = { none: "no colour", ink: "grey", moss: "green", plum: "purple", rust: "red" };

/** A tree of sections: names, what goes in them, how they grow; moved, indented and taken out by keys and buttons. */
export function TreeEditor({
  tree,
  errors,
  onChange,
}: {
  tree: SectionTree;
  errors: readonly { readonly path: string; readonly message: string }[];
  onChange: (tree: SectionTree) => void;
}) {
  const add = (): void => onChange([...tree, emptySection(freeKey("section", keysOf(tree)))]);
  return (
    <div>
      <Level tree={tree} depth={0} errors={errors} onChange={onChange} onIndent={(at) => onChange(indented(tree, at))} />
      <Button variant="plain" size="sm" className="mt-2" onClick={add}>
        <Plus /> Add a section
      </Button>
    </div>
  );
}

function Level({
  tree,
  depth,
  errors,
  onChange,
  onIndent,
  onOutdent,
}: {
  tree: SectionTree;
  depth: number;
  errors: readonly { readonly path: string; readonly message: string }[];
  onChange: (tree: SectionTree) => void;
  onIndent: (at: number) => void;
  onOutdent?: ((at: number) => void) | undefined;
}) {
  const { documentType } = useMe();
  return (
    <ol className="list-unstyled mb-0" style={{ marginLeft: depth === 0 ? 0 : 22 }}>
      {tree.map((s, i) => {
        const set = (part: Partial<Section>): void => onChange(tree.map((x, n) => (n === i ? { ...x, ...part } : x)));
        const named = s.label || "this section";
        const wrong = errors.filter((e) => e.path === `sections.${s.key}`);
        const properties = s.documentTypes
          .flatMap((k) => documentType(k)?.properties ?? [])
          .filter((p, n, list) => list.findIndex((x) => x.key === p.key) === n);
        return (
          <li key={s.key} className="rule-item">
            <div className="d-flex flex-wrap gap-2 align-items-center">
              <Icon name={s.icon} size={17} />
              <Form.Control
                size="sm"
                style={{ width: 180 }}
                aria-label={`Name of ${named}`}
                maxLength={40}
                isInvalid={s.label.trim() === "" || s.label.includes("/")}
                value={s.label}
                onChange={(e) => set({ label: e.target.value })}
              />
              <TypeChoice value={s.documentTypes} label={`Document types for ${named}`} onChange={(v) => set({ documentTypes: v })} />
            </div>
            <div className="d-flex flex-wrap gap-2 align-items-center mt-1 ps-4">
              <Form.Select
                size="sm"
                style={{ width: 170 }}
                aria-label={`When ${named} is shown`}
                value={s.show}
                onChange={(e) => set({ show: e.target.value === "always" ? "always" : "filled" })}
              >
                <option value="always">always shown</option>
                <option value="filled">only when filled</option>
              </Form.Select>
              <Form.Select
                size="sm"
                style={{ width: 220 }}
                aria-label={`How ${named} grows`}
                value={s.growsBy === null ? "" : `${s.growsBy.by}:${s.growsBy.of}`}
                disabled={s.sections.length > 0}
                onChange={(e) => {
                  const [by, of] = e.target.value.split(":");
                  set({ growsBy: by === "year" || by === "month" || by === "value" ? { by, of: of ?? "documentDate" } : null });
                }}
              >
                <option value="">no sub-sections</option>
                <option value="year:documentDate">a sub-section per year</option>
                <option value="month:documentDate">a sub-section per month</option>
                {properties
                  .filter((p) => p.key !== "documentDate")
                  .map((p) => (
                    <option key={p.key} value={`${p.kind === "date" ? "year" : "value"}:${p.key}`}>
                      {p.kind === "date" ? `by year of “${p.label}”` : `by “${p.label}”`}
                    </option>
                  ))}
              </Form.Select>
              <Form.Select
                size="sm"
                style={{ width: 150 }}
                aria-label={`Icon of ${named}`}
                value={s.icon}
                onChange={(e) => set({ icon: e.target.value })}
              >
                {icons.map((name) => (
                  <option key={name} value={name}>
                    {name.replaceAll("-", " ")}
                  </option>
                ))}
              </Form.Select>
              <Form.Select
                size="sm"
                style={{ width: 110 }}
                aria-label={`Colour of ${named}`}
                value={s.tint}
                onChange={(e) => set({ tint: tints.find((t) => t === e.target.value) ?? "none" })}
              >
                {tints.map((t) => (
                  <option key={t} value={t}>
                    {tintWords[t]}
                  </option>
                ))}
              </Form.Select>
              <span className="ms-auto d-flex">
                <Button
                  size="sm"
                  variant="quiet"
                  aria-label={`Move ${named} up`}
                  disabled={i === 0}
                  onClick={() => onChange(moved(tree, i, -1))}
                >
                  <ArrowUp />
                </Button>
                <Button
                  size="sm"
                  variant="quiet"
                  aria-label={`Move ${named} down`}
                  disabled={i === tree.length - 1}
                  onClick={() => onChange(moved(tree, i, 1))}
                >
                  <ArrowDown />
                </Button>
                <Button
                  size="sm"
                  variant="quiet"
                  aria-label={`Move ${named} out one level`}
                  disabled={!onOutdent}
                  onClick={() => onOutdent?.(i)}
                >
                  <ArrowLeft />
                </Button>
                <Button
                  size="sm"
                  variant="quiet"
                  aria-label={`Move ${named} into the section before it`}
                  disabled={i === 0 || depth >= 3}
                  onClick={() => onIndent(i)}
                >
                  <ArrowRight />
                </Button>
                <Button size="sm" variant="quiet" aria-label={`Remove ${named}`} onClick={() => onChange(tree.filter((_, n) => n !== i))}>
                  <Trash />
                </Button>
              </span>
            </div>
            {wrong.map((e) => (
              <div key={e.message} className="problem ps-4">
                {e.message}
              </div>
            ))}
            {s.sections.length > 0 ? (
              <Level
                tree={s.sections}
                depth={depth + 1}
                errors={errors}
                onChange={(sections) => set({ sections })}
                onIndent={(at) => set({ sections: indented(s.sections, at) })}
                onOutdent={(at) => {
                  const out = s.sections[at];
                  if (out)
                    onChange(tree.flatMap((x, n) => (n === i ? [{ ...x, sections: x.sections.filter((_, m) => m !== at) }, out] : [x])));
                }}
              />
            ) : null}
          </li>
        );
      })}
    </ol>
  );
}

/** A section with nothing in it yet. */
const emptySection = (key: string): Section => ({
  key,
  label: "",
  icon: "folder2",
  tint: "none",
  show: "always",
  documentTypes: [],
  growsBy: null,
  sections: [],
});

const keysOf = (tree: SectionTree): readonly string[] => tree.flatMap((s) => [s.key, ...keysOf(s.sections)]);

/** A section put at the end of the one before it. */
function indented(tree: SectionTree, at: number): SectionTree {
  const [into, what] = [tree[at - 1], tree[at]];
  if (!into || !what) return tree;
  return tree.flatMap((s, n) => (n === at ? [] : n === at - 1 ? [{ ...into, growsBy: null, sections: [...into.sections, what] }] : [s]));
}
