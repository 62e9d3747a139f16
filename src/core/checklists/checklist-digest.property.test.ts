import fc from "fast-check";
import { askedPapers, askedRecord, digestRules, type PaperDigest } from "./checklist-digest.ts";
import { type ItemRule, itemRuleSchema } from "./checklist-rules.ts";
import { type CheckedPaper, standingItems } from "./checklist-state.ts";
import { completenessOf } from "./completeness.ts";

const day = "2026-11-26";
const types = ["loadingList", "packingList", "certificate"];
const days = fc.constantFrom("2026-10-01", "2026-11-26", "2026-12-24", "not a day");
const condition = fc.record({
  field: fc.constantFrom("goods", "total", "status", "title"),
  compare: fc.constantFrom("is", "isNot", "contains", "isEmpty", "isNotEmpty", "isFrom") as fc.Arbitrary<"is">,
  value: fc.constantFrom("chilled", "10000", "sailed", ""),
});
const rule = (bit: number): fc.Arbitrary<ItemRule> =>
  fc
    .record({
      documentTypes: fc.uniqueArray(fc.constantFrom(...types), { minLength: 1, maxLength: 2 }),
      count: fc.integer({ min: 1, max: 2 }),
      papersThat: fc.array(fc.record({ field: fc.constant("signed"), compare: fc.constant("is" as const), value: fc.constant("yes") }), {
        maxLength: 1,
      }),
      when: fc.array(
        fc.oneof(
          condition.map((c) => ({ on: "field" as const, ...c })),
          fc.record({ on: fc.constant("paper" as const), documentType: fc.constantFrom(...types), there: fc.boolean() }),
          fc.record({ on: fc.constant("chain" as const), recordType: fc.constantFrom("salesInvoice", "quote"), there: fc.boolean() }),
        ),
        { maxLength: 2 },
      ),
      due: fc.option(fc.record({ field: fc.constantFrom("sailingDate", "date"), days: fc.integer({ min: -3, max: 3 }) })),
      validity: fc.option(
        fc.oneof(
          fc.constant({ kind: "property" as const, property: "validUntil" }),
          fc.record({ kind: fc.constant("months" as const), months: fc.integer({ min: 1, max: 3 }) }),
        ),
      ),
      settledBy: fc.constantFrom("clip", "person") as fc.Arbitrary<"clip">,
      along: fc.constantFrom("own", "chain") as fc.Arbitrary<"own">,
    })
    .map((r) => itemRuleSchema.parse({ key: `item${bit}`, bit, label: "Item", missing: "", acceptedBy: [], ...r }));
const rules = fc.tuple(rule(0), rule(1), rule(2));
const paper = fc.record({
  documentType: fc.constantFrom(...types, "letter"),
  documentDate: fc.option(days),
  signed: fc.boolean(),
  validUntil: fc.option(days),
  number: fc.nat(),
});
const record = fc.record({
  goods: fc.option(fc.constantFrom("Chilled", "timber")),
  total: fc.constantFrom("9", "10000.00"),
  sailingDate: fc.option(days),
  title: fc.string(),
});

/** What the digest lets through of a document, as the database would send it. */
function sent(digest: ReturnType<typeof digestRules>, p: CheckedPaper): PaperDigest[] {
  if (!digest.documentTypes.includes(p.documentType)) return [];
  const asks = digest.propertyTypes.includes(p.documentType);
  return [
    [
      p.documentType,
      digest.datedTypes.includes(p.documentType) ? p.documentDate : null,
      ...digest.properties.map((k) => (asks ? (p.properties[k] ?? null) : null)),
    ],
  ];
}

it("what is left of a record by its digest gives the same completeness as the whole record", () => {
  fc.assert(
    fc.property(
      rules,
      record,
      fc.array(paper, { maxLength: 4 }),
      fc.array(fc.constantFrom("salesInvoice", "quote")),
      fc.constantFrom("sailed", null),
      (made, fields, list, chainTypes, status) => {
        const papers = list.map((p, i): CheckedPaper => ({
          id: i * 7 + 3,
          documentType: p.documentType,
          documentDate: p.documentDate,
          properties: { signed: p.signed, validUntil: p.validUntil, number: String(p.number) },
          isOwn: i % 3 !== 2,
        }));
        const whole = { company: "MF", key: "B-1", title: fields.title, status, date: "2026-11-20", fields: { ...fields, other: "x" } };
        const full = completenessOf(standingItems(made, { record: whole, papers, chainTypes, decisions: [], ownItems: [] }, day), day);
        const digest = digestRules(made);
        const all: Record<string, string | null> = { ...whole.fields, ...whole } as never;
        const asked = askedRecord(Object.fromEntries(digest.fields.map((f) => [f, all[f] ?? null])));
        const own = papers.filter((p) => p.isOwn).flatMap((p) => sent(digest, p));
        const along = papers.filter((p) => !p.isOwn && digest.alongTypes.includes(p.documentType)).flatMap((p) => sent(digest, p));
        const short = completenessOf(
          standingItems(
            made,
            {
              record: asked,
              papers: askedPapers(digest, own, along),
              chainTypes: digest.asksChain ? chainTypes : [],
              decisions: [],
              ownItems: [],
            },
            day,
          ),
          day,
        );
        expect(short).toEqual(full);
      },
    ),
    { numRuns: 600 },
  );
});

it("records with the same sign fit the same conditions and are due the same day", () => {
  fc.assert(
    fc.property(rules, record, record, (made, a, b) => {
      const digest = digestRules(made);
      const [x, y] = [a, b].map((f) => askedRecord({ ...f, key: "k", status: "sailed", date: "2026-11-20" }));
      if (!x || !y || digest.signOf(x) !== digest.signOf(y)) return;
      const state = (r: typeof x) =>
        standingItems(made, { record: r, papers: [], chainTypes: [], decisions: [], ownItems: [] }, day).map((i) => [
          i.key,
          i.state,
          i.dueOn,
        ]);
      expect(state(x)).toEqual(state(y));
    }),
    { numRuns: 600 },
  );
});

it("a sign is not confused by what values are called", () => {
  const digest = digestRules([
    itemRuleSchema.parse({ key: "a", bit: 0, label: "A", documentTypes: ["letter"], due: { field: "sailingDate", days: 0 } }),
  ]);
  const sign = (sailingDate: string | null) => digest.signOf(askedRecord({ sailingDate }));
  expect(sign("2026-11-18")).not.toBe(sign("2026-11-19"));
  expect(sign(null)).toBe(sign(""));
});
