import { addMonths, type ChecklistFacts, type CheckedPaper, standingItems } from "./checklist-state.ts";
import { type ItemRule, itemRuleSchema } from "./checklist-rules.ts";
import { bitOf, completenessOf, countsOf } from "./completeness.ts";

const TODAY = "2026-11-20";
const rule = (over: Partial<ItemRule>): ItemRule =>
  itemRuleSchema.parse({ key: "loadingList", bit: 0, label: "Signed loading list", documentTypes: ["loadingList"], ...over });
const paper = (id: number, over: Partial<CheckedPaper> = {}): CheckedPaper => ({
  id,
  documentType: "loadingList",
  documentDate: "2026-11-18",
  properties: {},
  isOwn: true,
  ...over,
});
const facts = (over: Partial<ChecklistFacts> = {}): ChecklistFacts => ({
  record: {
    company: "MF",
    key: "B-20418",
    title: "Orrin Shellfish",
    status: "sailed",
    date: "2026-11-18",
    fields: { total: "12500.00", sailingDate: "2026-11-18", description: "3 trailers, dangerous goods" },
  },
  papers: [],
  chainTypes: [],
  decisions: [],
  ownItems: [],
  ...over,
});
const stateOf = (r: ItemRule, over: Partial<ChecklistFacts> = {}, today = TODAY) => standingItems([r], facts(over), today)[0];
const decision = (kind: "accepted" | "counts" | "countsNot" | "waived", documentId: number | null = null) => ({
  item: "loadingList",
  kind,
  documentId,
});

describe("An item's state", () => {
  const medical = rule({ validity: { kind: "property", property: "validUntil" } });
  const asked = rule({ settledBy: "person" });
  const until = (id: number, day: string): CheckedPaper => paper(id, { properties: { validUntil: day } });
  const cases: readonly (readonly [string, ItemRule, Partial<ChecklistFacts>, string])[] = [
    ["nothing is clipped", rule({}), {}, "outstanding"],
    ["a document of another type is clipped", rule({}), { papers: [paper(1, { documentType: "photo" })] }, "outstanding"],
    ["a document is clipped and that is enough", rule({}), { papers: [paper(1)] }, "complete"],
    ["a document is clipped and a person has to accept it", asked, { papers: [paper(1)] }, "received"],
    ["it was accepted", asked, { papers: [paper(1)], decisions: [decision("accepted", 1)] }, "complete"],
    ["another one was accepted, which is gone", asked, { papers: [paper(2)], decisions: [decision("accepted", 1)] }, "received"],
    ["one of two is there", rule({ count: 2 }), { papers: [paper(1)] }, "outstanding"],
    ["both are there", rule({ count: 2 }), { papers: [paper(1), paper(2)] }, "complete"],
    ["it holds until today", medical, { papers: [until(1, TODAY)] }, "complete"],
    ["it held until yesterday", medical, { papers: [until(1, "2026-11-19")] }, "expired"],
    ["an old one lapsed, a new one is there", medical, { papers: [until(1, "2026-11-19"), until(2, "2027-11-19")] }, "complete"],
    ["its end is not known", medical, { papers: [paper(1)] }, "complete"],
    [
      "what was accepted lapsed and a new one waits to be accepted",
      { ...medical, settledBy: "person" },
      { papers: [until(1, "2026-11-19"), until(2, "2027-11-19")], decisions: [decision("accepted", 1)] },
      "received",
    ],
    ["what ended was never accepted", { ...medical, settledBy: "person" }, { papers: [until(1, "2026-11-19")] }, "outstanding"],
    [
      "months from its date are over",
      rule({ validity: { kind: "months", months: 12 } }),
      { papers: [paper(1, { documentDate: "2025-11-19" })] },
      "expired",
    ],
    [
      "months from its date end today",
      rule({ validity: { kind: "months", months: 12 } }),
      { papers: [paper(1, { documentDate: "2025-11-20" })] },
      "complete",
    ],
    ["it need not be there", rule({}), { decisions: [decision("waived")] }, "waived"],
    [
      "a document of another type was tied to it",
      rule({}),
      { papers: [paper(1, { documentType: "mail" })], decisions: [decision("counts", 1)] },
      "complete",
    ],
    ["its only document was taken from it", rule({}), { papers: [paper(1)], decisions: [decision("countsNot", 1)] }, "outstanding"],
    [
      "it has to be signed and is not",
      rule({ papersThat: [{ field: "signed", compare: "is", value: "yes" }] }),
      { papers: [paper(1)] },
      "outstanding",
    ],
    [
      "it has to be signed and is",
      rule({ papersThat: [{ field: "signed", compare: "is", value: "yes" }] }),
      { papers: [paper(1, { properties: { signed: true } })] },
      "complete",
    ],
    ["the document is along the chain, which does not count", rule({}), { papers: [paper(1, { isOwn: false })] }, "outstanding"],
    ["the document is along the chain, which counts", rule({ along: "chain" }), { papers: [paper(1, { isOwn: false })] }, "complete"],
  ];
  test.each(cases)("%s", (_, r, over, state) => expect(stateOf(r, over)?.state).toBe(state));

  test("it is due some days from a date of the record, before it when that is said", () => {
    expect(stateOf(rule({ due: { field: "sailingDate", days: 2 } }))?.dueOn).toBe("2026-11-20");
    expect(stateOf(rule({ due: { field: "sailingDate", days: -20 } }))?.dueOn).toBe("2026-10-29");
    expect(stateOf(rule({ due: { field: "noSuch", days: 2 } }))?.dueOn).toBeNull();
  });

  test("with two needed it lapses when the second best ends", () => {
    const two = rule({ count: 2, validity: { kind: "property", property: "validUntil" } });
    expect(stateOf(two, { papers: [until(1, "2027-01-01"), until(2, "2026-12-01"), until(3, "2026-11-25")] })).toMatchObject({
      state: "complete",
      expiresOn: "2026-12-01",
      have: 3,
    });
  });
});

