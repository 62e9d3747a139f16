import { z } from "zod";
import { speakPlainly } from "./field-words.ts";

const said = (schema: z.ZodType, value: unknown): readonly string[] =>
  schema.safeParse(value).error?.issues.map((i) => [i.path.join("."), i.message].filter(Boolean).join(" ")) ?? [];

describe("What is wrong with a value is said in words that people use", () => {
  beforeAll(speakPlainly);
  afterAll(() => z.config({ customError: undefined }));
  test.each([
    [z.object({ user: z.string() }), {}, "user is missing"],
    [z.object({ user: z.string() }), { user: null }, "user is missing"],
    [z.object({ user: z.string().min(1) }), { user: "" }, "user is empty"],
    [z.string().min(3), "ab", "is shorter than 3 characters"],
    [z.string().max(1), "ab", "is longer than 1 character"],
    [z.string(), 4, "is not text"],
    [z.number(), "4", "is not a number"],
    [z.number().int(), 4.5, "is not a whole number"],
    [z.boolean(), "yes", "is not yes or no"],
    [z.array(z.string()), "x", "is not a list"],
    [z.object({}), "x", "is not a set of named values"],
    [z.number().min(3), 2, "must be at least 3"],
    [z.number().max(3), 4, "must be at most 3"],
    [z.number().positive(), 0, "must be greater than 0"],
    [z.number().lt(3), 3, "must be less than 3"],
    [z.number().multipleOf(5), 4, "is not a multiple of 5"],
    [z.array(z.string()).min(1), [], "is empty"],
    [z.array(z.string()).min(2), ["a"], "has fewer than 2 entries"],
    [z.array(z.string()).max(1), ["a", "b"], "has more than 1 entry"],
    [z.enum(["flat", "nested"]), "round", "is not one of: flat, nested"],
    [z.object({ layout: z.enum(["flat", "nested"]) }), {}, "layout is missing"],
    [z.enum(Array.from({ length: 9 }, (_, n) => `c${n}`) as [string]), "x", "is not an allowed value"],
    [z.union([z.string(), z.number()]), true, "is not an allowed value"],
    [z.strictObject({ a: z.string() }), { a: "x", b: 1 }, "contains unknown entries: b"],
    [z.email(), "tam", "is not a mail address"],
    [z.url(), "tam", "is not an address"],
    [z.iso.date(), "28 Nov", "is not a day, such as 2026-11-28"],
    [z.string().regex(/^a/), "b", "has the wrong format"],
  ] as const)("%#", (schema, value, words) => {
    expect(said(schema, value)).toEqual([words]);
  });
  test("a schema with words of its own keeps them", () => {
    expect(said(z.string({ error: "has to be said" }), 1)).toEqual(["has to be said"]);
    expect(
      said(
        z.string().refine((s) => s === "a", "is not a"),
        "b",
      ),
    ).toEqual(["is not a"]);
  });
});
