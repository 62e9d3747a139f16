import { fieldsOf, parsePattern, renderPattern } from "./name-pattern.ts";

const values: Readonly<Record<string, string>> = {
  key: "B-20418",
  name: "Orrin Shellfish",
  sailingDate: "2026-11-18",
  "record.key": "PO-6127",
};
const render = (pattern: string): string => {
  const parsed = parsePattern(pattern);
  return parsed.ok ? renderPattern(parsed.value, (f) => values[f] ?? null) : `refused: ${parsed.refusal.detail}`;
};

describe("A name pattern", () => {
  const cases: readonly (readonly [pattern: string, name: string])[] = [
    ["{name} {key}", "Orrin Shellfish B-20418"],
    ["{sailingDate:year}", "2026"],
    ["{sailingDate:month}", "2026-11"],
    ["{name:upper}", "ORRIN SHELLFISH"],
    ["{name:first 5}", "Orrin"],
    ["{name:first 5:lower}", "orrin"],
    ["{vessel|key}", "B-20418"],
    ['{vessel|"no vessel"}', "no vessel"],
    ["Invoice {documentNumber}", "Invoice"],
    ["  {key}   x ", "B-20418 x"],
    ["{record.key}", "PO-6127"],
    ["{name:year|key}", "B-20418"],
    ["plain", "plain"],
  ];
  expect(cases.length).toBeGreaterThan(10);
  test.each(cases)("%s gives %s", (pattern, name) => expect(render(pattern)).toBe(name));

  test.each([
    ["{name", 0, "not closed"],
    ["name}", 4, "without an opening"],
    ["{}", 1, "missing"],
    ["{na me}", 1, "not a field"],
    ["{name:loud}", 1, "not a format"],
    ['{"x}', 1, "not closed"],
  ])("%s is refused at character %i", (pattern, at, words) => {
    const parsed = parsePattern(pattern);
    expect(parsed.ok).toBe(false);
    if (!parsed.ok) {
      expect(parsed.refusal.errors?.[0]?.path).toBe(String(at));
      expect(parsed.refusal.detail).toContain(words);
    }
  });

  test("names its fields, each once", () => {
    const parsed = parsePattern("{name} {key|name} {vessel:upper}");
    expect(parsed.ok && fieldsOf(parsed.value)).toEqual(["name", "key", "vessel"]);
  });

  test("an over-long pattern is refused, not read", () => expect(parsePattern("x".repeat(201)).ok).toBe(false));
});
