import { fieldText } from "../records/condition.ts";
import type { FieldValues } from "../records/record-type.ts";
import { flatten, type Growth, type PlacedSection, type SectionTree, type Tint } from "./section-tree.ts";

/** A document as far as its section depends on it. */
export interface SectionPaper {
  readonly documentType: string;
  readonly documentDate: string | null;
  readonly properties: FieldValues;
}
/** Longest part that a section grows by; a property can hold whole sentences. */
const GROWN_MAX = 40;

/** The section that the rules put a document in, as a path; null when no section takes its type. Rule: docs/rules.md#sections */
export function decideSection(tree: SectionTree, paper: SectionPaper): string | null {
  const found = flatten(tree).find((p) => p.section.documentTypes.includes(paper.documentType));
  if (!found) return null;
  const grown = found.section.growsBy === null ? null : grownPart(found.section.growsBy, paper);
  return grown === null ? found.path : `${found.path}/${grown}`;
}

/** What a growing section calls the part that a document belongs to; null when the document does not have it: then it stands in the section itself. */
export function grownPart(growth: Growth, paper: SectionPaper): string | null {
  const value = growth.of === "documentDate" ? paper.documentDate : fieldText(paper.properties, growth.of);
  if (value === null || value.trim() === "") return null;
  if (growth.by === "value") return value.trim().replaceAll("/", "-").slice(0, GROWN_MAX);
  return /^\d{4}-\d{2}/.test(value) ? value.slice(0, growth.by === "year" ? 4 : 7) : null;
}

/** A section as it is shown: with what stands right in it. */
export interface ShownSection<T> {
  readonly path: string;
  readonly label: string;
  readonly icon: string;
  readonly tint: Tint;
  readonly depth: number;
  readonly papers: readonly T[];
  /** Documents in it and in all sections within it. */
  readonly count: number;
}

/**
 * Arranges documents under the sections of a tree: each once, in the order given; sections that are shown only when filled, and are not, left out. A document
 * whose section is not (or no more) in the tree, or that has none, is not placed. Every document is in exactly one place (property test).
 */
export function arrange<T extends { readonly section: string | null }>(
  tree: SectionTree,
  papers: readonly T[],
): { readonly sections: readonly ShownSection<T>[]; readonly notPlaced: readonly T[] } {
  const all = flatten(tree);
  const fixed = new Map(all.map((p) => [p.path, p]));
  const grown = new Map<string, string[]>();
  const standing = new Map<string, T[]>();
  const notPlaced: T[] = [];
  for (const paper of papers) {
    const at = paper.section === null ? null : whereIs(fixed, paper.section);
    if (at === null) {
      notPlaced.push(paper);
      continue;
    }
    const path = paper.section ?? "";
    const list = standing.get(path);
    if (list) list.push(paper);
    else standing.set(path, [paper]);
    if (path !== at.path) {
      const parts = grown.get(at.path) ?? [];
      if (!parts.includes(path)) parts.push(path);
      grown.set(at.path, parts);
    }
  }
  const within = (path: string): number =>
    [...standing].reduce((sum, [p, list]) => (p === path || p.startsWith(`${path}/`) ? sum + list.length : sum), 0);
  const sections = all.flatMap((p): readonly ShownSection<T>[] => {
    const count = within(p.path);
    if (count === 0 && p.section.show === "filled" && !shownWithin(p)) return [];
    const about = { icon: p.section.icon, tint: p.section.tint };
    // What grows grows at its beginning: the newest year is what is looked for.
    const parts = [...(grown.get(p.path) ?? [])].sort((a, b) => (a < b ? 1 : -1));
    return [
      { ...about, path: p.path, label: p.section.label, depth: p.depth, papers: standing.get(p.path) ?? [], count },
      ...parts.map((path) => ({
        ...about,
        path,
        label: path.slice(p.path.length + 1),
        depth: p.depth + 1,
        papers: standing.get(path) ?? [],
        count: standing.get(path)?.length ?? 0,
      })),
    ];
  });
  return { sections, notPlaced };
}

/** A section that is always shown within one that is not is shown with it. */
const shownWithin = (p: PlacedSection): boolean => flatten(p.section.sections).some((s) => s.section.show === "always");

/** The section of the tree that a path stands for or grew out of; null when it is not there. */
function whereIs(fixed: ReadonlyMap<string, PlacedSection>, path: string): PlacedSection | null {
  const exact = fixed.get(path);
  if (exact) return exact;
  const cut = path.lastIndexOf("/");
  const parent = cut === -1 ? undefined : fixed.get(path.slice(0, cut));
  return parent?.section.growsBy ? parent : null;
}

/** Whether a path is one that documents can be put in: a section of the tree, or a part that one of them may grow. */
export function isInTree(tree: SectionTree, path: string): boolean {
  return whereIs(new Map(flatten(tree).map((p) => [p.path, p])), path) !== null;
}
