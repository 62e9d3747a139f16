import { z } from "zod";
import { type FolderRule, folderRuleSchema } from "./folder-rule.ts";

/** The whole filing plan as one open file (YAML or JSON). The schema is published; see docs/filing-plan.md. */
export const planFileSchema = z.object({
  format: z.literal("amber-clip/filing-plan").default("amber-clip/filing-plan"),
  version: z.literal(1).default(1),
  /** Folder rules by record type. Record types that are not named are left as they are. */
  rules: z.record(z.string().regex(/^[a-z][A-Za-z0-9]{0,39}$/), folderRuleSchema),
});
export type PlanFile = z.infer<typeof planFileSchema>;

/** How one record type's rule in a file differs from the one in force. */
export interface RuleDifference {
  readonly recordType: string;
  readonly kind: "same" | "changed" | "added";
  /** What differs, from and to, as text. */
  readonly changes: readonly { readonly part: string; readonly from: string; readonly to: string }[];
}

/** Compares a file's rules with those in force, part by part. Types that the file does not name are not in the answer. */
export function comparePlans(inForce: Readonly<Record<string, FolderRule>>, file: PlanFile): readonly RuleDifference[] {
  return Object.entries(file.rules).map(([recordType, rule]) => {
    const was = Object.hasOwn(inForce, recordType) ? inForce[recordType] : undefined;
    if (!was) return { recordType, kind: "added" as const, changes: [] };
    const changes = (Object.keys(rule) as (keyof FolderRule)[]).flatMap((part) => {
      const [from, to] = [textOf(was[part]), textOf(rule[part])];
      return from === to ? [] : [{ part, from, to }];
    });
    return { recordType, kind: changes.length === 0 ? ("same" as const) : ("changed" as const), changes };
  });
}

function textOf(value: unknown): string {
  if (value === null || value === undefined) return "";
  return typeof value === "string" ? value : JSON.stringify(sorted(value));
}

/** Keys in one order, so that the same always gives the same text. */
function sorted(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(sorted);
  if (typeof value !== "object" || value === null) return value;
  return Object.fromEntries(
    Object.entries(value)
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .map(([k, v]) => [k, sorted(v)]),
  );
}
