import fc from "fast-check";
import { shiftDay } from "../shared/parse-day.ts";
import { type ItemRule, itemRuleSchema, giveBits } from "./checklist-rules.ts";
import { type ChecklistFacts, standingItems } from "./checklist-state.ts";
import { completenessOf } from "./completeness.ts";

const DAY = "2026-11-20";
const day = fc.integer({ min: -60, max: 60 }).map((n) => shiftDay(DAY, n));
const papers = fc.array(
  fc.record({
    id: fc.integer({ min: 1, max: 9 }),
    documentType: fc.constantFrom("a", "b", "c"),
    documentDate: fc.option(day),
    properties: fc.record({ validUntil: fc.option(day) }),
    isOwn: fc.boolean(),
  }),
  { maxLength: 6 },
);
const rules: fc.Arbitrary<readonly ItemRule[]> = fc
  .array(
    fc.record({
      documentTypes: fc.subarray(["a", "b", "c"], { minLength: 1 }),
      count: fc.integer({ min: 1, max: 3 }),
      settledBy: fc.constantFrom("clip" as const, "person" as const),
      along: fc.constantFrom("own" as const, "chain" as const),
      validity: fc.constantFrom(null, { kind: "property" as const, property: "validUntil" }, { kind: "months" as const, months: 1 }),
      due: fc.constantFrom(null, { field: "date", days: 3 }),
    }),
    { maxLength: 5 },
  )
  .map((list) => list.map((r, bit) => itemRuleSchema.parse({ ...r, key: `i${bit}`, bit, label: `Item ${bit}` })));
const decisions = fc.array(
  fc.record({
    item: fc.constantFrom("i0", "i1", "i2", "i3"),
    kind: fc.constantFrom("accepted" as const, "counts" as const, "countsNot" as const, "waived" as const),
    documentId: fc.integer({ min: 1, max: 9 }),
  }),
  { maxLength: 6 },
);
const given = fc.record({ papers, decisions }).map(({ papers: list, decisions: said }): ChecklistFacts => ({
  record: { company: "MF", key: "B-1", title: "x", status: null, date: DAY, fields: {} },
  papers: list,
  decisions: said,
  chainTypes: [],
  ownItems: [],
}));

describe("Checklists", () => {
  test("every applying item is in exactly one state, and the sets say the same", () =>
    fc.assert(
      fc.property(rules, given, (items, facts) => {
        const standing = standingItems(items, facts, DAY);
        const kept = completenessOf(standing, DAY);
        expect(standing).toHaveLength(items.length);
        for (const item of standing) {
          const bit = 1n << BigInt(item.bit);
          expect((kept.applies & bit) !== 0n).toBe(true);
          expect((kept.missing & bit) !== 0n).toBe(item.state === "outstanding" || item.state === "expired");
          expect((kept.received & bit) !== 0n).toBe(item.state === "received");
          expect((kept.waived & bit) !== 0n).toBe(item.state === "waived");
          expect((kept.expired & bit) !== 0n).toBe(item.state === "expired");
        }
      }),
    ));

  test("nothing changes by itself before the day that is kept for it", () =>
    fc.assert(
      fc.property(rules, given, fc.integer({ min: 0, max: 90 }), (items, facts, later) => {
        const { changesOn } = completenessOf(standingItems(items, facts, DAY), DAY);
        const then = shiftDay(DAY, later);
        if (changesOn !== null && then >= changesOn) return;
        const states = (on: string) => standingItems(items, facts, on).map((i) => i.state);
        expect(states(then)).toEqual(states(DAY));
      }),
    ));

  test("one more document that counts never makes an item worse", () =>
    fc.assert(
      fc.property(rules, given, (items, facts) => {
        const rank = { outstanding: 0, expired: 1, received: 2, complete: 3, waived: 4 } as const;
        const more = { id: 99, documentType: "a", documentDate: DAY, properties: { validUntil: "2099-01-01" }, isOwn: true };
        const before = standingItems(items, facts, DAY);
        const after = standingItems(items, { ...facts, papers: [...facts.papers, more] }, DAY);
        before.forEach((b, i) => expect(rank[after[i]?.state ?? "outstanding"]).toBeGreaterThanOrEqual(rank[b.state]));
      }),
    ));

  test("bits stay with their items and are never shared, whatever is added, taken out or moved", () =>
    fc.assert(
      fc.property(
        fc.array(fc.uniqueArray(fc.constantFrom(..."abcdefghijklmnop"), { maxLength: 12 }), { minLength: 2, maxLength: 6 }),
        (rounds) => {
          let before: readonly ItemRule[] = [];
          const used: number[] = [];
          for (const keys of rounds) {
            const now = giveBits(
              keys.map((key) => {
                const { bit: _, ...rest } = itemRuleSchema.parse({ key, bit: 0, label: key, documentTypes: ["a"] });
                return rest;
              }),
              before,
              used,
            );
            expect(new Set(now.map((i) => i.bit)).size).toBe(now.length);
            for (const item of now) {
              const was = before.find((b) => b.key === item.key);
              if (was) expect(item.bit).toBe(was.bit);
              else if (used.length + keys.length <= 40) expect(used).not.toContain(item.bit);
            }
            used.push(...now.map((i) => i.bit));
            before = now;
          }
        },
      ),
    ));
});
