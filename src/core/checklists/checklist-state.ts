import { fitsCondition, fitsValue, fieldText, recordValue, type ConditionedRecord } from "../records/condition.ts";
import { isCalendarDay } from "../records/parse-field-values.ts";
import type { FieldValues } from "../records/record-type.ts";
import { shiftDay } from "../shared/parse-day.ts";
import type { ItemRule, When } from "./checklist-rules.ts";

export const itemStates = ["outstanding", "received", "complete", "expired", "waived"] as const;
export type ItemState = (typeof itemStates)[number];

/** A document clipped to a record, or along its chain, as far as a checklist asks. */
export interface CheckedPaper {
  readonly id: number;
  readonly documentType: string;
  readonly documentDate: string | null;
  readonly properties: FieldValues;
  /** Clipped to the record itself, not only along its chain. */
  readonly isOwn: boolean;
}

/** What people said about an item of one record. */
export interface ItemDecision {
  readonly item: string;
  /** accepted: the document will do. counts, countsNot: tied to the item by hand, or taken from it. waived: it need not be there. */
  readonly kind: "accepted" | "counts" | "countsNot" | "waived";
  /** The document that is spoken of; null for a waiver. */
  readonly documentId: number | null;
}

/** An item added by hand on one record. */
export interface OwnItem {
  /** Its place among the record's own items, from 0. */
  readonly place: number;
  readonly label: string;
  readonly documentTypes: readonly string[];
  readonly dueOn: string | null;
}

/** Everything a checklist is worked out from. */
export interface ChecklistFacts {
  readonly record: ConditionedRecord;
  readonly papers: readonly CheckedPaper[];
  /** Types of the other records of its chain. */
  readonly chainTypes: readonly string[];
  readonly decisions: readonly ItemDecision[];
  readonly ownItems: readonly OwnItem[];
}

/** A document that counts for an item. */
export interface CountedPaper {
  readonly id: number;
  /** Last day it holds; null when it holds for ever. */
  readonly endsOn: string | null;
  readonly isAccepted: boolean;
}

/** How an item of one record stands on a day. */
export interface StandingItem {
  readonly key: string;
  readonly bit: number;
  readonly label: string;
  readonly documentTypes: readonly string[];
  readonly state: ItemState;
  /** Documents that hold today and will do, and how many there ought to be. */
  readonly have: number;
  readonly want: number;
  readonly dueOn: string | null;
  /** Settled: the last day it stays so by itself. Lapsed: the last day it was. Null: never. */
  readonly expiresOn: string | null;
  readonly papers: readonly CountedPaper[];
  readonly settledBy: ItemRule["settledBy"];
  readonly acceptedBy: readonly string[];
  readonly missing: string;
  readonly isOwn: boolean;
}

/** First bit of items added by hand. */
export const OWN_BITS_FROM = 40;
/** Key of an item that was added by hand. */
export const ownItemKey = (place: number): string => `own${place}`;

/**
 * How every item that applies to a record stands on a day, in the order of the rules, those added by hand last. Pure: the same facts on the same day
 * give the same states. Rule: docs/rules.md#checklist
 */
export function standingItems(rules: readonly ItemRule[], facts: ChecklistFacts, today: string): readonly StandingItem[] {
  const items: StandingItem[] = [];
  for (const rule of rules) if (rule.when.every((w) => holds(w, facts))) items.push(standingItem(rule, facts, today, false));
  for (const own of facts.ownItems) items.push(standingItem(asRule(own), facts, today, true));
  return items;
}

const asRule = (own: OwnItem): ItemRule & { readonly dueOn: string | null } => ({
  key: ownItemKey(own.place),
  bit: OWN_BITS_FROM + own.place,
  label: own.label,
  documentTypes: [...own.documentTypes],
  count: 1,
  papersThat: [],
  when: [],
  due: null,
  dueOn: own.dueOn,
  validity: null,
  settledBy: "person",
  acceptedBy: [],
  along: "own",
  missing: "",
});

