import { z } from "zod";

/** Documents of one type in one queue that are filed without a person, and how well it has to go. */
export const automaticFilingSettingsSchema = z.object({
  /** Precision that the bound must not fall below. */
  asked: z.number().min(0.5).max(0.999).default(0.98),
  /** Share that is held back at random for a person. */
  heldBack: z.number().min(0.01).max(0.5).default(0.05),
});
export type AutomaticFilingSettings = z.infer<typeof automaticFilingSettingsSchema>;

/** Confirmed documents without which it cannot be switched on, whatever their bound. */
export const HISTORY_MIN = 30;
/** The latest checked documents that count: what held two years ago says little. */
export const COUNTED = 500;

/** How a document stood, once a person had decided on it. */
export interface CheckedPaper {
  /** Whether the program would have filed it by itself. */
  readonly wouldFile: boolean;
  /** Whether that would have been right; null where it would not have filed it. */
  readonly isRight: boolean | null;
}

/** What is to be expected of automatic filing, from what people decided. Shares are 0 to 1. */
export interface Expected {
  /** Documents that people decided on. */
  readonly checked: number;
  /** Of them, those it would have filed. */
  readonly wouldFile: number;
  readonly right: number;
  readonly share: number;
  readonly precision: number | null;
  readonly bound: number;
}

/** Adds up what people decided; `bound` by precisionBound. */
export function expectedOf(papers: readonly CheckedPaper[], boundOf: (right: number, all: number) => number): Expected {
  const filed = papers.filter((p) => p.wouldFile);
  const right = filed.filter((p) => p.isRight === true).length;
  return {
    checked: papers.length,
    wouldFile: filed.length,
    right,
    share: papers.length === 0 ? 0 : filed.length / papers.length,
    precision: filed.length === 0 ? null : right / filed.length,
    bound: boundOf(right, filed.length),
  };
}

/** Whether it may be switched on, and if not why. */
export function maySwitchOn(expected: Expected, settings: AutomaticFilingSettings): "yes" | "too-few" | "not-good-enough" {
  if (expected.wouldFile < HISTORY_MIN) return "too-few";
  return expected.bound >= settings.asked ? "yes" : "not-good-enough";
}

/** What keeps a document from being filed without a person. */
export type NotByItself =
  "not-sure" | "clash" | "doubt" | "incomplete" | "same-paper" | "several-papers" | "differs" | "problem" | "type-not-sure";

/** Facts of a document that automatic filing decides by. */
export interface AutomaticFilingCase {
  readonly verdict: string | null;
  readonly clashes: number;
  readonly doubts: number;
  readonly typeCertainty: number | null;
  /** A document like it is there already. */
  readonly hasSame: boolean;
  readonly cuts: number;
  readonly hasProblem: boolean;
  /** Needed properties that nobody and nothing says, or that are read unsurely. */
  readonly unsureProperties: number;
  /** What came of laying it beside its record; null when there was nothing to compare. */
  readonly compared: "fits" | "within" | "differs" | "cannot-tell" | null;
}

/** A type that is less sure than this is for a person to say. */
const TYPE_FROM = 0.8;

/** Whether a document may be filed without a person: sure, complete and without anything that clashes; else the first thing that keeps it from it. */
export function decideByItself(paper: AutomaticFilingCase): NotByItself | null {
  if (paper.hasProblem) return "problem";
  if (paper.cuts > 0) return "several-papers";
  if (paper.hasSame) return "same-paper";
  if (paper.clashes > 0) return "clash";
  if (paper.verdict !== "sure") return "not-sure";
  if (paper.typeCertainty === null || paper.typeCertainty < TYPE_FROM) return "type-not-sure";
  if (paper.doubts > 0) return "doubt";
  if (paper.unsureProperties > 0) return "incomplete";
  if (paper.compared === "differs") return "differs";
  return null;
}

/** Whether a document is one of the sample that is held back: by a number between 0 and 1 that its id and a secret give, so that nobody can guess it. */
export const isHeldBack = (lot: number, settings: AutomaticFilingSettings): boolean => lot < settings.heldBack;

/** What a person filed a document as, beside what the program had decided. */
export interface Decided {
  readonly documentType: string;
  readonly record: { readonly company: string; readonly type: string; readonly key: string };
  readonly properties: Readonly<Record<string, unknown>>;
}

/** Properties that are compared: those that documents are booked by. */
const telling = ["documentNumber", "documentDate", "total"] as const;

/** In what a decision differs from what a person did: nothing means that it was right. */
export function differencesOf(
  decided: Decided,
  filed: Decided & { readonly clips: readonly Decided["record"][] },
): readonly ("documentType" | "record" | (typeof telling)[number])[] {
  const same = (a: Decided["record"], b: Decided["record"]): boolean => a.company === b.company && a.type === b.type && a.key === b.key;
  return [
    ...(decided.documentType === filed.documentType ? [] : (["documentType"] as const)),
    // Whoever clips it to further records as well has not put the first one right.
    ...(filed.clips.some((c) => same(c, decided.record)) ? [] : (["record"] as const)),
    ...telling.filter((p) => {
      const [mine, theirs] = [decided.properties[p] ?? null, filed.properties[p] ?? null];
      return mine !== null && String(mine) !== String(theirs ?? "");
    }),
  ];
}
