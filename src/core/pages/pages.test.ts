import fc from "fast-check";
import { findSlant, slantOf } from "./find-skew.ts";
import { type Grey, paperTone, shrink } from "./grey.ts";
import { inkSquares, isBlank, measureInk } from "./measure-page.ts";
import { addTurns, type Quarter, slantBox, turnBox } from "./turn-box.ts";

const WIDTH = 827;
const HEIGHT = 1169;
const empty = (tone = 245, width = WIDTH, height = HEIGHT): { width: number; height: number; data: Uint8Array } => ({
  width,
  height,
  data: new Uint8Array(width * height).fill(tone),
});
/** Rows of words, turned by some degrees about the middle. */
function linesOfText(degrees: number, sideways = false): Grey {
  const page = empty();
  const angle = (degrees * Math.PI) / 180;
  for (let line = 0; line < 40; line++)
    for (let x = 80; x < (line % 5 === 4 ? 400 : 740); x++) {
      if ((x + line * 17) % (38 + (line % 7) * 5) < 8) continue;
      for (let dy = 0; dy < 10; dy++) {
        const y = 100 + line * 24 + dy;
        const [cx, cy] = [x - WIDTH / 2, y - HEIGHT / 2];
        let [px, py] = [
          Math.round(WIDTH / 2 + cx * Math.cos(angle) - cy * Math.sin(angle)),
          Math.round(HEIGHT / 2 + cx * Math.sin(angle) + cy * Math.cos(angle)),
        ];
        if (sideways) [px, py] = [WIDTH - 1 - Math.round((py * WIDTH) / HEIGHT), Math.round((px * HEIGHT) / WIDTH)];
        if (px >= 0 && py >= 0 && px < WIDTH && py < HEIGHT && (x * 7 + dy * 3) % 4 !== 0) page.data[py * WIDTH + px] = 30;
      }
    }
  return page;
}

describe("The slant of a scanned page", () => {
  test.each([0, 0.5, -0.8, 1.2, 2.5, -4])("%s degrees are found within a quarter of one", (degrees) => {
    const found = findSlant(linesOfText(degrees));
    expect(found.sideways).toBe(false);
    expect(Math.abs(slantOf(found) - degrees)).toBeLessThanOrEqual(0.25);
  });
  test("a page on its side is told from an upright one", () => expect(findSlant(linesOfText(0, true)).sideways).toBe(true));
  test("a page with nothing on it has no slant", () => expect(findSlant(empty())).toEqual({ upright: 0, onItsSide: 0, sideways: false }));
});

describe("Ink on a page", () => {
  const big = (): Grey => empty(238, 1654, 2339);
  test("a blank back with grain, a shadow at the edge and two punched holes is blank", () => {
    const page = big();
    for (let i = 0; i < page.data.length; i++) page.data[i] = 230 + ((i * 7919) % 17);
    for (let y = 0; y < page.height; y++) for (let x = 0; x < 50; x++) page.data[y * page.width + x] = 60;
    expect(isBlank({ ink: measureInk(inkSquares(page)), words: 0 })).toBe(true);
  });
  test("one short line of print is not blank", () => {
    const page = big();
    for (let y = 300; y < 326; y++) for (let x = 300; x < 620; x++) if (x % 20 < 12) page.data[y * page.width + x] = 40;
    expect(isBlank({ ink: measureInk(inkSquares(page)), words: 0 })).toBe(false);
  });
  test("ink that the known words explain is not counted; what stands beside them is", () => {
    const page = big();
    for (let y = 300; y < 326; y++) for (let x = 300; x < 620; x++) if (x % 20 < 12) page.data[y * page.width + x] = 40;
    expect(measureInk(inkSquares(page), [[300, 300, 320, 26]])).toBe(0);
    for (let y = 900; y < 926; y++) for (let x = 300; x < 620; x++) page.data[y * page.width + x] = 40;
    expect(measureInk(inkSquares(page), [[300, 300, 320, 26]])).toBeGreaterThan(0.001);
  });
  test("a page with words is never blank, and one not looked at neither", () => {
    expect(isBlank({ ink: 0, words: 1 })).toBe(false);
    expect(isBlank({ ink: null, words: 0 })).toBe(false);
  });
  test("the tone of grey document is its own", () => expect(paperTone(empty(211))).toBe(211));
  test("a picture smaller than the square still has a dot", () => expect(shrink(empty(9, 3, 3), 8)).toMatchObject({ width: 1, height: 1 }));
});

describe("Boxes on turned pages", () => {
  const quarter = fc.constantFrom<Quarter>(0, 90, 180, 270);
  const size = fc.integer({ min: 20, max: 900 });
  test("turned four quarters it is where it was, and it never leaves the page", () => {
    fc.assert(
      fc.property(
        size,
        size,
        fc.tuple(fc.double({ min: 0, max: 1, noNaN: true }), fc.double({ min: 0, max: 1, noNaN: true })),
        quarter,
        (w, h, [fx, fy], turn) => {
          const box = [fx * w * 0.8, fy * h * 0.8, w * 0.1, h * 0.1] as const;
          const sideways = turn === 90 || turn === 270;
          const there = turnBox(box, turn, w, h);
          const [tw, th] = sideways ? [h, w] : [w, h];
          expect(there[0]).toBeGreaterThanOrEqual(-1e-6);
          expect(there[1] + there[3]).toBeLessThanOrEqual(th + 1e-6);
          const back = turnBox(there, addTurns(0, -turn), tw, th);
          back.forEach((n, i) => expect(n).toBeCloseTo(box[i] ?? 0, 6));
        },
      ),
    );
  });
  test("turns add up in quarters", () => {
    expect(addTurns(270, 180)).toBe(90);
    expect(addTurns(0, -90)).toBe(270);
  });
  test("a box on a straightened picture covers its middle on the picture as it was", () => {
    const box = slantBox([450, 450, 100, 100], 10, { width: 1000, height: 1000 }, { width: 900, height: 900 });
    expect(box[0] + box[2] / 2).toBeCloseTo(450, 6);
    expect(box[2]).toBeGreaterThan(100);
    expect(slantBox([1, 2, 3, 4], 0, { width: 9, height: 9 }, { width: 9, height: 9 })).toEqual([1, 2, 3, 4]);
  });
});
