import fc from "fast-check";
import type { Grey } from "./grey.ts";
import { addUnread, stackUp, surest, unreadPrint } from "./unread-print.ts";

type Box = readonly [number, number, number, number];

/** White document with black boxes on it. */
function paper(boxes: readonly Box[], width = 800, height = 600): Grey {
  const data = new Uint8Array(width * height).fill(250);
  for (const [x, y, w, h] of boxes) for (let row = y; row < y + h; row++) data.fill(20, row * width + x, row * width + x + w);
  return { width, height, data };
}
const within = (inner: Box, outer: Box): boolean =>
  inner[0] >= outer[0] && inner[1] >= outer[1] && inner[0] + inner[2] <= outer[0] + outer[2] && inner[1] + inner[3] <= outer[1] + outer[3];

describe("Print that was not read", () => {
  const word: Box = [100, 100, 80, 22];
  const number: Box = [600, 300, 90, 22];
  test("is what lies in no box of a word, with white around it", () => {
    const found = unreadPrint(paper([word, number]), [word]);
    expect(found).toHaveLength(1);
    expect(within(number, found[0] as Box)).toBe(true);
    expect(found[0]?.[3]).toBeLessThan(60);
    expect(unreadPrint(paper([word, number]), [word, number])).toEqual([]);
  });
  test("a lone digit counts; specks, rules, frames and pictures do not", () => {
    expect(unreadPrint(paper([[300, 200, 6, 18]]), [])).toHaveLength(1);
    expect(unreadPrint(paper([[300, 200, 3, 3]]), [])).toEqual([]);
    expect(unreadPrint(paper([[50, 200, 600, 3]]), [])).toEqual([]);
    const frame: readonly Box[] = [
      [50, 50, 500, 3],
      [50, 350, 500, 3],
      [50, 50, 3, 300],
      [550, 50, 3, 303],
    ];
    expect(unreadPrint(paper(frame), [])).toEqual([]);
    expect(unreadPrint(paper([[100, 100, 300, 200]]), [])).toEqual([]);
  });
  test("a rule that runs a little uphill is no print", () => {
    const rule = Array.from({ length: 60 }, (_, i): Box => [60 + i * 10, 300 - Math.floor(i / 4), 10, 2]);
    expect(unreadPrint(paper(rule), [])).toEqual([]);
  });
  test("pieces of one row that stand close are one piece, those far apart are two", () => {
    const close: readonly Box[] = [
      [100, 200, 40, 22],
      [154, 200, 30, 22],
    ];
    expect(unreadPrint(paper(close), [])).toHaveLength(1);
    expect(
      unreadPrint(
        paper([
          [100, 200, 40, 22],
          [400, 200, 30, 22],
        ]),
        [],
      ),
    ).toHaveLength(2);
  });
  test("document that is grey and print that is faint are told apart by how much darker the print is", () => {
    const grey = paper([[200, 200, 60, 22]]);
    const faint = { ...grey, data: grey.data.map((dot) => (dot > 100 ? 190 : 120)) };
    expect(unreadPrint(faint, [])).toHaveLength(1);
  });
});

test("Pieces that are stacked keep their dots, and boxes on the stack come back to where they stood", () => {
  const place = fc.tuple(
    fc.integer({ min: 0, max: 600 }),
    fc.integer({ min: 0, max: 500 }),
    fc.integer({ min: 8, max: 150 }),
    fc.integer({ min: 8, max: 60 }),
  );
  fc.assert(
    fc.property(fc.array(place, { minLength: 1, maxLength: 6 }), fc.nat(), (boxes, which) => {
      const page = paper(boxes.map(([x, y, w, h]): Box => [x + 2, y + 2, w - 4, h - 4]));
      const { grey, toPage } = stackUp(page, boxes);
      const n = which % boxes.length;
      const box = boxes[n] as Box;
      const top = 16 + boxes.slice(0, n).reduce((sum, b) => sum + b[3] + 16, 0);
      const onStack: Box = [16 + 2, top + 2, box[2] - 4, box[3] - 4];
      expect(toPage(onStack)).toEqual([box[0] + 2, box[1] + 2, box[2] - 4, box[3] - 4]);
      expect(grey.data[(top + 3) * grey.width + 16 + 3]).toBe(page.data[(box[1] + 3) * page.width + box[0] + 3]);
      // What lies in the white between two pieces belongs to neither.
      expect(toPage([16, top + box[3] + 4, 10, 8])).toBeNull();
    }),
  );
});

test("What a second reading found is added only where the first found nothing", () => {
  const first = [{ text: "Total", box: [100, 100, 60, 20] as Box }];
  const second = [
    { text: "otal", box: [110, 102, 50, 18] as Box },
    { text: "512.40", box: [300, 100, 70, 20] as Box },
  ];
  expect(addUnread(first, second).map((w) => w.text)).toEqual(["Total", "512.40"]);
});

test("Of two readings of a place the surer one stands, whole; what only one of them read stands too", () => {
  const word = (text: string, x: number, width: number, sure: number) => ({ text, box: [x, 100, width, 20] as Box, sure });
  const again = [word("26-9907-A", 100, 120, 91), word("17", 400, 20, 60)];
  const before = [word("26-9807", 100, 90, 50), word("A", 204, 16, 55), word("11", 400, 20, 75), word("Net", 600, 40, 45)];
  expect(surest(again, before).map((w) => w.text)).toEqual(["26-9907-A", "11", "Net"]);
  expect(surest([], before)).toEqual(before);
});
