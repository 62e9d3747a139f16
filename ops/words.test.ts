import { retiredIn, textsOf } from "./words.ts";

describe("Texts that people read", () => {
  const of = (source: string): readonly string[] => textsOf("screen.tsx", source).map((t) => t.text);
  test("are text between tags, strings and templates, with the line they stand on", () =>
    expect(
      textsOf("screen.tsx", 'const a = 1;\nconst b = <p title="Close the paper">Nothing waits</p>;\nconst c = `${a} papers filed`;'),
    ).toEqual([
      { line: 2, text: "Close the paper" },
      { line: 2, text: "Nothing waits" },
      { line: 3, text: "… papers filed" },
    ]));
  test.each([
    ["SQL", "const q = sql`select paper from papers`;"],
    ["SQL in a string", 'client.query("select papers from arrival");'],
    ["module names", 'import { x } from "../papers/the papers.ts";'],
    ["class names", '<div className="paper row of papers" />'],
    ["keys without blanks", 'call("papers");'],
    ["selectors", 'find(".paper-row .papers b");'],
  ])("are not %s", (_, source) => expect(of(source)).toEqual([]));
  test("names in braces are replaced before anybody reads them", () =>
    expect(of('const w = "moved {papers} to {section}";')).toEqual(["moved … to …"]));
  test("in an attribute that the browser reads, only what is worked out from text counts", () =>
    expect(of('<input name={on ? "Drop the papers" : ""} />')).toEqual(["Drop the papers"]));
});

test.each([
  ["3 papers filed", "papers", "document"],
  ["Drop the plan", "Drop the plan", "discard"],
  ["Who answers", "Who answers", "responsible"],
  ["Hands-free filing", "Hands-free", "automatic filing"],
  ["its file is adrift", "adrift", "out of sync"],
])("“%s” holds the retired “%s”", (text, word, use) => {
  const found = retiredIn(text);
  expect(found.map((f) => f.word)).toContain(word);
  expect(found.map((f) => f.use).join()).toContain(use);
});
test("words of today are let be", () => expect(retiredIn("File the document and open the next one")).toEqual([]));
