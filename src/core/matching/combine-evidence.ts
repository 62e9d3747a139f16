import type { EvidenceKind } from "./match-weights.ts";

/** Kinds that name one very record by a number of its own. */
export const numbering = [
  "ownNumber",
  "accountNamed",
  "orderNamed",
  "keyNamed",
  "keyInName",
  "keyLike",
  "digitsNamed",
  "keyNear",
  "subjectNamed",
  "numberNamed",
  "referenceNamed",
  "orderOfIt",
] as const satisfies readonly EvidenceKind[];

/** Kinds that say the same in several ways, and what they can add together, log-odds. `half` is from which one on each counts half of the one before. */
const groups: readonly { readonly most: number; readonly half: 0 | 1; readonly kinds: readonly EvidenceKind[] }[] = [
  { most: 8, half: 0, kinds: numbering },
  { most: 6, half: 1, kinds: ["senderIban", "senderVat", "senderMail", "senderName"] },
  { most: 3.4, half: 0, kinds: ["totalFits", "netFits"] },
];
const groupOf = new Map(groups.flatMap((g) => g.kinds.map((k) => [k, g] as const)));

/**
 * Adds evidence up: naming a record in several ways is one thing said, identities of a sender add up to a limit. Answers the sum, and by kind how much of
 * it counted (1 for all, 0 beyond a group's limit).
 */
export function combineEvidence(parts: ReadonlyMap<EvidenceKind, number>): {
  readonly sum: number;
  readonly counted: ReadonlyMap<EvidenceKind, number>;
} {
  const counted = new Map<EvidenceKind, number>();
  let sum = 0;
  for (const [kind, weight] of parts)
    if (!groupOf.has(kind)) {
      sum += weight;
      counted.set(kind, 1);
    }
  for (const group of groups) {
    // The strongest in full, each further one half as much as the one before.
    const sorted = group.kinds.flatMap((k) => (parts.has(k) ? [{ k, w: parts.get(k) ?? 0 }] : [])).sort((a, b) => b.w - a.w);
    const shares = sorted.map((_, i) => 1 / 2 ** Math.max(0, i - group.half));
    const whole = sorted.reduce((s, p, i) => s + p.w * (shares[i] ?? 0), 0);
    sum += Math.min(group.most, whole);
    const isFull = whole > group.most;
    sorted.forEach((p, i) => counted.set(p.k, isFull ? 0 : (shares[i] ?? 0)));
  }
  return { sum, counted };
}