function holds(when: When, facts: ChecklistFacts): boolean {
  switch (when.on) {
    case "field":
      return fitsCondition(facts.record, when);
    case "paper":
      return facts.papers.some((p) => p.isOwn && p.documentType === when.documentType) === when.there;
    case "chain":
      return facts.chainTypes.includes(when.recordType) === when.there;
  }
}

function standingItem(
  rule: ItemRule & { readonly dueOn?: string | null },
  facts: ChecklistFacts,
  today: string,
  isOwn: boolean,
): StandingItem {
  const said = facts.decisions.filter((d) => d.item === rule.key);
  const ids = (kind: ItemDecision["kind"]): ReadonlySet<number | null> =>
    new Set(said.filter((d) => d.kind === kind).map((d) => d.documentId));
  const [accepted, counts, countsNot] = [ids("accepted"), ids("counts"), ids("countsNot")];
  const papers: CountedPaper[] = facts.papers
    .filter((p) => counts.has(p.id) || (!countsNot.has(p.id) && countsByItself(rule, p)))
    .map((p) => ({ id: p.id, endsOn: endOf(rule, p), isAccepted: rule.settledBy === "clip" || accepted.has(p.id) }))
    // The one that holds longest first; equal ones the newest first.
    .sort((a, b) => compareEnds(b.endsOn, a.endsOn) || b.id - a.id);
  const holding = papers.filter((p) => p.endsOn === null || p.endsOn >= today);
  const good = papers.filter((p) => p.isAccepted);
  const have = holding.filter((p) => p.isAccepted).length;
  const dueOn = rule.dueOn ?? dueDay(rule, facts);
  const shared = {
    key: rule.key,
    bit: rule.bit,
    label: rule.label,
    documentTypes: rule.documentTypes,
    have,
    want: rule.count,
    dueOn,
    papers,
    settledBy: rule.settledBy,
    acceptedBy: rule.acceptedBy,
    missing: rule.missing,
    isOwn,
  };
  // With the longest first, what counts ends with the last one that is needed.
  const expiresOn = good[rule.count - 1]?.endsOn ?? null;
  if (said.some((d) => d.kind === "waived")) return { ...shared, state: "waived", expiresOn: null };
  if (have >= rule.count) return { ...shared, state: "complete", expiresOn };
  if (holding.length > have) return { ...shared, state: "received", expiresOn: null };
  if (good.length >= rule.count) return { ...shared, state: "expired", expiresOn };
  return { ...shared, state: "outstanding", expiresOn: null };
}

function countsByItself(rule: ItemRule, paper: CheckedPaper): boolean {
  return (
    rule.documentTypes.includes(paper.documentType) &&
    (paper.isOwn || rule.along === "chain") &&
    rule.papersThat.every((c) => fitsValue(fieldText(paper.properties, c.field), c))
  );
}

/** Last day a document holds; null for ever, also when the day is not known. */
function endOf(rule: ItemRule, paper: CheckedPaper): string | null {
  if (rule.validity === null) return null;
  if (rule.validity.kind === "property") {
    const day = fieldText(paper.properties, rule.validity.property);
    return day !== null && isCalendarDay(day) ? day : null;
  }
  return paper.documentDate === null ? null : addMonths(paper.documentDate, rule.validity.months);
}

/** The same day so many months later, or the last of that month when it has no such day. */
export function addMonths(day: string, months: number): string {
  const [year = 0, month = 1, date = 1] = day.split("-").map(Number);
  const first = year * 12 + month - 1 + months;
  const [toYear, toMonth] = [Math.floor(first / 12), (first % 12) + 1];
  for (let last = date; ; last--) {
    const made = `${String(toYear).padStart(4, "0")}-${String(toMonth).padStart(2, "0")}-${String(last).padStart(2, "0")}`;
    if (last <= 28 || isCalendarDay(made)) return made;
  }
}

function dueDay(rule: ItemRule, facts: ChecklistFacts): string | null {
  if (rule.due === null) return null;
  const day = recordValue(facts.record, rule.due.field);
  return day !== null && isCalendarDay(day) ? shiftDay(day, rule.due.days) : null;
}

/** For ever is later than any day. */
const compareEnds = (a: string | null, b: string | null): number => (a === b ? 0 : a === null ? 1 : b === null ? -1 : a < b ? -1 : 1);
