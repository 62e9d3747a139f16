import { z } from "zod";
import { keySchema } from "../shared/key.ts";
import type { FieldError } from "../shared/result.ts";

/** Sections of one tree, all levels together; and levels of it. */
export const SECTIONS_MAX = 60;
const DEPTH_MAX = 4;
/** Colours that a section can be tinted with; names of roles, not values. */
export const tints = ["none", "ink", "moss", "plum", "rust"] as const;
export type Tint = (typeof tints)[number];

/** How a section grows by itself: a part for each year or month of a day, or for each value of a property. */
export const growthSchema = z.object({
  /** The paper's date, or a property of it. */
  of: z.union([z.literal("documentDate"), keySchema]),
  by: z.enum(["year", "month", "value"]),
});
export type Growth = z.infer<typeof growthSchema>;

const labelSchema = z
  .string()
  .trim()
  .min(1)
  .max(40)
  .refine((label) => !label.includes("/"), "cannot contain a slash");

/** A divider in a record's documents. Sections nest; a document stands in exactly one of them. */
export interface Section {
  /** Names it for good, also when its label changes. */
  readonly key: string;
  readonly label: string;
  readonly icon: string;
  readonly tint: Tint;
  /** Shown always, or only when there is something in it. */
  readonly show: "always" | "filled";
  /** Documents of these types go here by themselves. */
  readonly documentTypes: readonly string[];
  readonly growsBy: Growth | null;
  readonly sections: readonly Section[];
}
export type SectionInput = Pick<Section, "key" | "label"> &
  Partial<Omit<Section, "key" | "label" | "sections">> & { readonly sections?: readonly SectionInput[] };

export const sectionSchema: z.ZodType<Section, SectionInput> = z.lazy(() =>
  z.object({
    key: keySchema,
    label: labelSchema,
    icon: z.string().max(40).default("folder2"),
    tint: z.enum(tints).default("none"),
    show: z.enum(["always", "filled"]).default("filled"),
    documentTypes: z.array(keySchema).max(40).default([]),
    growsBy: growthSchema.nullable().default(null),
    sections: z.array(sectionSchema).max(SECTIONS_MAX).default([]),
  }),
);
export const sectionTreeSchema = z.array(sectionSchema).max(SECTIONS_MAX);
export type SectionTree = readonly Section[];

/** A section with the labels that lead to it, joined by slashes: this is what a clip keeps. */
export interface PlacedSection {
  readonly section: Section;
  readonly path: string;
  readonly depth: number;
}

/** All sections of a tree in the order they are shown, each before those in it. */
export function flatten(tree: SectionTree, parent = "", depth = 0): readonly PlacedSection[] {
  return tree.flatMap((section) => {
    const path = parent === "" ? section.label : `${parent}/${section.label}`;
    return [{ section, path, depth }, ...flatten(section.sections, path, depth + 1)];
  });
}

/** Mistakes in a tree that its shape does not show. Empty when it can be used. */
export function checkSections(tree: SectionTree, documentTypes: readonly string[]): readonly FieldError[] {
  const errors: FieldError[] = [];
  const all = flatten(tree);
  if (all.length > SECTIONS_MAX) errors.push({ path: "sections", message: `at most ${SECTIONS_MAX} sections` });
  const [keys, paths, types] = [new Set<string>(), new Set<string>(), new Map<string, string>()];
  for (const { section, path, depth } of all) {
    const at = `sections.${section.key}`;
    if (keys.has(section.key)) errors.push({ path: at, message: `there are two sections "${section.key}"` });
    keys.add(section.key);
    if (paths.has(path.toLowerCase())) errors.push({ path: at, message: `there is another section "${section.label}" beside it` });
    paths.add(path.toLowerCase());
    if (depth >= DEPTH_MAX) errors.push({ path: at, message: `at most ${DEPTH_MAX} levels` });
    for (const type of section.documentTypes) {
      if (!documentTypes.includes(type)) errors.push({ path: at, message: `there is no document type "${type}"` });
      const other = types.get(type);
      if (other !== undefined) errors.push({ path: at, message: `"${type}" goes to "${other}" already` });
      types.set(type, path);
    }
    if (section.growsBy && section.sections.length > 0) errors.push({ path: at, message: "a section that grows cannot have others in it" });
    if (section.growsBy && section.growsBy.by !== "value" && section.growsBy.of !== "documentDate" && section.growsBy.of.length === 0)
      errors.push({ path: at, message: "say which day it grows by" });
  }
  return errors;
}

/** Sections that are called otherwise now, by their key: from which path to which. Longest first, so that what is in them follows. */
export function renamedSections(before: SectionTree, after: SectionTree): readonly { readonly from: string; readonly to: string }[] {
  const now = new Map(flatten(after).map((p) => [p.section.key, p.path]));
  return flatten(before)
    .flatMap((p) => {
      const to = now.get(p.section.key);
      return to === undefined || to === p.path ? [] : [{ from: p.path, to }];
    })
    .sort((a, b) => b.from.length - a.from.length);
}
