import fc from "fast-check";
import { type LabelFormat, matchLabel, wrongWithPattern } from "./label-format.ts";
import { OWN_CODE_MAX, type OwnCodeKind, parseOwnCode, writeOwnCode } from "./own-code.ts";

const kind = fc.constantFrom<OwnCodeKind>("coverSheet", "label", "separator");
const number = fc.integer({ min: 0, max: OWN_CODE_MAX });

describe("Codes of our own", () => {
  test("the sum of a code with its check digit leaves 1 over 37, as the standard has it", () => {
    const signs = "0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZ*";
    fc.assert(
      fc.property(kind, number, (k, n) => {
        const text = writeOwnCode({ kind: k, number: n }).replace("-", "");
        const before = [...text.slice(0, -1)].reduce((sum, c) => ((sum + signs.indexOf(c)) * 2) % 37, 0);
        expect((before + signs.indexOf(text.at(-1) ?? "")) % 37).toBe(1);
      }),
    );
  });
  test("what is written is read again, also in small letters and with blanks", () => {
    fc.assert(
      fc.property(kind, number, (k, n) => {
        const text = writeOwnCode({ kind: k, number: n });
        expect(parseOwnCode(text)).toEqual({ kind: k, number: n });
        expect(parseOwnCode(` ${text.toLowerCase().slice(0, 5)} ${text.toLowerCase().slice(5)} `)).toEqual({ kind: k, number: n });
      }),
    );
  });
  test("any one wrong character is noticed", () => {
    fc.assert(
      fc.property(number, fc.integer({ min: 3, max: 9 }), fc.constantFrom(..."0123456789ABCDEFGHJKMNPQRSTVWXYZ"), (n, at, other) => {
        const text = writeOwnCode({ kind: "coverSheet", number: n });
        fc.pre(text[at] !== other);
        expect(parseOwnCode(text.slice(0, at) + other + text.slice(at + 1))).toBeNull();
      }),
    );
  });
  test("any two swapped neighbours are noticed", () => {
    fc.assert(
      fc.property(number, fc.integer({ min: 3, max: 8 }), (n, at) => {
        const text = writeOwnCode({ kind: "label", number: n });
        fc.pre(text[at] !== text[at + 1]);
        expect(parseOwnCode(text.slice(0, at) + (text[at + 1] ?? "") + (text[at] ?? "") + text.slice(at + 2))).toBeNull();
      }),
    );
  });
  test.each(["", "CS-", "XX-0000017", "CS-00000I7", "AC-000001", "4006381333931"])("%p is none of ours", (text) =>
    expect(parseOwnCode(text)).toBeNull(),
  );
  test("a number that has no place is refused", () => expect(() => writeOwnCode({ kind: "label", number: OWN_CODE_MAX + 1 })).toThrow());
});

const format = (pattern: string): LabelFormat => ({
  pattern,
  recordType: "freightBooking",
  company: null,
  documentType: null,
  begins: true,
});

describe("Label formats of the business system", () => {
  test.each([
    [String.raw`^B-\d{5}$`, "B-20418", "B-20418"],
    [String.raw`^BK:(B-\d{5})$`, "BK:B-20418", "B-20418"],
    [String.raw`B-\d{5}`, "xB-20418", null],
    [String.raw`[A-Z]{2}(\d+)`, "PO6127", "6127"],
    ["(a+)+", "aaaa", null],
  ])("%p on %p names %p", (pattern, text, key) => expect(matchLabel(text, [format(pattern)])?.key ?? null).toBe(key));
  test.each(["(a+)+$", "((a))", "a|b", "(?:x)", "\\1", "[", "a*b*c*d*", "é", "(a)(b)"])("%p is not taken as a pattern", (pattern) =>
    expect(wrongWithPattern(pattern)).not.toBeNull(),
  );
  test.each([String.raw`^B-\d{5}$`, "PO[0-9]+", String.raw`(S-\d{4})/.*`])("%p is taken", (pattern) =>
    expect(wrongWithPattern(pattern)).toBeNull(),
  );
  test("no pattern that is taken runs for long", () => {
    const slow = format(".*.*x");
    const began = performance.now();
    matchLabel("a".repeat(64), [slow]);
    expect(performance.now() - began).toBeLessThan(200);
  });
});
