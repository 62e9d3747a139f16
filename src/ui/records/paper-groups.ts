import type { DocumentType } from "#core/documents/document-type.ts";
import { arrange } from "#core/sections/place-papers.ts";
import type { SectionTree, Tint } from "#core/sections/section-tree.ts";
import type { RecordDocument } from "#server/records/load-record-page.ts";

/** A record's documents under one head. */
export interface PaperGroup {
  readonly key: string;
  readonly label: string;
  readonly icon: string | null;
  readonly tint: Tint;
  readonly depth: number;
  readonly papers: readonly RecordDocument[];
  /** Those right in it and in what is within it. */
  readonly count: number;
  /** The section that documents can be moved to by dropping them here; null for heads that are no section. */
  readonly path: string | null;
}

/** Documents under the record's sections, those that fit none after them; without sections under their document types; those of other records last. Each once. */
export function paperGroups(
  tree: SectionTree,
  all: readonly RecordDocument[],
  documentTypes: readonly DocumentType[],
): { readonly groups: readonly PaperGroup[]; readonly notPlaced: number } {
  const reached = all.filter((d) => d.isReached);
  const { groups, notPlaced } = ownGroups(
    tree,
    all.filter((d) => !d.isReached),
    documentTypes,
  );
  if (reached.length === 0) return { groups, notPlaced };
  const shownHere: PaperGroup = {
    key: "reached",
    label: "Also shown here, from other records",
    icon: null,
    tint: "none",
    depth: 0,
    papers: reached,
    count: reached.length,
    path: null,
  };
  return { groups: [...groups, shownHere], notPlaced };
}

function ownGroups(
  tree: SectionTree,
  papers: readonly RecordDocument[],
  documentTypes: readonly DocumentType[],
): { readonly groups: readonly PaperGroup[]; readonly notPlaced: number } {
  if (tree.length === 0)
    return {
      groups: documentTypes.flatMap((t): readonly PaperGroup[] => {
        const list = papers.filter((d) => d.documentType === t.key);
        return list.length === 0
          ? []
          : [
              {
                key: t.key,
                label: list.length === 1 ? t.label : t.plural,
                icon: null,
                tint: "none",
                depth: 0,
                papers: list,
                count: list.length,
                path: null,
              },
            ];
      }),
      notPlaced: 0,
    };
  const { sections, notPlaced } = arrange(tree, papers);
  const groups: PaperGroup[] = sections.map((s) => ({ ...s, key: `section ${s.path}`, path: s.path }));
  if (notPlaced.length > 0)
    groups.push({
      key: "notPlaced",
      label: "No section",
      icon: null,
      tint: "none",
      depth: 0,
      papers: notPlaced,
      count: notPlaced.length,
      path: null,
    });
  // Documents of other records have no place here that could be changed.
  return { groups, notPlaced: notPlaced.filter((d) => d.from === null).length };
}
