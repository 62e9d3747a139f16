import fc from "fast-check";
import { foldReference, foldText } from "./fold-text.ts";

test.each([
  ["Brae & Hölm", "brae & holm"],
  ["  Two   blanks ", "two blanks"],
  ["Straße Øre Ærø", "strasse ore aero"],
  ["tab\there", "tab here"],
  ["", ""],
])("%j folds to %j", (text, folded) => {
  expect(foldText(text)).toBe(folded);
});

test.each([
  ["PO 6127", "po6127"],
  ["po-6127", "po6127"],
  ["Ré/12.ü", "re12u"],
])("the reference %j is %j", (text, folded) => {
  expect(foldReference(text)).toBe(folded);
});

test("plain letters fold as they do beside others", () => {
  fc.assert(
    fc.property(fc.string({ unit: fc.integer({ min: 32, max: 126 }).map((n) => String.fromCharCode(n)), maxLength: 60 }), (text) => {
      expect(foldText(`${text}e`)).toBe(foldText(`${text}é`));
      expect(foldReference(`${text}e`)).toBe(foldReference(`${text}é`));
    }),
  );
});