describe("An item applies", () => {
  const cases: readonly (readonly [string, ItemRule["when"], Partial<ChecklistFacts>, boolean])[] = [
    ["always, when nothing is said", [], {}, true],
    ["by words of a field", [{ on: "field", field: "description", compare: "contains", value: "Dangerous" }], {}, true],
    ["by a sum that is large enough", [{ on: "field", field: "total", compare: "isFrom", value: "10000" }], {}, true],
    ["not by a sum that is not", [{ on: "field", field: "total", compare: "isFrom", value: "20000" }], {}, false],
    [
      "by a document that is there",
      [{ on: "paper", documentType: "photo", there: true }],
      { papers: [paper(1, { documentType: "photo" })] },
      true,
    ],
    [
      "not by one that is only along the chain",
      [{ on: "paper", documentType: "photo", there: true }],
      { papers: [paper(1, { documentType: "photo", isOwn: false })] },
      false,
    ],
    ["by a document that is not there", [{ on: "paper", documentType: "photo", there: false }], {}, true],
    ["by a record of the chain", [{ on: "chain", recordType: "salesInvoice", there: true }], { chainTypes: ["salesInvoice"] }, true],
    [
      "only when all holds",
      [
        { on: "paper", documentType: "photo", there: false },
        { on: "chain", recordType: "salesInvoice", there: true },
      ],
      {},
      false,
    ],
  ];
  test.each(cases)("%s", (_, when, over, applies) => expect(stateOf(rule({ when }), over) !== undefined).toBe(applies));
});

describe("Completeness", () => {
  const items = [
    rule({ key: "a", bit: 0 }),
    rule({ key: "b", bit: 1, documentTypes: ["photo"], due: { field: "sailingDate", days: 5 } }),
    rule({ key: "c", bit: 5, validity: { kind: "property", property: "validUntil" } }),
  ];
  const standing = standingItems(
    items,
    facts({
      papers: [paper(1, { properties: { validUntil: "2026-12-01" } })],
      ownItems: [{ place: 2, label: "Ask the master", documentTypes: ["letter"], dueOn: "2026-11-10" }],
    }),
    TODAY,
  );
  const kept = completenessOf(standing, TODAY);

  test("sums up what applies, is missing, due and lapsing", () =>
    expect(kept).toEqual({
      applies: bitOf(0) | bitOf(1) | bitOf(5) | bitOf(42),
      missing: bitOf(1) | bitOf(42),
      received: 0n,
      expired: 0n,
      waived: 0n,
      dueOn: "2026-11-10",
      expiresOn: "2026-12-01",
      changesOn: "2026-12-02",
    }));

  test("counts only what a person may see", () => {
    expect(countsOf(kept, (1n << 62n) - 1n)).toEqual({ done: 2, of: 4 });
    expect(countsOf(kept, bitOf(1) | bitOf(5))).toEqual({ done: 1, of: 2 });
  });

  test("on the day it says, something is different, and not before", () => {
    const at = (day: string): string =>
      standingItems(items, facts({ papers: [paper(1, { properties: { validUntil: "2026-12-01" } })] }), day)
        .map((i) => i.state)
        .join();
    expect(at("2026-12-01")).toBe(at(TODAY));
    expect(at("2026-12-02")).not.toBe(at(TODAY));
  });
});

test.each([
  ["2026-01-31", 1, "2026-02-28"],
  ["2024-02-29", 12, "2025-02-28"],
  ["2026-11-18", 14, "2028-01-18"],
  ["2026-12-31", 6, "2027-06-30"],
])("%s and %i months are %s", (day, months, then) => expect(addMonths(day, months)).toBe(then));
