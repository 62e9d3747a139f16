import fc from "fast-check";
import { chooseFreeName } from "./choose-free-name.ts";
import { decideFileName, decideTitle, documentValue } from "./decide-file-name.ts";
import { decideFolder, type FolderRecord, ruleFor } from "./decide-folder.ts";
import { comparisons } from "../records/condition.ts";
import { checkFolderRule, type FolderRule, folderRuleSchema } from "./folder-rule.ts";
import { diskLimits, endingOf, foldName, legalName, numberedName, utf8Bytes } from "./legal-name.ts";
import { fieldsOf, parsePattern, renderPattern } from "./name-pattern.ts";
import type { RecordType } from "../records/record-type.ts";

const anyText = fc.string({ unit: "grapheme", maxLength: 60 });
const fieldName = fc.constantFrom("key", "title", "status", "date", "company", "name", "sailingDate", "yourReference");
const format = fc.constantFrom("year", "month", "day", "upper", "lower", "first 5");
const literal = fc.stringMatching(/^[A-Za-z ]{0,8}$/);
const choice = fc.oneof(
  fc.tuple(fieldName, fc.array(format, { maxLength: 2 })).map(([f, formats]) => [f, ...formats].join(":")),
  literal.map((text) => `"${text}"`),
);
const pattern = fc
  .array(
    fc.oneof(
      literal,
      fc.array(choice, { minLength: 1, maxLength: 3 }).map((c) => `{${c.join("|")}}`),
    ),
    { maxLength: 5 },
  )
  .map((parts) => parts.join(""))
  .filter((text) => text.length <= 200);
const record: fc.Arbitrary<FolderRecord> = fc.record({
  company: fc.constantFrom("MF", "QS"),
  key: fc.string({ minLength: 1, maxLength: 20 }),
  title: anyText,
  status: fc.option(anyText),
  date: fc.option(fc.constantFrom("2026-11-18", "2025-01-01", "not a day")),
  fields: fc.dictionary(fieldName, fc.oneof(anyText, fc.boolean(), fc.constant(null))),
});
const type: RecordType = {
  key: "freightBooking",
  label: "Freight booking",
  plural: "Freight bookings",
  kind: "passing",
  icon: "truck",
  short: "Booking",
  fields: [
    { key: "name", label: "Name", kind: "text", required: false },
    { key: "sailingDate", label: "Sailing", kind: "date", required: false },
    { key: "yourReference", label: "Your reference", kind: "text", required: false },
  ],
  parent: ["customerAccount"],
  order: 1,
};
const rule: fc.Arbitrary<FolderRule> = fc.record({
  kind: fc.constantFrom("standing", "passing"),
  connection: fc.constant("companyFolders"),
  variants: fc.array(
    fc.record({
      when: fc.array(
        fc.record({ field: fieldName, compare: fc.constantFrom(...comparisons), value: fc.constantFrom("x", "2026-01-01", "5") }),
        {
          minLength: 1,
          maxLength: 2,
        },
      ),
      rootFolder: fc.constantFrom("Others", "A/B"),
    }),
    { maxLength: 2 },
  ),
  subFolders: fc.constantFrom("section", "documentType", null),
  fileNames: fc.constant({}),
  inside: fc.option(fc.record({ otherwise: fc.constantFrom("Unassigned", "A/B") })),
  rootFolder: fc.constantFrom("Bookings", "Finance/Journals", "  Odd / / steps "),
  groupedBy: fc.option(fc.record({ field: fc.constantFrom("sailingDate", "date"), period: fc.constantFrom("year", "month") })),
  folderName: pattern,
  tellApart: fc.option(fieldName),
  fileName: pattern,
});

describe("Patterns", () => {
  test("that are well made read back to the same fields, whatever the values", () => {
    fc.assert(
      fc.property(pattern, fc.dictionary(fieldName, anyText), (text, values) => {
        const parsed = parsePattern(text);
        expect(parsed.ok).toBe(true);
        if (!parsed.ok) return;
        const name = renderPattern(parsed.value, (f) => (Object.hasOwn(values, f) ? (values[f] ?? null) : null));
        expect(name).toBe(name.trim());
        expect(name).not.toMatch(/\s\s/);
        for (const f of fieldsOf(parsed.value)) expect(text).toContain(f);
      }),
      { numRuns: 500 },
    );
  });
  test("of any text never throw, and say where they are wrong", () => {
    fc.assert(
      fc.property(fc.string({ unit: fc.constantFrom("{", "}", ":", "|", '"', "a", "key", " ", "first 9"), maxLength: 40 }), (text) => {
        const parsed = parsePattern(text);
        if (parsed.ok) return;
        const at = Number(parsed.refusal.errors?.[0]?.path);
        expect(at).toBeGreaterThanOrEqual(0);
        expect(at).toBeLessThanOrEqual(Math.max(text.length, 200));
      }),
      { numRuns: 1000 },
    );
  });
});

