import fc from "fast-check";
import { compileClassBits } from "./compile-class-bits.ts";
import { actions, allowsAnywhere, allowsDocument, allowsRecord, companiesWith, type Grant, recordScopes } from "./grants.ts";

const clerk: Grant = {
  company: "MF",
  recordTypes: ["purchaseOrder"],
  documentTypes: ["supplierInvoice"],
  confidential: false,
  actions: ["see", "file"],
};
const paper = { company: "MF", documentType: "supplierInvoice", confidential: false, recordTypes: ["purchaseOrder", "supplierInvoice"] };

describe("A grant covers", () => {
  test("documents of its types clipped to at least one of its record types", () =>
    expect(allowsDocument([clerk], "see", paper)).toBe(true));
  test.each([
    ["another company", { company: "QS" }],
    ["another document type", { documentType: "letter" }],
    ["confidential ones", { confidential: true }],
    ["other record types only", { recordTypes: ["crewMember"] }],
    ["documents of no record", { recordTypes: [] }],
  ])("but not %s", (_, change) => expect(allowsDocument([clerk], "see", { ...paper, ...change })).toBe(false));
  test("nothing that it does not name as an action", () => expect(allowsDocument([clerk], "edit", paper)).toBe(false));
  test("two grants do not add up to one: type from the one and company from the other is not covered", () => {
    const other: Grant = { ...clerk, company: "QS", documentTypes: ["letter"] };
    expect(allowsDocument([clerk, other], "see", { ...paper, company: "QS" })).toBe(false);
  });
  test("records by company and type", () => {
    expect(allowsRecord([clerk], "see", "MF", "purchaseOrder")).toBe(true);
    expect(allowsRecord([clerk], "see", "MF", "crewMember")).toBe(false);
    expect(allowsAnywhere([clerk], "file", "QS")).toBe(false);
    expect(companiesWith([clerk, clerk], "see")).toEqual(["MF"]);
    expect(recordScopes([clerk], "see", ["purchaseOrder", "vessel"])).toEqual([{ company: "MF", type: "purchaseOrder" }]);
  });
});

test("compiled bits say of every class exactly what the grants say (promise 6)", () => {
  const set = fc.oneof(fc.constant("all" as const), fc.subarray(["a", "b", "c"]));
  const grant = fc.record({
    company: fc.constantFrom("MF", "QS"),
    recordTypes: set,
    documentTypes: set,
    confidential: fc.boolean(),
    actions: fc.subarray([...actions]),
  });
  const cls = fc.record({
    id: fc.integer({ min: 0, max: 300 }),
    company: fc.constantFrom("MF", "QS"),
    documentType: fc.constantFrom("a", "b", "c"),
    confidential: fc.boolean(),
    recordTypes: fc.subarray(["a", "b", "c"]),
  });
  fc.assert(
    fc.property(fc.array(grant, { maxLength: 4 }), fc.uniqueArray(cls, { selector: (c) => c.id, maxLength: 40 }), (grants, classes) => {
      const bits = compileClassBits(grants, "see", classes);
      for (const c of classes) expect((((bits[c.id >> 3] ?? 0) >> (c.id & 7)) & 1) === 1).toBe(allowsDocument(grants, "see", c));
      const set1 = [...bits].reduce((n, b) => n + b.toString(2).replaceAll("0", "").length, 0);
      expect(set1).toBe(classes.filter((c) => allowsDocument(grants, "see", c)).length);
    }),
    { numRuns: 400 },
  );
});
