import fc from "fast-check";
import { foldReference, foldText } from "../shared/fold-text.ts";
import { makeSnippet } from "./make-snippet.ts";
import { parseFind, tsqueryOf, wordsOf } from "./parse-find.ts";
import { widenFind } from "./widen-find.ts";
import { referencesIn } from "./references.ts";

describe("What was typed becomes a query", () => {
  const cases: readonly (readonly [string, string])[] = [
    ["langoustine", "langoustine"],
    ["two words", "two & words"],
    ['"two words"', "(two <-> words)"],
    ["fuel -levy", "fuel & !levy"],
    ["shack*", "shack:*"],
    ["B-20418", "((b <-> 20418) | b20418)"],
    ["Hölm", "holm"],
    ["-only", ""],
    ["", ""],
    ["& | ! ( ) <-> :* '", ""],
    ["a:b'c", "(a <-> b <-> c)"],
    ["„quoted words“", "(quoted <-> words)"],
  ];
  test.each(cases)("%s → %s", (typed, query) => expect(tsqueryOf(parseFind(typed))).toBe(query));
  test("nothing typed can break out of the query language", () => {
    fc.assert(
      fc.property(fc.string({ unit: "binary", maxLength: 120 }), (typed) => {
        expect(tsqueryOf(parseFind(typed)).replace(/[\p{L}\p{N}]+|:\*|<->|[&|!() ]/gu, "")).toBe("");
      }),
      { numRuns: 800 },
    );
  });
});

describe("References stand in the index whole", () => {
  test("without punctuation, and without leading zeros", () =>
    expect(referencesIn("see PO-6127, inv. 0077/3108 of 18.11.2026")).toEqual(["po6127", "00773108", "773108", "18112026"]));
  test("words without digits and noise are left out", () => expect(referencesIn(`plain ${"9".repeat(60)} x1`)).toEqual([]));
  test("a reference is found however it is spelt", () =>
    expect(new Set(["B-20418", "b 20418", "B.20418", "b20418"].map(foldReference)).size).toBe(1));
});

describe("A snippet", () => {
  const body = `${"word ".repeat(80)}the quick langoustine went to Quell Point ${"more ".repeat(80)}`;
  test("shows the first hit with words around it, and counts them all", () => {
    const { parts, hits } = makeSnippet(body, parseFind("langoustine quell"));
    expect(hits).toBe(2);
    expect(parts.filter((p) => p.hit).map((p) => p.text)).toEqual(["langoustine", "Quell"]);
    expect(parts[0]?.text).toBe("… ");
  });
  test("its hits are exact pieces of the text (promise 8)", () => {
    fc.assert(
      fc.property(fc.array(fc.string({ maxLength: 12 }), { maxLength: 60 }), fc.string({ maxLength: 20 }), (words, typed) => {
        const text = words.join(" ");
        for (const part of makeSnippet(text, parseFind(typed)).parts.filter((p) => p.hit)) expect(text).toContain(part.text);
      }),
      { numRuns: 300 },
    );
  });
  test("finds references by any spelling", () => expect(makeSnippet("Your order: PO-6127.", parseFind("po6127")).hits).toBe(1));
});

test.each([
  ["Crème  Brûlée", "creme brulee"],
  ["Straße", "strasse"],
  ["ÆRØ", "aero"],
  [" a\n b ", "a b"],
])("%s folds to %s", (text, folded) => expect(foldText(text)).toBe(folded));
test("words are cut at everything else", () =>
  expect(wordsOf("MV Pale-Heron: 4,862.50")).toEqual(["mv", "pale", "heron", "4", "862", "50"]));

describe("A question that found nothing can be asked wider", () => {
  const cases: readonly (readonly [string, string | null])[] = [
    ["bunkering", "bunker*"],
    ["oils", null],
    ["langoustine PO-6127", 'langoust* "po 6127"'],
    ["-levy invoices", "-levy invoi*"],
    ["bunk*", null],
    ['"exact words"', null],
    ["", null],
  ];
  test.each(cases)("%s → %s", (typed, wider) => expect(widenFind(typed)).toBe(wider));
});
