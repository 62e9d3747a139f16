import { amountText, briefTime, countText, dayText, fullTime, sizeText, todayText, whenText } from "./words.ts";

describe("Days", () => {
  test.each([
    ["2026-11-18", "18 Nov 2026"],
    ["2026-02-01T23:30:00Z", "1 Feb 2026"],
    ["", ""],
    [null, ""],
    ["31.11.26", "31.11.26"],
    ["5", "5"],
    ["2026-13-45", "2026-13-45"],
  ])("%s reads %s", (value, text) => expect(dayText(value)).toBe(text));
  test("today is a calendar day", () => expect(todayText()).toMatch(/^\d{4}-\d{2}-\d{2}$/));
});

describe("Times", () => {
  const before = (ms: number): string => new Date(Date.now() - ms).toISOString();
  test("are relative up to a day and then absolute", () => {
    expect(whenText(before(10_000))).toBe("just now");
    expect(whenText(before(3 * 60_000))).toBe("3 minutes ago");
    expect(whenText(before(5 * 3_600_000))).toBe("5 hours ago");
    expect(whenText("2020-03-05T10:20:00Z")).toBe("5 Mar 2020");
    expect(whenText(new Date(Date.now() + 3_600_000).toISOString())).not.toContain("ago");
  });
  test("in narrow lists are the time today, else the day", () => {
    expect(briefTime(new Date().toISOString())).toMatch(/^\d{2}:\d{2}$/);
    expect(briefTime("2020-03-05T10:20:00Z")).toBe("5 Mar 20");
  });
  test("are whole on hover", () => expect(fullTime("2026-11-18T09:05:07Z")).toMatch(/^Wednesday 18 November 2026, \d{2}:05:07$/));
});

describe("Amounts, sizes, counts", () => {
  test.each([
    ["5835", "GBP", "5,835.00 GBP"],
    ["1234567.5", "EUR", "1,234,567.50 EUR"],
    ["-12.34", null, "-12.34"],
    [null, "GBP", ""],
  ])("%s %s reads %s", (value, currency, text) => expect(amountText(value, currency)).toBe(text));
  test.each([
    [0, "0\u00a0bytes"],
    [999, "999\u00a0bytes"],
    [84_300, "84\u00a0kB"],
    [3_240_000, "3.2\u00a0MB"],
    [32_400_000, "32\u00a0MB"],
  ])("%i bytes read %s", (bytes, text) => expect(sizeText(bytes)).toBe(text));
  test.each([
    [1, "1 document"],
    [2, "2 documents"],
    [0, "0 documents"],
    [12_345, "12,345 documents"],
  ])("%i documents read %s", (count, text) => expect(countText(count, "document")).toBe(text));
  test("odd plurals are given", () => expect(countText(2, "copy", "copies")).toBe("2 copies"));
});
