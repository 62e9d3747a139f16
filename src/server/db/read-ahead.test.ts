import { readAhead } from "./read-ahead.ts";

/** The numbers from one to a last one, each out of the one before. */
const upTo = (last: number, ask: (n: number) => Promise<number>) =>
  readAhead(
    () => ask(1),
    (n) => (n < last ? () => ask(n + 1) : null),
  );

describe("Portions are asked for while the one before is worked on", () => {
  test("in their order, each asked for before the one before is handed out, never two ahead", async () => {
    const log: string[] = [];
    const ask = (n: number) => {
      log.push(`ask ${n}`);
      return Promise.resolve(n);
    };
    for await (const n of upTo(3, ask)) log.push(`work ${n}`);
    expect(log).toEqual(["ask 1", "ask 2", "work 1", "ask 3", "work 2", "work 3"]);
  });

  test("an error comes where its portion would have come; one of a portion that nobody waits for any more is not left unheard", async () => {
    const unheard = jest.fn();
    process.on("unhandledRejection", unheard);
    try {
      const ask = (n: number) => (n === 2 ? Promise.reject(new Error("away")) : Promise.resolve(n));
      const got: number[] = [];
      await expect(
        (async () => {
          for await (const n of upTo(3, ask)) got.push(n);
        })(),
      ).rejects.toThrow("away");
      expect(got).toEqual([1]);
      for await (const n of upTo(2, ask)) if (n === 1) break;
      await new Promise((resolve) => setImmediate(resolve));
      expect(unheard).not.toHaveBeenCalled();
    } finally {
      process.off("unhandledRejection", unheard);
    }
  });
});
