import { writeOwnCode } from "../codes/own-code.ts";
import type { Word } from "../pages/page-text.ts";
import { pageCount, type PageFacts, proposeCuts } from "./propose-cuts.ts";

const words = (...lines: readonly string[]): Word[] =>
  lines.flatMap((line, row) => line.split(" ").map((text, i): Word => ({ text, box: [60 + i * 40, 40 + row * 20, 36, 12] })));
const page = (number: number, lines: readonly string[], over: Partial<PageFacts> = {}): PageFacts => ({
  number,
  heightPoints: 842,
  words: words(...lines),
  codes: [],
  ink: lines.length === 0 ? 0 : 0.03,
  ...over,
});
const code = (text: string) => [{ format: "QRCode", text, box: [0, 0, 9, 9] as const }];
const after = (pages: readonly PageFacts[]): number[] => proposeCuts(pages).map((c) => c.afterPage);
const filler = ["", "", "", "", "", "", "", "", "", "", "Terms of sale and so on and on"];

describe("Proposed cuts", () => {
  test("a cover sheet, a separator and a label begin a document; the reason says which", () => {
    const cover = writeOwnCode({ kind: "coverSheet", number: 7 });
    const cuts = proposeCuts([
      page(1, ["Some document"]),
      page(2, ["Cover"], { codes: code(cover) }),
      page(3, ["Another document"]),
      page(4, [], { codes: code(writeOwnCode({ kind: "separator", number: 0 })), ink: 0.1 }),
      page(5, ["A third"], { codes: code(writeOwnCode({ kind: "label", number: 3 })) }),
    ]);
    expect(cuts.map((c) => c.afterPage)).toEqual([1, 3, 4]);
    expect(cuts[0]).toEqual({ afterPage: 1, certainty: 0.99, reason: `cover sheet ${cover}` });
  });
  test("what follows a cover sheet belongs to it, whatever its heading", () => {
    const cover = page(2, ["Cover sheet"], { codes: code(writeOwnCode({ kind: "coverSheet", number: 7 })) });
    expect(after([page(1, ["Alder Supply Ltd Invoice 1"]), cover, page(3, ["Brack Fuels Rechnung 5501"])])).toEqual([1]);
  });
  test("a misread cover sheet divides nothing", () =>
    expect(after([page(1, ["a"]), page(2, ["b"], { codes: code("CS-0000A7X") })])).toEqual([]));
  test("a barcode of the business system begins a document where its format says so", () => {
    const format = { pattern: String.raw`B-\d{5}`, recordType: "freightBooking", company: null, documentType: null, begins: true };
    const pages = [page(1, ["a"]), page(2, ["b"], { codes: code("B-20418") })];
    expect(proposeCuts(pages, [format])[0]?.reason).toBe("barcode B-20418");
    expect(proposeCuts(pages, [{ ...format, begins: false }])).toEqual([]);
  });
  test("page 1 of 2 begins one; page 2 of 2 never does, even under another heading", () => {
    expect(
      after([
        page(1, ["Alder Supply Invoice 1", ...filler, "Page 1 of 2"]),
        page(2, ["Totally other Report", ...filler, "Page 2 of 2"]),
        page(3, ["Seite 1 von 1 hier"]),
      ]),
    ).toEqual([2]);
  });
  test("after the last counted page something new begins", () =>
    expect(after([page(1, ["Page 1 of 2"]), page(2, ["Page 2 of 2"]), page(3, ["no count here"])])).toEqual([2]));
  test("another sender's heading on a first page divides; a page of terms does not", () => {
    expect(after([page(1, ["Alder Supply Ltd", "Invoice 5501"]), page(2, filler), page(3, ["Brack Fuels GmbH", "Rechnung R-77"])])).toEqual(
      [2],
    );
  });
  test("the same sender's next invoice is told by its number", () => {
    const cuts = proposeCuts([page(1, ["Alder Supply Ltd Invoice 55-0123"]), page(2, ["Alder Supply Ltd Invoice 55-0124"])]);
    expect(cuts).toEqual([{ afterPage: 1, certainty: 0.7, reason: "new number: 55-0124" }]);
  });
  test("another kind of document divides, also from the same sender; what all are addressed to does not make them alike", () => {
    const to = "Merrowick Ferries Ltd Harbour House Port Halven";
    expect(
      after([
        page(1, ["Alder Supply Invoice 55-0123", to]),
        page(2, ["Alder Supply Delivery note D-99", to]),
        page(3, ["Brack Fuels Invoice 9001-7", to]),
        page(4, ["Corran Yard Invoice 4410-2", to]),
        page(5, ["Corran Yard Invoice 4410-2", to]),
      ]),
    ).toEqual([1, 2, 3]);
  });
  test("the blank back of a cover sheet belongs to it", () => {
    const cover = page(2, ["Cover sheet"], { codes: code(writeOwnCode({ kind: "coverSheet", number: 7 })) });
    expect(after([page(1, ["Alder Invoice 1"]), cover, page(3, []), page(4, ["Brack Rechnung 5501"]), page(5, [])])).toEqual([1]);
  });
  test("one blank page divides, the backs of one-sided documents do not", () => {
    expect(after([page(1, ["a"]), page(2, ["b"]), page(3, ["x"]), page(4, []), page(5, ["c"])])).toEqual([4]);
    expect(after([page(1, ["a"]), page(2, []), page(3, ["b"]), page(4, []), page(5, ["c"]), page(6, [])])).toEqual([]);
  });
  test("one page has nothing to cut", () => expect(after([page(1, ["Invoice"])])).toEqual([]));
  test.each([
    ["Page 2 of 3", { at: 2, of: 3 }],
    ["Seite: 1 von 12", { at: 1, of: 12 }],
    ["page 1 sur 4", { at: 1, of: 4 }],
    ["Page 1/2", { at: 1, of: 2 }],
    ["Page 5 of 3", null],
    ["home page of ours", null],
  ])("%p counts %p", (line, count) => expect(pageCount(words(line))).toEqual(count));
});
