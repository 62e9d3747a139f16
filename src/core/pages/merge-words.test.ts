import fc from "fast-check";
import type { Word } from "./page-text.ts";
import { hasMoney, mergeWords } from "./merge-words.ts";

const word = (text: string, x: number, width: number, y = 100) => ({ text, box: [x, y, width, 20] as Word["box"] });
const texts = (words: readonly { readonly text: string }[]): readonly string[] => words.map((w) => w.text);

describe("Two readings of a page", () => {
  test("a number that was cut at its separator is taken whole", () =>
    expect(texts(mergeWords([word("Net", 10, 40), word("9,261.", 100, 70), word("80", 175, 22)], [word("9,261.80", 100, 97)]))).toEqual([
      "Net",
      "9,261.80",
    ]));

  test("a number that lost its beginning is taken whole", () =>
    expect(texts(mergeWords([word("261,80", 130, 87)], [word("9.261,80", 100, 117)]))).toEqual(["9.261,80"]));

  test("what both have stands as the sparse reading has it", () =>
    expect(texts(mergeWords([word("INV-2840", 100, 90)], [word("INV-2849", 100, 92)]))).toEqual(["INV-2840"]));

  test("words are never joined to longer ones", () =>
    expect(texts(mergeWords([word("Fuel", 100, 40), word("oil", 150, 30)], [word("Fueloil", 100, 80)]))).toEqual(["Fuel", "oil"]));

  test("what only one of them found is there", () =>
    expect(texts(mergeWords([word("Invoice", 10, 60)], [word("Total", 10, 50, 300)]))).toEqual(["Invoice", "Total"]));

  test("every piece of print that the sparse reading found is covered, and every word was read by one of them", () => {
    const words = fc.array(
      fc.record({
        text: fc.constantFrom("12.50", "7,", "Net", "B"),
        x: fc.nat(300),
        width: fc.integer({ min: 5, max: 90 }),
        y: fc.nat(60),
      }),
      { maxLength: 12 },
    );
    fc.assert(
      fc.property(words, words, (a, b) => {
        const [first, second] = [a, b].map((list) => list.map((w) => word(w.text, w.x, w.width, w.y)));
        const merged = mergeWords(first ?? [], second ?? []);
        for (const w of merged) expect([...(first ?? []), ...(second ?? [])]).toContain(w);
        for (const w of first ?? [])
          expect(
            merged.some(
              (m) =>
                m.box[0] < w.box[0] + w.box[2] && w.box[0] < m.box[0] + m.box[2] && m.box[1] < w.box[1] + 20 && w.box[1] < m.box[1] + 20,
            ),
          ).toBe(true);
      }),
    );
  });
});

test.each([
  [["Net", "12.50", "7.00", "19,50"], true],
  [["645,", "00", "160,", "2.", "9.261,80"], true],
  [["18.11.2026", "No.", "4711", "12.50"], false],
  [[], false],
])("%j has money: %s", (list, is) => expect(hasMoney(list.map((text) => ({ text })))).toBe(is));
