import { type FindingCode, findingCodes } from "./compare-invoice.ts";
import { comparedAs } from "./compared-as.ts";
import { matchLines } from "./match-lines.ts";
import { amountsAgree, pricesAgree, quantitiesAgree, startingTolerance, toleranceSchema } from "./tolerance.ts";
import { wordsOfFinding } from "./words.ts";

test.each(findingCodes.map((code) => [code] as const))("%s is worded whole, with nothing left open", (code: FindingCode) => {
  const words = wordsOfFinding({ code, line: null, what: "Deck paint", paper: "3", record: "2" }, "GBP");
  expect(words).not.toMatch(/[{}]/);
  expect(words.length).toBeGreaterThan(8);
  expect(wordsOfFinding({ code, line: null, what: "x".repeat(90), paper: null, record: null }, null)).not.toMatch(/null|undefined|\{/);
});

test("sums, prices and quantities have their thousands apart; a number that names something has not", () => {
  const said = (code: FindingCode, what: string, paper: string | null = null, record: string | null = null) =>
    wordsOfFinding({ code, line: null, what, paper, record }, "GBP");
  expect(said("total-under", "5385.00")).toBe("GBP 5,385.00 less than ordered");
  expect(said("price-over", "Engine 12000", "11250.50", "9800")).toBe("Engine 12000: 11,250.50 each, 9,800 was ordered");
  expect(said("quantity-over-order", "Fuel", "1234567", "640")).toBe("Fuel: 1,234,567 invoiced, 640 ordered");
  expect(said("same-invoice", "77310")).toBe("77310 is the same invoice");
});

describe("what is let pass", () => {
  test("sums by share or amount, the greater counts", () => {
    expect(amountsAgree(100, 100.004, startingTolerance)).toBe("same");
    expect(amountsAgree(104.99, 100, startingTolerance)).toBe("within");
    expect(amountsAgree(105.01, 100, startingTolerance)).toBe("apart");
    expect(amountsAgree(1019, 1000, startingTolerance)).toBe("within");
    expect(amountsAgree(-100, 100, startingTolerance)).toBe("apart");
  });
  test("prices by share alone, and what is printed to two places is the same", () => {
    expect(pricesAgree(0.71, 0.712, startingTolerance)).toBe("same");
    expect(pricesAgree(0.8, 0.71, startingTolerance)).toBe("apart");
    expect(pricesAgree(101.9, 100, startingTolerance)).toBe("within");
  });
  test("quantities", () => {
    expect(quantitiesAgree(6400, 6400, startingTolerance)).toBe("same");
    expect(quantitiesAgree(6420, 6400, startingTolerance)).toBe("within");
    expect(quantitiesAgree(11, 10, startingTolerance)).toBe("apart");
  });
  test("settings that are none are refused", () => {
    for (const wrong of [{ share: 0.9 }, { share: -0.1 }, { amount: "5,00" }, { amount: "-1" }, { quantityShare: 2 }])
      expect(toleranceSchema.safeParse(wrong).success).toBe(false);
  });
});

test("documents that are compared, and those that are not", () => {
  expect(comparedAs("supplierInvoice")).toBe("invoice");
  expect(comparedAs("packingList")).toBe("delivery");
  expect(comparedAs("letter")).toBeNull();
  expect(comparedAs("constructor")).toBeNull();
});

describe("which line is which", () => {
  const line = (text: string, quantity: number | null = null, price: number | null = null, item?: string) => ({
    text,
    quantity,
    price,
    ...(item ? { item } : {}),
  });
  const cases: readonly (readonly [
    string,
    ReturnType<typeof line>[],
    ReturnType<typeof line>[],
    readonly (readonly [number, number])[],
  ])[] = [
    ["words in another order, abbreviated", [line("red paint deck")], [line("Toner"), line("Deck paint, oxide red")], [[0, 1]]],
    ["one letter misread", [line("Impelier kit")], [line("Impeller kit, sea-water pump")], [[0, 0]]],
    [
      "the article's number within the words",
      [line("4410 Life-jacket")],
      [line("Jacket for adults", 1, 2, "4410"), line("Rope")],
      [[0, 0]],
    ],
    [
      "two of the same text are told apart by their quantity",
      [line("Toner", 5), line("Toner", 6)],
      [line("Toner", 6), line("Toner", 5)],
      [
        [0, 1],
        [1, 0],
      ],
    ],
    ["what has nothing in common stays alone", [line("Ship's biscuit")], [line("Deck paint")], []],
  ];
  test.each(cases)("%s", (_what, left, right, pairs) => {
    expect([...matchLines(left, right)].sort()).toEqual([...pairs].map((p) => [...p]).sort());
  });
});