describe("Folders", () => {
  test("are legal in every step, and end with the record's own, whatever rule and record (promise 5)", () => {
    fc.assert(
      fc.property(
        rule,
        record,
        fc.option(
          fc.array(
            anyText.map((t) => legalName(t, diskLimits)),
            { minLength: 1, maxLength: 3 },
          ),
        ),
        (r, rec, parent) => {
          const proposal = decideFolder(rec, r, parent, diskLimits);
          expect(proposal.segments.length).toBeGreaterThan(0);
          for (const step of [...proposal.segments, ...(proposal.toldApart ?? [])]) {
            expect(legalName(step, diskLimits)).toBe(step);
            expect(utf8Bytes(step)).toBeLessThanOrEqual(diskLimits.nameBytesMax);
          }
          const holds = ruleFor(rec, r);
          expect(proposal.unassigned).toBe(holds.inside !== null && parent === null);
          if (holds.inside && parent) expect(proposal.segments.slice(0, parent.length)).toEqual(parent);
          if (proposal.toldApart) expect(proposal.toldApart.slice(0, -1)).toEqual(proposal.segments.slice(0, -1));
          expect(decideFolder(rec, r, parent, diskLimits)).toEqual(proposal);
        },
      ),
      { numRuns: 500 },
    );
  });
  test("a rule that is found right decides, and one that is found wrong says which part", () => {
    fc.assert(
      fc.property(rule, (r) => {
        const errors = checkFolderRule(r, type);
        for (const e of errors)
          expect(["folderName", "fileName", "groupedBy", "tellApart", "inside", "rootFolder", "variants.0", "variants.1"]).toContain(
            e.path,
          );
        expect(folderRuleSchema.safeParse(r).success || r.folderName.trim() === "" || r.fileName.trim() === "").toBe(true);
      }),
    );
  });
});

describe("File names", () => {
  const document = fc.record({
    documentType: fc.constant("Supplier invoice"),
    title: anyText.map((t) => t || "x"),
    code: fc.constant("AC-000001"),
    filedOn: fc.constant("2026-11-20"),
    properties: fc.dictionary(fc.constantFrom("documentNumber", "signed", "total"), fc.oneof(anyText, fc.boolean(), fc.constant(null))),
  });
  const ending = fc.constantFrom(".pdf", ".jpg", "", ".docx");

  test("are legal, keep their ending, and say the same thing twice", () => {
    fc.assert(
      fc.property(pattern, document, fc.option(record), ending, (text, doc, rec, end) => {
        const name = decideFileName(text, doc, rec, end, diskLimits);
        expect(name.endsWith(end)).toBe(true);
        expect(utf8Bytes(name)).toBeLessThanOrEqual(diskLimits.nameBytesMax);
        expect(decideFileName(text, doc, rec, end, diskLimits)).toBe(name);
        expect(decideTitle(text, doc, rec).length).toBeGreaterThan(0);
      }),
      { numRuns: 400 },
    );
  });
  test("a property is text, yes or no, or nothing; the record's fields are asked for by name", () => {
    const doc = {
      documentType: "Letter",
      title: "T",
      code: "AC-1",
      filedOn: "2026-11-20",
      properties: { signed: true, gone: null, number: "7" },
    };
    const rec: FolderRecord = {
      company: "MF",
      key: "B-1",
      title: "Booking",
      status: null,
      date: null,
      fields: { vessel: "MV One", open: false },
    };
    const values: readonly (readonly [string, string | null])[] = [
      ["documentType", "Letter"],
      ["title", "T"],
      ["code", "AC-1"],
      ["filedOn", "2026-11-20"],
      ["signed", "yes"],
      ["gone", null],
      ["number", "7"],
      ["record.key", "B-1"],
      ["record.vessel", "MV One"],
      ["record.open", "no"],
      ["record.status", null],
      ["toString", null],
      ["record.constructor", null],
    ];
    for (const [field, value] of values) expect(`${field}: ${documentValue(doc, rec, field)}`).toBe(`${field}: ${value}`);
    expect(documentValue(doc, null, "record.key")).toBeNull();
  });
  test("the free name of a crowded folder is free, legal, and as near to the wished one as can be", () => {
    fc.assert(
      fc.property(
        anyText.map((t) => legalName(t, diskLimits, ".pdf")),
        fc.integer({ min: 0, max: 30 }),
        (wished, crowd) => {
          const taken = new Set<string>();
          for (let i = 0; i < crowd; i++) taken.add(foldName(chooseFreeName(wished, ".pdf", taken, diskLimits)));
          expect(taken.size).toBe(crowd);
          const free = chooseFreeName(wished, ".pdf", taken, diskLimits);
          expect(taken.has(foldName(free))).toBe(false);
          expect(utf8Bytes(free)).toBeLessThanOrEqual(diskLimits.nameBytesMax);
          expect(endingOf(free)).toBe(".pdf");
          if (crowd > 0) expect(free).toContain(`(${crowd + 1})`);
        },
      ),
      { numRuns: 200 },
    );
  });
  test("a number behind a name keeps the ending and the limit", () => {
    expect(numberedName("Letter.pdf", ".pdf", 2, diskLimits)).toBe("Letter (2).pdf");
    expect(numberedName("Folder", "", 12, diskLimits)).toBe("Folder (12)");
    expect(utf8Bytes(numberedName(`${"ü".repeat(200)}.pdf`, ".pdf", 999, diskLimits))).toBeLessThanOrEqual(diskLimits.nameBytesMax);
  });
});
