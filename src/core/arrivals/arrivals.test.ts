import { presentations } from "../shared/refusals.ts";
import { arrivalStates, journey, mayGo, openStates } from "./journey.ts";
import { contentKinds, defaultLimits, endingKinds, isMislabelled, limitsSchema, narrowLimits, refuseBeforeUpload } from "./limits.ts";
import { problemCodes, problemWords } from "./problems.ts";
import { findInWords } from "../pages/find-in-words.ts";
import { textOfWords, type Word } from "../pages/page-text.ts";
import { documentCodeOf, parseArrivalId, parseDocumentCode, parseDocumentId, parseSha256 } from "../shared/brand.ts";
import { lineWords, sealText, verbs, verbWords } from "../timeline/line.ts";

test("a queue's limits narrow the general ones and never widen them", () => {
  const narrow = narrowLimits(defaultLimits, { bytesMax: 1024, pagesMax: 999_999, kinds: ["pdf", "program"] });
  expect(narrow).toEqual({ ...defaultLimits, bytesMax: 1024, kinds: ["pdf"] });
  expect(narrowLimits(defaultLimits, null)).toBe(defaultLimits);
  expect(narrowLimits(defaultLimits, {})).toEqual(defaultLimits);
});

describe("The way of an arrival", () => {
  test("every state has its exits, and they lead to states", () => {
    for (const state of arrivalStates) for (const to of journey[state]) expect(arrivalStates).toContain(to);
  });
  test("a person can file or set aside whatever is open: nothing blocks filing by hand", () => {
    for (const state of openStates) {
      expect(mayGo(state, "filed")).toBe(true);
      expect(mayGo(state, "setAside")).toBe(true);
    }
  });
  test("what was set aside comes back, what was filed can be taken back, and nothing is ever deleted", () => {
    expect(mayGo("setAside", "ready")).toBe(true);
    expect(mayGo("filed", "ready")).toBe(true);
    expect(arrivalStates).not.toContain("deleted");
    expect(mayGo("split", "ready")).toBe(true);
    expect(mayGo("split", "filed")).toBe(false);
  });
});

describe("Limits", () => {
  test.each([
    ["a.pdf", 10, null],
    ["a.pdf", 0, "empty"],
    ["big.pdf", defaultLimits.bytesMax + 1, "larger"],
    ["setup.exe", 10, "Programs"],
  ])("%s of %i bytes: %s", (name, sizeBytes, words) => {
    const why = refuseBeforeUpload({ name, sizeBytes }, defaultLimits);
    if (words === null) expect(why).toBeNull();
    else expect(why?.words).toContain(words);
    // What is too large is not sent; the others stand in the register.
    if (why) expect(why.isRegistered).toBe(words !== "larger");
  });
  test("a mislabelled file is noticed, texts pass for each other", () => {
    expect(isMislabelled(".pdf", "png")).toBe(true);
    expect(isMislabelled(".PDF", "pdf")).toBe(false);
    expect(isMislabelled(".txt", "csv")).toBe(false);
    expect(isMislabelled(".dat", "pdf")).toBe(false);
  });
  test("the defaults are within their own bounds, and every ending names a kind", () => {
    expect(limitsSchema.safeParse(defaultLimits).success).toBe(true);
    for (const kind of Object.values(endingKinds)) expect(Object.keys(contentKinds)).toContain(kind);
  });
  test("every problem and refusal says what happened and what to do", () => {
    for (const code of problemCodes) expect(problemWords[code].next.length).toBeGreaterThan(10);
    for (const words of Object.values(presentations)) expect(`${words.title}${words.next}`).not.toMatch(/!/);
  });
});

describe("Ids", () => {
  test("are read strictly", () => {
    expect(parseArrivalId("not-an-id")).toBeNull();
    expect(parseArrivalId("0A1B2C3D-0000-4000-8000-000000000000")).toBe("0a1b2c3d-0000-4000-8000-000000000000");
    expect(parseDocumentCode("AC-000123")).toBe("AC-000123");
    expect(parseDocumentCode("AC-1; drop")).toBeNull();
    expect(documentCodeOf(7)).toBe("AC-000007");
    expect(() => parseSha256("../../etc/passwd")).toThrow();
    expect(() => parseDocumentId(-1)).toThrow();
  });
});

describe("Words on a page", () => {
  const word = (text: string, x: number, y: number): Word => ({ text, box: [x, y, text.length * 6, 10] });
  const words = [word("Your", 10, 10), word("order:", 40, 10), word("PO-6127", 90, 10), word("Total", 10, 40), word("5,835.00", 60, 40)];
  test("run as text, with a new line where they step down", () => expect(textOfWords(words)).toBe("Your order: PO-6127\nTotal 5,835.00"));
  test("are found with one box for a hit that spans several", () => {
    expect(findInWords(words, "order: po-6127")).toEqual([[40, 10, 92, 10]]);
    expect(findInWords(words, "6127")).toEqual([[90, 10, 42, 10]]);
    expect(findInWords(words, "absent")).toEqual([]);
    expect(findInWords(words, "  ")).toEqual([]);
  });
});

describe("The timeline", () => {
  test("has words for every verb", () => {
    for (const verb of verbs) expect(verbWords[verb].length).toBeGreaterThan(3);
    expect(lineWords("filed", { documentType: "Letter" })).toBe("filed it as Letter");
  });
  test("a seal changes with any line, its order, and what came before (promise 10)", () => {
    const line = { id: 1, at: "t", who: "a", verb: "filed", subject: "s", details: "{}" };
    const texts = [
      sealText("", [line]),
      sealText("x", [line]),
      sealText("", [{ ...line, who: "b" }]),
      sealText("", [line, line]),
      sealText("", [{ ...line, id: 2 }]),
      sealText("", []),
    ];
    expect(new Set(texts).size).toBe(texts.length);
  });
});
