import fc from "fast-check";
import { prefillProperties } from "../documents/prefill-properties.ts";
import { fieldValuesSchema } from "../documents/properties-schema.ts";
import { isCalendarDay, parseFieldValues } from "./parse-field-values.ts";
import { parseLookup } from "./parse-lookup.ts";
import { rankLookup } from "./rank-lookup.ts";
import type { Field } from "./record-type.ts";

const kinds = ["text", "number", "amount", "date", "yesNo", "choice"] as const;
const fields: readonly Field[] = kinds.map((kind) => ({
  key: kind,
  label: kind,
  kind,
  required: false,
  ...(kind === "choice" ? { choices: ["Red", "Blue"] } : {}),
}));
const anything = fc.oneof(
  fc.string(),
  fc.integer(),
  fc.double(),
  fc.boolean(),
  fc.constant(null),
  fc.constant(undefined),
  fc.constantFrom("2026-11-18", "12.5", "yes", "red", "  ", "-0"),
  fc.object({ maxDepth: 1 }),
);

describe("Values of fields", () => {
  test("whatever comes in, it is kept in its own form or named as wrong, and what was kept is right again", () => {
    fc.assert(
      fc.property(fc.record(Object.fromEntries(kinds.map((k) => [k, anything])), { requiredKeys: [] }), (raw) => {
        const { values, errors } = parseFieldValues(fields, raw);
        for (const e of errors) expect(e.path).toMatch(/^fields\./);
        for (const [key, value] of Object.entries(values)) {
          if (value === null) continue;
          if (key === "date") expect(isCalendarDay(String(value))).toBe(true);
          if (key === "amount") expect(value).toMatch(/^-?\d+\.\d{2,6}$/);
          if (key === "yesNo") expect(typeof value).toBe("boolean");
          if (key === "choice") expect(["Red", "Blue"]).toContain(value);
        }
        const again = parseFieldValues(fields, values);
        expect(again.errors).toEqual([]);
        expect(again.values).toEqual(values);
      }),
      { numRuns: 800 },
    );
  });
  test("the schema of a form says the same as the door", () => {
    fc.assert(
      fc.property(fc.record(Object.fromEntries(kinds.map((k) => [k, anything])), { requiredKeys: [] }), (raw) => {
        const byDoor = parseFieldValues(fields, raw);
        const byForm = fieldValuesSchema(fields).safeParse(raw);
        expect(byForm.success).toBe(byDoor.errors.length === 0);
        if (byForm.success) expect(byForm.data).toEqual(byDoor.values);
      }),
      { numRuns: 400 },
    );
  });
  test.each([
    ["2026-02-29", false],
    ["2024-02-29", true],
    ["2026-11-31", false],
    ["2026-1-1", false],
    ["0000-01-01", false],
    ["9999-12-31", true],
    ["2026-11-18T10:00", false],
  ])("%s is a day: %s", (text, is) => expect(isCalendarDay(text)).toBe(is));
});

describe("Prefilling", () => {
  const record = fc.record({
    key: fc.string({ minLength: 1, maxLength: 8 }),
    title: fc.string(),
    type: fc.constantFrom("purchaseOrder", "supplierAccount", "vessel"),
    currency: fc.option(fc.constantFrom("GBP", "EUR")),
    fields: fc.dictionary(fc.constantFrom(...kinds, "currency"), fc.oneof(fc.string(), fc.constant(null))),
  });
  test("never replaces what a person typed, and takes the first record that has a value", () => {
    fc.assert(
      fc.property(fc.array(record, { maxLength: 4 }), fc.dictionary(fc.constantFrom(...kinds), fc.string()), (records, typed) => {
        const filled = prefillProperties(fields, records, typed);
        for (const field of fields) {
          const own = Object.hasOwn(typed, field.key) ? typed[field.key] : undefined;
          if (own !== undefined) expect(filled[field.key]).toBe(own);
          else
            expect(filled[field.key]).toBe(
              records
                .map((r) => (Object.hasOwn(r.fields, field.key) ? r.fields[field.key] : null))
                .find((v) => v !== null && v !== undefined) ?? null,
            );
        }
      }),
      { numRuns: 300 },
    );
  });
});

describe("Look-up", () => {
  const candidate = fc.record({
    key: fc.string({ maxLength: 12 }),
    title: fc.string({ maxLength: 20 }),
    recency: fc.integer({ min: 0, max: 50 }),
    isStanding: fc.boolean(),
  });
  test("ranking loses nobody, adds nobody, and does not depend on the order they came in", () => {
    fc.assert(
      fc.property(
        fc.string({ maxLength: 12 }),
        fc.uniqueArray(candidate, { selector: (c) => c.key, maxLength: 12 }),
        (typed, candidates) => {
          const lookup = parseLookup(typed);
          const ranked = rankLookup(lookup, candidates);
          expect(new Set(ranked.map((c) => c.key))).toEqual(new Set(candidates.map((c) => c.key)));
          expect(ranked).toHaveLength(candidates.length);
          expect(rankLookup(lookup, [...candidates].reverse()).map((c) => c.key)).toEqual(ranked.map((c) => c.key));
        },
      ),
      { numRuns: 400 },
    );
  });
  test("the key itself always comes first", () => {
    fc.assert(
      fc.property(fc.stringMatching(/^[A-Z]{1,3}-\d{3,6}$/), fc.array(candidate, { maxLength: 10 }), (key, others) => {
        const ranked = rankLookup(parseLookup(key.toLowerCase().replace("-", " ")), [
          ...others.filter((o) => !o.key.includes(key)),
          { key, title: "", recency: 99, isStanding: false },
        ]);
        expect(ranked[0]?.key).toBe(key);
      }),
    );
  });
  test("what is typed is taken apart in linear time and never breaks out of LIKE", () => {
    fc.assert(
      fc.property(fc.string({ unit: "binary", maxLength: 500 }), (typed) => {
        const lookup = parseLookup(typed);
        expect(lookup.patterns.length).toBeLessThanOrEqual(8);
        for (const p of lookup.patterns)
          expect(
            p
              .slice(1, -1)
              .replace(/\\[\\%_]/g, "")
              .replace(/%/g, ""),
          ).not.toMatch(/[\\_]/);
      }),
      { numRuns: 500 },
    );
  });
});
