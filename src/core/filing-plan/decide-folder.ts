import { type ConditionedRecord, fitsCondition, recordValue } from "../records/condition.ts";
import type { FolderRule } from "./folder-rule.ts";
import { legalName, type NamingLimits } from "./legal-name.ts";
import { knownPattern, renderPattern } from "./name-pattern.ts";

/** A record as far as its folder depends on it. */
export type FolderRecord = ConditionedRecord;

/** A rule as it holds for one record: its variant taken in. */
export type EffectiveRule = Pick<FolderRule, "connection" | "inside" | "rootFolder" | "groupedBy" | "folderName" | "tellApart"> & {
  /** Which variant decided, from 0; null when none fits. */
  readonly variant: number | null;
};

/** The rule for one record: the first variant whose conditions it fits, over the rule itself. */
export function ruleFor(record: FolderRecord, rule: FolderRule): EffectiveRule {
  const at = rule.variants.findIndex((v) => v.when.every((c) => fitsCondition(record, c)));
  let known = effective.get(rule);
  if (!known) effective.set(rule, (known = [withoutVariant(rule), ...rule.variants.map((_, n) => withVariant(rule, n))]));
  return known[at + 1] ?? withoutVariant(rule);
}

/** Rules with each of their variants taken in, made once: whole filing plans are worked out record by record. */
const effective = new WeakMap<FolderRule, readonly EffectiveRule[]>();

const withoutVariant = (rule: FolderRule): EffectiveRule => ({ ...rule, variant: null });

function withVariant(rule: FolderRule, at: number): EffectiveRule {
  const variant = rule.variants[at];
  if (!variant) return withoutVariant(rule);
  return {
    connection: variant.connection ?? rule.connection,
    inside: variant.inside === false ? null : rule.inside,
    rootFolder: variant.rootFolder ?? rule.rootFolder,
    groupedBy: variant.groupedBy === undefined ? rule.groupedBy : variant.groupedBy,
    folderName: variant.folderName ?? rule.folderName,
    tellApart: rule.tellApart,
    variant: at,
  };
}

/** Where a record's folder would go before it is known whether another record has it already. */
export interface FolderProposal {
  readonly connection: string;
  /** Steps from the repository's root, all legal names; the last is the record's own folder. */
  readonly segments: readonly string[];
  /** The same with the tell-apart field behind the name; null when the rule has none or the record lacks it. */
  readonly toldApart: readonly string[] | null;
  /** True when the record has nothing above it though the rule puts it inside one. */
  readonly unassigned: boolean;
}

/**
 * Decides where a record's folder goes. `above` is the folder of the record above, null when there is none or it has no
 * folder. Pure: what is taken is settled by the caller (promise 5). Rule: docs/rules.md#folders
 */
export function decideFolder(
  record: FolderRecord,
  folderRule: FolderRule,
  parent: readonly string[] | null,
  limits: NamingLimits,
): FolderProposal {
  const rule = ruleFor(record, folderRule);
  const legal = (text: string): string => legalName(text, limits);
  const unassigned = rule.inside !== null && parent === null;
  const steps = (text: string): readonly string[] => fixedSteps(text, limits);
  const base =
    rule.inside !== null && parent === null
      ? steps(rule.inside.otherwise)
      : [...(rule.inside ? (parent ?? []) : []), ...steps(rule.rootFolder), ...period(record, rule).map(legal)];
  const parts = knownPattern(rule.folderName);
  const name = parts ? renderPattern(parts, (field) => recordValue(record, field)) : "";
  const own = name === "" ? record.key : name;
  const apart = rule.tellApart === null ? null : recordValue(record, rule.tellApart);
  return {
    connection: rule.connection,
    segments: [...base, legal(own)],
    toldApart: apart === null || apart === "" ? null : [...base, legal(`${own} ${apart}`)],
    unassigned,
  };
}

const fixed = new WeakMap<NamingLimits, Map<string, readonly string[]>>();
/** Paths kept as legal steps; rules have a handful, previews of a rule being typed some hundreds. */
const FIXED_MAX = 500;

/** The legal steps of a path that a rule gives as it is; made once for each. */
function fixedSteps(text: string, limits: NamingLimits): readonly string[] {
  let known = fixed.get(limits);
  if (!known || known.size > FIXED_MAX) fixed.set(limits, (known = new Map<string, readonly string[]>()));
  let steps = known.get(text);
  if (!steps) {
    steps = text
      .split("/")
      .map((s) => s.trim())
      .filter((s) => s !== "")
      .map((s) => legalName(s, limits));
    known.set(text, steps);
  }
  return steps;
}

function period(record: FolderRecord, rule: EffectiveRule): readonly string[] {
  if (!rule.groupedBy) return [];
  const day = recordValue(record, rule.groupedBy.field) ?? record.date;
  if (day === null || !/^\d{4}-\d{2}/.test(day)) return ["undated"];
  return [rule.groupedBy.period === "year" ? day.slice(0, 4) : day.slice(0, 7)];
}
