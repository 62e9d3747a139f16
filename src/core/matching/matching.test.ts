import fc from "fast-check";
import { compareTexts } from "./compare-texts.ts";
import { bitsApart, likeness, fingerprintOfText } from "./text-fingerprint.ts";

const words = (n: number, seed: number): string[] => Array.from({ length: n }, (_, i) => `w${(i * 7919 + seed * 104729) % 4001}`);
const print = (text: string) => {
  const made = fingerprintOfText(text);
  if (!made) throw new Error("no print");
  return made;
};

describe("The print of a text", () => {
  test("is the same whatever the spacing, lines, case and punctuation", () => {
    const text = words(40, 1).join(" ");
    const other = words(40, 1)
      .map((w, i) => (i % 3 === 0 ? `${w.toUpperCase()},` : `(${w})`))
      .join("\n\n  ");
    expect(print(other).whole).toBe(print(text).whole);
    expect(likeness(print(other).least, print(text).least)).toBe(1);
  });
  test("of nearly the same text is nearly the same, and shares a group; of another text it is not", () => {
    const base = words(300, 2);
    const near = base.map((w, i) => (i === 50 || i === 51 ? "changed" : w));
    const [a, b, c] = [print(base.join(" ")), print(near.join(" ")), print(words(300, 3).join(" "))];
    expect(likeness(a.least, b.least)).toBeGreaterThan(0.85);
    expect(a.bands.some((band) => b.bands.includes(band))).toBe(true);
    expect(likeness(a.least, c.least)).toBeLessThan(0.2);
    expect(a.whole).not.toBe(b.whole);
  });
  test("estimates the share of triples in common", () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 200 }), (from) => {
        const long = Array.from({ length: 400 }, (_, i) => `x${i}`);
        const other = long.slice(from);
        const share = (other.length - 2) / (long.length - 2);
        expect(Math.abs(likeness(print(long.join(" ")).least, print(other.join(" ")).least) - share)).toBeLessThan(0.25);
      }),
    );
  });
  test("a few words have none", () => expect(fingerprintOfText("page 1 of 2")).toBeNull());
});

test("bits that differ are counted, also of negative numbers", () => {
  expect(bitsApart(0b1011n, 0b1101n)).toBe(2);
  expect(bitsApart(-1n, 0n)).toBe(64);
});

test("what differs between two texts is listed once, in order", () =>
  expect(compareTexts("Invoice 88-1201 total 40.00 GBP GBP", "Invoice 88-1202 total 40.00 GBP")).toEqual({
    onlyHere: ["88-1201", "gbp"],
    onlyThere: ["88-1202"],
  }));
