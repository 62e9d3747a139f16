import fc from "fast-check";
import { combineEvidence } from "./combine-evidence.ts";
import { learnWeights, LEARNS_FROM, type LearntCase } from "./learn-weights.ts";
import { type EvidenceKind, evidenceKinds, startingWeights } from "./match-weights.ts";

const option = (...kinds: readonly (EvidenceKind | readonly [EvidenceKind, number])[]): ReadonlyMap<EvidenceKind, number> =>
  new Map(kinds.map((k) => (typeof k === "string" ? ([k, 1] as const) : ([k[0], k[1]] as const))));
/** People always take the record that the total fits, whatever name stands on the document. */
const cases: readonly LearntCase[] = Array.from({ length: 120 }, (_, i) => ({
  sender: `account:${i % 30}`,
  options: [option("senderName", "dayFits"), option("totalFits", ["senderName", 0.4])],
  right: 1,
}));
const { of } = startingWeights;

test("what people decide makes the evidence they decide by weigh more, and the other less", () => {
  const learnt = learnWeights(cases, of, of);
  expect(learnt?.isBetter).toBe(true);
  expect(learnt?.of.totalFits).toBeGreaterThan(of.totalFits);
  expect(learnt?.of.dayFits).toBeLessThan(of.dayFits);
  expect(learnt?.after).toBeLessThan(learnt?.before ?? 0);
  // What nobody met stays where it started.
  expect(learnt?.of.routeNamed).toBe(of.routeNamed);
});

test("few documents teach nothing", () => {
  expect(learnWeights(cases.slice(0, LEARNS_FROM - 1), of, of)).toBeNull();
});

test("what does not get better on documents of other senders is said: it is not taken", () => {
  // Of these senders a fifth is held out for checking; where those decide the other way round, learning from the rest makes it worse.
  const sender = (i: number): string => `sender ${i}`;
  const paper = (i: number, right: number): LearntCase => ({ sender: sender(i), options: [option("said"), option("code")], right });
  const isOut = Array.from({ length: 10 }, (_, i) => {
    // Of one sender only, all are checked on and none is learnt from, or the reverse.
    const alone = learnWeights(
      Array.from({ length: LEARNS_FROM }, () => paper(i, 1)),
      of,
      of,
    );
    return alone === null;
  });
  const mixed = Array.from({ length: LEARNS_FROM }, (_, i) => paper(i % 10, isOut[i % 10] ? 0 : 1));
  expect(mixed.some((c) => c.right === 0)).toBe(true);
  expect(learnWeights(mixed, of, of)?.isBetter).toBe(false);
});

test("the same documents give the same weights, each on its side of nought and not far from its start", () => {
  const kinds = fc.constantFrom(...evidenceKinds.filter((k) => k !== "base"));
  const made = fc.array(
    fc.record({
      sender: fc.constantFrom("a", "b", "c", "d", "e", "f", "g"),
      options: fc.array(
        fc.array(fc.tuple(kinds, fc.constantFrom(0.3, 0.7, 1)), { maxLength: 5 }).map((o) => new Map(o)),
        { minLength: 2, maxLength: 3 },
      ),
      right: fc.constantFrom(0, 1),
    }),
    { minLength: LEARNS_FROM, maxLength: 70 },
  );
  fc.assert(
    fc.property(made, (papers) => {
      const learnt = learnWeights(papers, of, of);
      expect(learnWeights(papers, of, of)).toEqual(learnt);
      for (const kind of evidenceKinds) {
        const share = (learnt?.of[kind] ?? of[kind]) / of[kind];
        expect(share).toBeGreaterThanOrEqual(0.39);
        expect(share).toBeLessThanOrEqual(1.81);
      }
    }),
    { numRuns: 12 },
  );
});

test("evidence that says the same counts once and a half, and no more than its limit", () => {
  expect(
    combineEvidence(
      new Map([
        ["orderNamed", 6],
        ["keyInName", 4],
      ]),
    ).sum,
  ).toBe(8);
  const both = combineEvidence(
    new Map([
      ["totalFits", 2.8],
      ["netFits", 2],
    ]),
  );
  expect(both.sum).toBe(3.4);
  expect(both.counted.get("netFits")).toBe(0);
  expect(
    combineEvidence(
      new Map([
        ["keyNear", 2],
        ["orderOfIt", 1],
      ]),
    ).counted.get("orderOfIt"),
  ).toBe(0.5);
});
