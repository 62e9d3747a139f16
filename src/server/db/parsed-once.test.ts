import { z } from "zod";
import { memoizeParse } from "./memoize-parse.ts";

describe("What set-up keeps, parsed once", () => {
  const schema = z.object({ key: z.string(), order: z.number().default(0) });

  it("is what the schema makes of it, the same thing for the same text", () => {
    const parse = memoizeParse(schema);
    const first = parse('{"key":"a"}');
    expect(first).toEqual({ key: "a", order: 0 });
    expect(parse('{"key":"a"}')).toBe(first);
    expect(parse('{"key":"a","order":1}')).toEqual({ key: "a", order: 1 });
  });

  it("is refused like any other when it does not fit, each time", () => {
    const parse = memoizeParse(schema);
    for (let i = 0; i < 2; i++) {
      expect(() => parse('{"key":1}')).toThrow();
      expect(() => parse("no json")).toThrow();
    }
  });

  it("is forgotten before it takes all the memory there is, and parsed again", () => {
    const parse = memoizeParse(schema);
    const first = parse('{"key":"first"}');
    for (let i = 0; i < 1100; i++) parse(`{"key":"k${i}"}`);
    const again = parse('{"key":"first"}');
    expect(again).toEqual(first);
    expect(again).not.toBe(first);
  });

  it("keeps what two schemas make of one text apart", () => {
    const other = memoizeParse(z.object({ key: z.string().transform((k) => k.toUpperCase()) }));
    expect(memoizeParse(schema)('{"key":"a"}').key).toBe("a");
    expect(other('{"key":"a"}').key).toBe("A");
  });
});
