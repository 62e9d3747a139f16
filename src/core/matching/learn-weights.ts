import { combineEvidence } from "./combine-evidence.ts";
import { type EvidenceKind, evidenceKinds, type MatchWeights } from "./match-weights.ts";

/** A document that a person decided on: what spoke for each record that was proposed, and which of them it was. */
export interface LearntCase {
  /** Whose document it is: what is held out for checking is held out by sender. */
  readonly sender: string;
  /** Of each proposed record the strength of each kind of evidence: 1 is all of its weight. */
  readonly options: readonly ReadonlyMap<EvidenceKind, number>[];
  /** Index of the right one. */
  readonly right: number;
}

export interface LearntWeights {
  readonly of: MatchWeights["of"];
  /** Mean surprise at what people decided on documents that nothing was learnt from, in nats, with the weights before and with those learnt. */
  readonly before: number;
  readonly after: number;
  /** Whether they are better there; those that are not are not taken. */
  readonly isBetter: boolean;
}

/** Documents without which nothing is learnt. */
export const LEARNS_FROM = 50;
/** How strongly weights are held where they start: about so many documents speak for the start. */
const HELD = 20;
/** A weight stays between these shares of where it started, on the same side of nought. */
const LEAST = 0.4;
const MOST = 1.8;
const ROUNDS = 200;
const STEP = 0.6;
/** One in so many senders is held out. */
const HELD_OUT = 5;

/**
 * Learns how much each kind of evidence weighs from what people decided: the weights under which that is least surprising, held towards where they started.
 * Pure; the same cases in the same order give the same weights.
 */
export function learnWeights(cases: readonly LearntCase[], starting: MatchWeights["of"], now: MatchWeights["of"]): LearntWeights | null {
  if (cases.length < LEARNS_FROM) return null;
  const isOut = (c: LearntCase): boolean => lot(c.sender) % HELD_OUT === 0;
  const [out, within] = [cases.filter(isOut), cases.filter((c) => !isOut(c))];
  if (within.length === 0) return null;
  const of: Record<EvidenceKind, number> = { ...now };
  for (let round = 0; round < ROUNDS; round++) {
    const slope = new Map<EvidenceKind, number>();
    for (const c of within) addSlope(slope, c, of);
    for (const kind of evidenceKinds) {
      const pull = (HELD * (of[kind] - starting[kind])) / Math.max(1, starting[kind] ** 2);
      const next = of[kind] - (STEP / (within.length + HELD)) * ((slope.get(kind) ?? 0) + pull);
      of[kind] = clamp(next, starting[kind]);
    }
  }
  for (const kind of evidenceKinds) of[kind] = Math.round(of[kind] * 1000) / 1000;
  const checked = out.length > 0 ? out : within;
  const [before, after] = [surprise(checked, now), surprise(checked, of)];
  return { of, before, after, isBetter: after < before - 1e-4 };
}

function clamp(value: number, start: number): number {
  const [a, b] = [start * LEAST, start * MOST];
  return Math.min(Math.max(a, b), Math.max(Math.min(a, b), value));
}

/** A number that a text gives, always the same. */
function lot(text: string): number {
  let hash = 2_166_136_261;
  for (let i = 0; i < text.length; i++) hash = Math.imul(hash ^ text.charCodeAt(i), 16_777_619);
  return hash >>> 0;
}

/** Probabilities of a case's options and of none, and how each kind moves each option. */
function weigh(c: LearntCase, of: MatchWeights["of"]) {
  const sums = c.options.map((o) =>
    combineEvidence(
      new Map<EvidenceKind, number>([...o].map(([k, x]) => [k, x * of[k]]).concat([["base", of.base]]) as [EvidenceKind, number][]),
    ),
  );
  const highest = Math.max(0, ...sums.map((s) => s.sum));
  const whole = sums.reduce((t, s) => t + Math.exp(s.sum - highest), Math.exp(-highest));
  return { sums, chances: sums.map((s) => Math.exp(s.sum - highest) / whole) };
}

function addSlope(slope: Map<EvidenceKind, number>, c: LearntCase, of: MatchWeights["of"]): void {
  const { sums, chances } = weigh(c, of);
  c.options.forEach((option, i) => {
    const off = (chances[i] ?? 0) - (i === c.right ? 1 : 0);
    for (const [kind, x] of [...option, ["base", 1] as const]) {
      const counted = sums[i]?.counted.get(kind) ?? 0;
      if (counted !== 0) slope.set(kind, (slope.get(kind) ?? 0) + off * x * counted);
    }
  });
}

function surprise(cases: readonly LearntCase[], of: MatchWeights["of"]): number {
  const sum = cases.reduce((s, c) => s - Math.log(Math.max(1e-6, weigh(c, of).chances[c.right] ?? 0)), 0);
  return Math.round((sum / Math.max(1, cases.length)) * 10_000) / 10_000;
}
