import * as fc from "fast-check";
import { linesOfTable, linesOfText } from "../reading/page-lines.ts";
import { headingsOn } from "../reading/judge-type.ts";
import { readPaper } from "../reading/read-paper.ts";
import { context } from "../reading/test-page.ts";
import { findInWords, findTermsInWords } from "./find-in-words.ts";
import { cellsOfTable, MAIL_TEXT_LINE, pageOfTable, pageOfText, textOfMail, typedPage, wordsOfText } from "./text-page.ts";

describe("Running text", () => {
  test("every word is where it begins in the text, and a line below the one before", () => {
    const text = "Invoice\t77-3108\r\n\r\n  Total   due £120.00";
    const words = wordsOfText(text).flat();
    expect(words.map((w) => text.slice(w.at, w.at + w.text.length))).toEqual(["Invoice", "77-3108", "Total", "due", "£120.00"]);
    expect(words.map((w) => w.box[1])).toEqual([0, 0, 24, 24, 24]);
    // A tab and two blanks part what stands in columns.
    expect(words.map((w) => w.isApart)).toEqual([true, true, true, true, false]);
    expect(linesOfText(text).lines.map((l) => l.map((p) => p.text))).toEqual([
      ["Invoice", "77-3108"],
      ["Total", "due £120.00"],
    ]);
  });
  test("whatever the text is, its words are all there, in order, and none overlaps another", () => {
    fc.assert(
      fc.property(
        fc.string({ unit: fc.constantFrom("a", "Ä", "7", " ", "\t", "\n", "\r\n", "\f", "\u00a0", "😀"), maxLength: 120 }),
        (text) => {
          const words = wordsOfText(text).flat();
          expect(words.map((w) => w.text.replace(/\s/gu, "")).join("")).toBe(text.replace(/\s/gu, ""));
          words.forEach((word, i) => {
            expect(text.slice(word.at).trimStart().startsWith(word.text)).toBe(true);
            const last = words[i - 1];
            if (last && last.box[1] === word.box[1]) expect(word.box[0]).toBeGreaterThanOrEqual(last.box[0] + last.box[2]);
          });
        },
      ),
    );
  });
  test("a long text ends where nobody reads on", () => {
    expect(wordsOfText("a\n".repeat(5000))).toHaveLength(1500);
    expect(wordsOfText("a ".repeat(5000)).flat()).toHaveLength(1000);
  });
  test("what is read off it is found where it is shown; an e-invoice's text is shown nowhere", () => {
    const mail = { subject: "Our invoice\r\nof today", text: "Please find\nInvoice number: 77-3108" };
    const number = (isShown: boolean) =>
      readPaper([linesOfText(textOfMail(mail), { isShown })], context).readings.find((r) => r.field === "documentNumber");
    const [hit] = findInWords(pageOfText(textOfMail(mail)).words, "77-3108");
    expect(number(true)).toMatchObject({ value: "77-3108", page: 1, from: "text" });
    expect(number(true)?.box?.slice(0, 2)).toEqual(hit?.slice(0, 2));
    expect(number(false)).toMatchObject({ value: "77-3108", page: null, box: null });
    // The text by itself has the same places, from the line it begins on.
    expect(wordsOfText(mail.text, MAIL_TEXT_LINE).flat().at(-1)?.box).toEqual(wordsOfText(textOfMail(mail)).flat().at(-1)?.box);
  });
});

test("what is shown of a document without pages: a mail with its subject, each sheet of a table, its text; of an e-invoice none of it", () => {
  const said = (...given: Parameters<typeof typedPage>): string | undefined =>
    typedPage(...given)
      ?.words.map((w) => w.text)
      .join(" ");
  const table = {
    kind: "table",
    sheets: [
      { name: "", rows: [["a"]] },
      { name: "Two", rows: [["b"]] },
    ],
  } as const;
  expect(said({ kind: "mail", subject: "About", text: "this" }, "kept otherwise", 1)).toBe("About this");
  expect([said(table, null, 1), said(table, null, 2), said(table, null, 3)]).toEqual(["a", "Two b", undefined]);
  expect([said({ kind: "text" }, "one", 1), said(null, "one", 1), said(null, "one", 2), said(null, null, 1)]).toEqual([
    "one",
    "one",
    undefined,
    undefined,
  ]);
  expect(said({ kind: "invoice" }, "one", 1)).toBeUndefined();
});
test("a greeting or a heading of typed text is no sender; a company is", () => {
  const party = (text: string) => readPaper([linesOfText(text)], context).readings.find((r) => r.field === "party")?.value;
  expect(party("Your order PO-6099\n\nGood morning\n\nplease find our invoice")).toBeUndefined();
  expect(party("Good morning\n\nSkarra Cold Stores Ltd\nplease find our invoice")).toBe("Skarra Cold Stores Ltd");
  expect(
    readPaper([linesOfTable({ name: "", rows: [["Goods"], ["Brown crab"]] }, 1)], context).readings.find((r) => r.field === "party"),
  ).toBeUndefined();
});

describe("A table", () => {
  const named = (rows: readonly (readonly string[])[], name = "") => ({ name, rows });
  const rows = [
    ["Invoice number", "", "Total due"],
    ["77-3108", "", "£120.00"],
  ];
  test("its cells stand in columns, so that a heading stands above its value", () => {
    const cells = cellsOfTable(rows);
    expect(cells.map((c) => [c.row, c.column, c.words[0]?.box[0]])).toEqual([
      [0, 0, 0],
      [0, 2, 126],
      [1, 0, 0],
      [1, 2, 126],
    ]);
    const read = readPaper([linesOfTable(named(rows), 2)], context).readings;
    expect(read.find((r) => r.field === "documentNumber")).toMatchObject({ value: "77-3108", page: 2, from: "text" });
  });
  test("the sheet's name stands above its cells, and says what the document is as a heading does", () => {
    const sheet = named([["Booking", "B-20347"]], "Packing list");
    expect(pageOfTable(sheet, 1).words.map((w) => [w.text, w.box[1]])).toEqual([
      ["Packing", 0],
      ["list", 0],
      ["Booking", 12],
      ["B-20347", 12],
    ]);
    expect(headingsOn([linesOfTable(sheet, 1)])[0]).toMatchObject({ text: "Packing list", page: 1 });
  });
  test("a cell of any length stays in its column, and a table of any length has an end", () => {
    const [first, second] = cellsOfTable([["word ".repeat(60).trim(), "beside"]]);
    const end = first?.words.at(-1)?.box;
    expect((end?.[0] ?? 0) + (end?.[2] ?? 0)).toBeLessThanOrEqual(second?.words[0]?.box[0] ?? 0);
    expect(pageOfTable(named(Array.from({ length: 3000 }, () => ["a"])), 1).words).toHaveLength(500);
    expect(linesOfTable(named([]), 1).lines).toEqual([]);
  });
});

describe("The words of a search on a page", () => {
  const words = ["Fuel", "for", "MV", "Heron,", "invoice", "77/3108", "fuel", "oil"].map((text, i) => ({
    text,
    box: [i * 50, 100, 40, 10] as const,
  }));
  test.each([
    ["fuel heron", [0, 150, 300]],
    ['"mv heron"', [100]],
    ["inv*", [200]],
    // A number in another spelling.
    ["77-3108", [250]],
    // What must not be there is not marked.
    ["oil -fuel", [350]],
    ["nothing", []],
  ] as const)("%s is marked where it stands", (query, lefts) => {
    expect(findTermsInWords(words, query).map((box) => box[0])).toEqual(lefts);
  });
});
