import { isIban, mendIban, ownDomain, parseVatNumber, shapeOf, toFigures } from "./identifiers.ts";
import { meaningsAtEnd, meaningsOf } from "./labels.ts";
import { parseAmount } from "./parse-amount.ts";
import { parsePaperDay } from "./parse-paper-day.ts";
import { tellLanguage } from "./tell-language.ts";
import { valueOfWords } from "./value-of-words.ts";

describe("An amount", () => {
  const table: readonly (readonly [text: string, value: string | null, style?: "." | ","])[] = [
    ["1,234.56", "1234.56"],
    ["1.234,56", "1234.56"],
    ["1'234.56", "1234.56"],
    ["1 234,56", "1234.56"],
    ["1\u00a0234\u00a0567,89", "1234567.89"],
    ["1234.5", "1234.50"],
    ["12,50-", "-12.50"],
    ["(12.50)", "-12.50"],
    ["-9,996.24", "-9996.24"],
    ["120,–", "120.00"],
    ["0.712", "0.712"],
    ["4", "4.00"],
    ["1.234", "1234.00", ","],
    ["1.234", "1.234", "."],
    ["12.34.56", null],
    ["1,23,456", null],
    ["77-3108", null],
    ["", null],
    ["1 23", null],
  ];
  test.each(table.map(([text, value, style]) => ({ text, value, style: style ?? null })))("$text is $value", ({ text, value, style }) =>
    expect(parseAmount(text, style)?.value ?? null).toBe(value),
  );
  test("that could be a thousand or one and a bit says both", () =>
    expect(parseAmount("1.234")).toEqual({ value: "1234.00", other: "1.234", places: null }));
});

describe("A day on a document", () => {
  const table: readonly (readonly [text: string, days: readonly string[]])[] = [
    ["18 November 2026", ["2026-11-18"]],
    ["18. November 2026", ["2026-11-18"]],
    ["18 Nov 26", ["2026-11-18"]],
    ["November 18, 2026", ["2026-11-18"]],
    ["18/11/2026", ["2026-11-18"]],
    ["18.11.26", ["2026-11-18"]],
    ["2026-11-18", ["2026-11-18"]],
    ["20261118", ["2026-11-18"]],
    ["le 1er mars 2026", ["2026-03-01"]],
    ["3. März 2026", ["2026-03-03"]],
    ["14 août 2026", ["2026-08-14"]],
    ["10-Nov-2026", ["2026-11-10"]],
    ["03/04/2026", ["2026-04-03", "2026-03-04"]],
    ["03.04.2026", ["2026-04-03"]],
    ["11/18/2026", ["2026-11-18"]],
    ["31/02/2026", []],
    ["12 Marine 2026", []],
    ["4711", []],
    ["1234-56-78", []],
  ];
  test.each(table)("%s is %j", (text, days) => expect(parsePaperDay(text)?.values ?? []).toEqual(days));
});

describe("Identifiers", () => {
  test("an IBAN is one by its check digits", () => {
    expect(isIban("GB80MRWK00000000450253")).toBe(true);
    expect(isIban("GB81MRWK00000000450253")).toBe(false);
    expect(isIban("GB80MRWK0000000045025")).toBe(false);
  });
  test("an IBAN read off a picture is put right where only figures can stand", () => {
    expect(mendIban("GB8O MRWK 0000 OOOO 45O2 53")).toBe("GB80MRWK00000000450253");
    expect(mendIban("GB8O MRWK 0000 OOOO 45O2 54")).toBeNull();
  });
  test.each([
    ["GB 700 0613 46", "GB700061346"],
    ["DE 123456789", "DE123456789"],
    ["FR 12 345678901", "FR12345678901"],
    ["GB123", null],
    ["XX123456789", null],
  ])("VAT number %s is %s", (text, value) => expect(parseVatNumber(text)).toBe(value));
  test("references that look alike have one shape", () => {
    expect(shapeOf("po6l27")).toBe(shapeOf("p06127"));
    expect(shapeOf("po6127")).not.toBe(shapeOf("po6172"));
    expect(toFigures("lO7")).toBe("107");
  });
  test("a shared mail domain names nobody", () => {
    expect(ownDomain("A <a@tarrin-fuels.example>")).toBe("tarrin-fuels.example");
    expect(ownDomain("a@gmail.com")).toBeNull();
  });
});

describe("A label", () => {
  test.each([
    ["Invoice No.", "documentNumber"],
    ["Rechnungs-Nr.:", "documentNumber"],
    ["N° de facture", "documentNumber"],
    ["Your order:", "orderReference"],
    ["Ihre Bestellung", "orderReference"],
    ["Bon de commande", "orderReference"],
    ["Net à payer", "total"],
    ["Zahlbar bis", "dueDate"],
    ["Kd.-Nr.", "customerNumber"],
    ["IMO No", "otherNumber"],
  ])("%s means %s", (label, meaning) => expect(meaningsOf(label).map((m) => m.meaning)).toContain(meaning));
  test("is found at the end of a run of words", () =>
    expect(meaningsAtEnd(["MV", "Pale", "Heron", "Delivered:"])[0]?.meaning).toBe("deliveryDate"));
});

describe("Words that were pointed at", () => {
  test.each([
    ["date", "Date: 18.11.2026", "2026-11-18"],
    ["date", "not a day", null],
    ["amount", "GBP 5,835.00", "5835.00"],
    ["amount", "Total 5.835,00 €", "5835.00"],
    ["text", ": 77-3108,", "77-3108"],
    ["yesNo", "yes", null],
  ] as const)("for a %s, %s is %s", (kind, text, value) => expect(valueOfWords(kind, text)).toBe(value));
});

test.each([
  ["Invoice number and date. Please pay the total amount due to our account.", "en"],
  ["Rechnung: Bitte überweisen Sie den Betrag auf das Konto. Wir danken für Ihre Bestellung.", "de"],
  ["Facture : merci de régler le montant total pour votre commande, avec notre numéro.", "fr"],
  ["4711 0815", undefined],
])("the language of %s is %s", (text, language) => expect(tellLanguage(text)?.language).toBe(language));
