import fc from "fast-check";
import { chooseFreeName } from "./choose-free-name.ts";
import {
  bucketLimits,
  diskLimits,
  endingOf,
  foldName,
  foldPath,
  legalName,
  numberedName,
  numberOf,
  pathFolder,
  utf8Bytes,
  withoutNumber,
} from "./legal-name.ts";

const anyText = fc.oneof(
  fc.string({ unit: "binary", maxLength: 400 }),
  fc.string({ unit: "grapheme", maxLength: 120 }),
  fc.constantFrom("CON", "con.txt", " . ", "...", "a/b\\c", "\u202Egnp.exe", "  x  ", "é", "ﬁ", "ß", "nul .pdf", "COM¹"),
);
const ending = fc.constantFrom("", ".pdf", ".jpeg");

describe("Folder and file names are legal for the connection they go to (promise 5)", () => {
  test("whatever the text, the name has legal length, characters, edges, and is never empty or reserved", () => {
    fc.assert(
      fc.property(anyText, ending, (text, end) => {
        const name = legalName(text, diskLimits, end);
        expect(utf8Bytes(name)).toBeLessThanOrEqual(diskLimits.nameBytesMax);
        expect(name.length).toBeGreaterThan(end.length);
        for (const c of diskLimits.forbidden) expect(name).not.toContain(c);
        expect(/[\p{Cc}\p{Cf}\p{Cs}]/u.test(name)).toBe(false);
        expect(/^[\s.]|[\s.]$/u.test(name)).toBe(false);
        expect(diskLimits.reserved).not.toContain((name.split(".")[0] ?? "").trim().toLowerCase());
        expect(name).toBe(name.normalize("NFC"));
        expect(["", ".", ".."]).not.toContain(name);
      }),
      { numRuns: 1500 },
    );
  });

  test("most names are plain and stay as they are; what looks plain at first but is not does not", () => {
    const mark = fc.constantFrom(..."AZaz09_()&',=@+- .%#{", " ");
    const plain = /^[A-Za-z0-9](?:[A-Za-z0-9_()&',=@+-]| (?! |$))*$/;
    fc.assert(
      fc.property(fc.array(mark, { minLength: 1, maxLength: 12 }), (marks) => {
        const text = marks.join("");
        if (plain.test(text)) expect([legalName(text, bucketLimits), foldName(text)]).toEqual([text, text.toLowerCase()]);
        else expect(legalName(text, { ...diskLimits, forbidden: `${diskLimits.forbidden}_.%#{` })).not.toMatch(/^ |^\.| {2}|[ .]$|[.%#{]/);
      }),
      { numRuns: 1500 },
    );
    expect([legalName("con", diskLimits), legalName("Con", diskLimits), legalName("con", bucketLimits)]).toEqual(["_con", "_Con", "con"]);
  });

  test("making a legal name legal again changes nothing", () => {
    fc.assert(
      fc.property(anyText, (text) => {
        const once = legalName(text, diskLimits);
        expect(legalName(once, diskLimits)).toBe(once);
      }),
      { numRuns: 800 },
    );
  });

  test("a numbered name stays legal and keeps its ending", () => {
    fc.assert(
      fc.property(anyText, ending, fc.integer({ min: 2, max: 99999 }), (text, end, n) => {
        const name = numberedName(legalName(text, diskLimits, end), end, n, diskLimits);
        expect(utf8Bytes(name)).toBeLessThanOrEqual(diskLimits.nameBytesMax);
        expect(name.endsWith(` (${n})${end}`)).toBe(true);
      }),
      { numRuns: 500 },
    );
  });

  test("names chosen one after the other in a folder never fold to the same", () => {
    fc.assert(
      fc.property(
        fc.array(fc.constantFrom("Letter", "letter", "LETTER", "Léttér", "Lettér.", "ﬁle", "file", "straße", "STRASSE"), { maxLength: 25 }),
        (names) => {
          const taken = new Set<string>();
          for (const name of names) taken.add(foldName(chooseFreeName(legalName(name, diskLimits, ".pdf"), ".pdf", taken, diskLimits)));
          expect(taken.size).toBe(names.length);
        },
      ),
      { numRuns: 300 },
    );
  });
});

describe("What folds to the same cannot stand in one folder", () => {
  test.each([
    ["Halven Timber", "Halven timber"],
    ["Café", "Cafe\u0301"],
    ["name.", "name"],
    ["a  b", "a b"],
    ["Straße", "STRASSE"],
    ["ﬁle", "file"],
  ])("%s and %s", (a, b) => expect(foldName(a)).toBe(foldName(b)));
  test("different names stay different", () => expect(foldName("C-1101")).not.toBe(foldName("C-1102")));
});

test.each([
  ["a.pdf", ".pdf"],
  ["A.PDF", ".pdf"],
  ["noending", ""],
  ["a.b c", ""],
  ["x.tar.gz", ".gz"],
  [".hidden", ".hidden"],
])("the ending of %s is %s", (name, end) => expect(endingOf(name)).toBe(end));

describe("The number that tells a name from its namesakes", () => {
  test("is read back as it was put there, and taken off again", () => {
    fc.assert(
      fc.property(anyText, ending, fc.integer({ min: 2, max: 99_999 }), (text, end, n) => {
        const name = legalName(text, diskLimits, end);
        const numbered = numberedName(name, end, n, diskLimits);
        expect(numberOf(numbered)).toBe(n);
        // Of a name that had to be cut for its number only the beginning comes back.
        if (utf8Bytes(name) + utf8Bytes(` (${n})`) <= diskLimits.nameBytesMax) expect(withoutNumber(numbered)).toBe(name);
      }),
      { numRuns: 300 },
    );
  });
  test.each([
    ["Letter.pdf", null],
    ["Letter (2).pdf", 2],
    ["Suppliers/Tarrin (3)", 3],
    ["Letter (2) copy.pdf", null],
    ["(2)", null],
  ])("of %s is %s", (name, n) => expect(numberOf(name)).toBe(n));
});

test("paths that are folded one after the other come out as each by itself", () => {
  const path = fc.array(fc.constantFrom("Orrin", "ORRIN ", "Straße", "2026", "a.b", "ﬁ"), { minLength: 1, maxLength: 5 });
  fc.assert(
    fc.property(fc.array(path, { maxLength: 8 }), (paths) => {
      const fold = pathFolder();
      for (const p of paths) expect(fold(p.join("/"))).toBe(foldPath(p));
    }),
  );
});
