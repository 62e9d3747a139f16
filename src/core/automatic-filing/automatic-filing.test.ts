import fc from "fast-check";
import {
  type CheckedPaper,
  decideByItself,
  differencesOf,
  expectedOf,
  type AutomaticFilingCase,
  automaticFilingSettingsSchema,
  isHeldBack,
  maySwitchOn,
} from "./automatic-filing-rule.ts";
import { CONFIDENCE, neededFor, precisionBound } from "./precision-bound.ts";

describe("the bound", () => {
  test.each([
    [0, 0, 0],
    [30, 30, 0.905],
    [298, 298, 0.99],
    [598, 598, 0.995],
    [99, 100, 0.953],
    [95, 100, 0.898],
    [1, 2, 0.025],
  ] as const)("%i of %i right is at least %d", (right, all, bound) => {
    expect(precisionBound(right, all)).toBeCloseTo(bound, 2);
  });
  test("rises with what is right, falls with what is wrong, and stays below the share seen", () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 300 }), fc.integer({ min: 1, max: 300 }), (a, b) => {
        const [right, all] = [Math.min(a, b), Math.max(a, b)];
        const bound = precisionBound(right, all);
        expect(bound).toBeLessThanOrEqual(right / all);
        expect(precisionBound(right + 1, all + 1)).toBeGreaterThanOrEqual(bound);
        expect(precisionBound(right, all + 1)).toBeLessThanOrEqual(bound);
      }),
    );
  });
  test("says how many are needed without an error", () => {
    expect(neededFor(0.98)).toBe(149);
    expect(precisionBound(149, 149)).toBeGreaterThanOrEqual(0.98);
    expect(precisionBound(148, 148)).toBeLessThan(0.98);
    expect(neededFor(1)).toBe(Infinity);
    expect(CONFIDENCE).toBe(0.95);
  });
});

const settings = automaticFilingSettingsSchema.parse({});
const papers = (right: number, wrong: number, left: number): CheckedPaper[] => [
  ...Array.from({ length: right }, () => ({ wouldFile: true, isRight: true })),
  ...Array.from({ length: wrong }, () => ({ wouldFile: true, isRight: false })),
  ...Array.from({ length: left }, () => ({ wouldFile: false, isRight: null })),
];
test("what is to be expected, and whether it may be switched on", () => {
  const expected = expectedOf(papers(160, 0, 40), precisionBound);
  expect(expected).toMatchObject({ checked: 200, wouldFile: 160, right: 160, share: 0.8, precision: 1 });
  expect(maySwitchOn(expected, settings)).toBe("yes");
  expect(maySwitchOn(expectedOf(papers(29, 0, 0), precisionBound), { ...settings, asked: 0.5 })).toBe("too-few");
  expect(maySwitchOn(expectedOf(papers(158, 2, 0), precisionBound), settings)).toBe("not-good-enough");
  expect(expectedOf([], precisionBound)).toMatchObject({ share: 0, precision: null, bound: 0 });
});

const fine: AutomaticFilingCase = {
  verdict: "sure",
  clashes: 0,
  doubts: 0,
  typeCertainty: 0.97,
  hasSame: false,
  cuts: 0,
  hasProblem: false,
  unsureProperties: 0,
  compared: "fits",
};
test.each([
  [{}, null],
  [{ compared: null }, null],
  [{ compared: "within" }, null],
  [{ verdict: "likely" }, "not-sure"],
  [{ verdict: null }, "not-sure"],
  [{ clashes: 1, verdict: "warning" }, "clash"],
  [{ doubts: 1 }, "doubt"],
  [{ typeCertainty: 0.75 }, "type-not-sure"],
  [{ typeCertainty: null }, "type-not-sure"],
  [{ hasSame: true }, "same-paper"],
  [{ cuts: 1 }, "several-papers"],
  [{ hasProblem: true }, "problem"],
  [{ unsureProperties: 1 }, "incomplete"],
  [{ compared: "differs" }, "differs"],
] as readonly (readonly [Partial<AutomaticFilingCase>, string | null])[])("a document with %j: %s", (over, why) => {
  expect(decideByItself({ ...fine, ...over })).toBe(why);
});

test("a sample is held back by lot", () => {
  expect(isHeldBack(0.049, settings)).toBe(true);
  expect(isHeldBack(0.051, settings)).toBe(false);
});

test("a decision is right when type, record and what it is booked by are what the person said; more clips do not make it wrong", () => {
  const record = { company: "MF", type: "purchaseOrder", key: "PO-1" };
  const decided = { documentType: "supplierInvoice", record, properties: { documentNumber: "77", total: "12.00" } };
  const filed = { ...decided, clips: [{ ...record, key: "PO-2" }, record] };
  expect(differencesOf(decided, filed)).toEqual([]);
  expect(differencesOf(decided, { ...filed, clips: [{ ...record, key: "PO-2" }] })).toEqual(["record"]);
  expect(differencesOf(decided, { ...filed, documentType: "letter", properties: { documentNumber: "78" } })).toEqual([
    "documentType",
    "documentNumber",
    "total",
  ]);
});
