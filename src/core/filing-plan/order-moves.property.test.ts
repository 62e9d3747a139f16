import fc from "fast-check";
import { type Move, orderMoves } from "./order-moves.ts";

/** Carries steps out on a set of places; throws where a step finds its target taken or its source gone. */
function carry(moves: readonly Move[]): Map<string, number> {
  const at = new Map(moves.map((m) => [m.from, m.id]));
  for (const step of orderMoves(moves)) {
    const m = moves.find((x) => x.id === step.id);
    if (!m) throw new Error("unknown move");
    const from = step.kind === "in" ? `temp ${m.id}` : m.from;
    const to = step.kind === "aside" ? `temp ${m.id}` : m.to;
    expect(at.get(from)).toBe(m.id);
    expect(at.has(to)).toBe(false);
    at.delete(from);
    at.set(to, m.id);
  }
  return at;
}
const move = (id: number, from: string, to: string): Move => ({ id, from, to });

describe("The order of moves (promise 4)", () => {
  test.each([
    ["a swap goes over one temporary name", [move(1, "a", "b"), move(2, "b", "a")], 3],
    ["a cycle of three too", [move(1, "a", "b"), move(2, "b", "c"), move(3, "c", "a")], 4],
    ["a chain begins at its free end", [move(1, "a", "b"), move(2, "b", "c"), move(3, "c", "d")], 3],
    ["a change of capitals only goes over a temporary name", [move(1, "a", "a")], 2],
    ["what goes inside itself steps aside first", [move(1, "c/x", "c/x/x"), move(2, "c/y", "c/x/y")], 3],
    ["two cycles and a stranger", [move(1, "a", "b"), move(2, "b", "a"), move(3, "c", "d"), move(4, "d", "c"), move(5, "e", "f")], 7],
  ])("%s", (_, moves, steps) => {
    expect(orderMoves(moves)).toHaveLength(steps);
    for (const m of moves) expect(carry(moves).get(m.to)).toBe(m.id);
  });

  test("no step of any set of moves finds its target taken, everything arrives, and within a wave nothing touches", () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 30 }).chain((n) =>
          fc.tuple(
            fc.shuffledSubarray(
              Array.from({ length: n * 2 }, (_, i) => `p${i}`),
              { minLength: n, maxLength: n },
            ),
            fc.shuffledSubarray(
              Array.from({ length: n * 2 }, (_, i) => `p${i}`),
              { minLength: n, maxLength: n },
            ),
          ),
        ),
        ([froms, tos]) => {
          const moves = froms.map((from, i) => move(i + 1, from, tos[i] ?? ""));
          const at = carry(moves);
          for (const m of moves) expect(at.get(m.to)).toBe(m.id);
          const steps = orderMoves(moves);
          for (const wave of new Set(steps.map((s) => s.wave))) {
            const ids = steps.filter((s) => s.wave === wave);
            const sources = ids.map((s) => (s.kind === "in" ? `temp ${s.id}` : moves[s.id - 1]?.from));
            const targets = ids.map((s) => (s.kind === "aside" ? `temp ${s.id}` : moves[s.id - 1]?.to));
            expect(sources.filter((p) => targets.includes(p))).toEqual([]);
          }
          expect(orderMoves(moves)).toEqual(steps);
        },
      ),
      { numRuns: 500 },
    );
  });
  test("a long chain is no trouble", () => {
    const moves = Array.from({ length: 50_000 }, (_, i) => move(i, `p${i}`, `p${i + 1}`));
    expect(orderMoves(moves)).toHaveLength(50_000);
  });
});
