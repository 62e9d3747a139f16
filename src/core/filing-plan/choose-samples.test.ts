import { reservoirSample, type Chooser, topBy, those } from "./choose-samples.ts";

const numbers = (count: number): readonly number[] => Array.from({ length: count }, (_, n) => n);
function offered(chooser: Chooser<number>, items: readonly number[], score: (n: number) => number = () => 0): readonly number[] {
  for (const n of items) chooser.offer(n, score(n));
  return chooser.chosen();
}

describe("A few of many records are shown", () => {
  test("those with the highest score, of equal ones the first", () => {
    expect(offered(topBy(3), numbers(100), (n) => n % 10)).toEqual([9, 19, 29]);
    expect(offered(topBy(3), [5, 4], (n) => n)).toEqual([5, 4]);
    expect(offered(topBy(2), numbers(50), (n) => -n)).toEqual([0, 1]);
  });

  test("any of them: all when there are few, the same for the same seed, others for another", () => {
    expect(offered(reservoirSample(8, 1), numbers(5))).toEqual([0, 1, 2, 3, 4]);
    const some = offered(reservoirSample(8, 7), numbers(1000));
    expect(new Set(some).size).toBe(8);
    expect(offered(reservoirSample(8, 7), numbers(1000))).toEqual(some);
    expect(offered(reservoirSample(8, 8), numbers(1000))).not.toEqual(some);
  });

  test("each of many is chosen about as often as another", () => {
    const times = numbers(20).map(() => 0);
    for (let seed = 1; seed <= 4000; seed++) for (const n of offered(reservoirSample(4, seed), numbers(20))) times[n] = (times[n] ?? 0) + 1;
    // 800 each; the widest that chance alone would give is far within this.
    expect(Math.min(...times)).toBeGreaterThan(650);
    expect(Math.max(...times)).toBeLessThan(950);
  });

  test("those that are wanted, the first so many", () => {
    expect(
      offered(
        those(2, (n: number) => n > 6),
        numbers(10),
      ),
    ).toEqual([7, 8]);
  });
});
