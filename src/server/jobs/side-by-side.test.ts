import { sideBySide } from "./side-by-side.ts";

const turn = () => new Promise((resolve) => setImmediate(resolve));

describe("Many things side by side", () => {
  test("never more at once than asked for, answers in their order", async () => {
    let running = 0;
    let most = 0;
    const answers = await sideBySide([5, 1, 4, 2, 3], 2, async (n) => {
      most = Math.max(most, ++running);
      for (let i = 0; i < n; i++) await turn();
      running--;
      return n * 10;
    });
    expect(answers).toEqual([50, 10, 40, 20, 30]);
    expect(most).toBe(2);
  });
  test("the first that throws ends it: nothing new is begun", async () => {
    const begun: number[] = [];
    const act = async (n: number): Promise<void> => {
      begun.push(n);
      await turn();
      if (n === 2) throw new Error("no");
      await turn();
    };
    await expect(sideBySide([1, 2, 3, 4, 5, 6], 2, act)).rejects.toThrow("no");
    await turn();
    await turn();
    expect(begun).toEqual([1, 2]);
  });
  test("of nothing is nothing", async () => expect(await sideBySide([], 4, () => Promise.resolve(1))).toEqual([]));
});
