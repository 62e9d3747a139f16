import fc from "fast-check";
import { type Corners, findCorners, type Point, wholePicture } from "./find-corners.ts";
import type { Grey } from "./grey.ts";
import { type Colour, evenLight, pageSize, straighten, turnRight } from "./straighten-photo.ts";

const WIDTH = 800;
const HEIGHT = 1000;
const isInside = (corners: Corners, p: Point): boolean =>
  corners.every((a, i) => {
    const b = corners[(i + 1) % 4] ?? a;
    return (b.x - a.x) * (p.y - a.y) - (b.y - a.y) * (p.x - a.x) >= 0;
  });
/** A light page with rows of print on a dark desk. */
function photograph(corners: Corners, print = true): Grey {
  const data = new Uint8Array(WIDTH * HEIGHT);
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++) {
      const inside = isInside(corners, { x, y });
      const deep = isInside(corners, { x: x - 30, y: y - 30 }) && isInside(corners, { x: x + 30, y: y + 30 });
      const isPrint = print && inside && deep && y % 26 < 8 && x % 13 < 8;
      data[y * WIDTH + x] = isPrint ? 60 : inside ? 205 + ((x * 7 + y * 13) % 12) : 70 + ((x * 5 + y * 3) % 25);
    }
  return { width: WIDTH, height: HEIGHT, data };
}
const point = (x: number, y: number): Point => ({ x, y });

describe("The page on a photograph", () => {
  test("its corners are found within a hundredth of the picture, however it was held", () => {
    const near = fc.integer({ min: 20, max: 160 });
    fc.assert(
      fc.property(fc.array(near, { minLength: 8, maxLength: 8 }), (n) => {
        const [a = 0, b = 0, c = 0, d = 0, e = 0, f = 0, g = 0, h = 0] = n;
        const corners: Corners = [point(a, b), point(WIDTH - c, d), point(WIDTH - e, HEIGHT - f), point(g, HEIGHT - h)];
        const found = findCorners(photograph(corners));
        expect(found).not.toBeNull();
        found?.forEach((p, i) => expect(Math.hypot(p.x - (corners[i]?.x ?? 0), p.y - (corners[i]?.y ?? 0))).toBeLessThan(14));
      }),
      { numRuns: 12 },
    );
  });
  test("nothing is found where there is no page, or nothing but page", () => {
    const flat = (tone: number): Grey => ({ width: 300, height: 300, data: new Uint8Array(90_000).fill(tone) });
    expect(findCorners(flat(80))).toBeNull();
    expect(findCorners(flat(230))).toBeNull();
    const small: Corners = [point(100, 100), point(180, 100), point(180, 200), point(100, 200)];
    expect(findCorners(photograph(small, false))).toBeNull();
  });
});

describe("A page seen from straight above", () => {
  const colour = (grey: Grey): Colour => {
    const data = new Uint8ClampedArray(grey.data.length * 4);
    grey.data.forEach((tone, i) => data.set([tone, tone, tone, 255], i * 4));
    return { width: grey.width, height: grey.height, data };
  };
  test("nearly A4 becomes A4, and nothing of the desk is left on it", () => {
    const corners: Corners = [point(120, 90), point(690, 130), point(720, 930), point(80, 900)];
    const page = straighten(colour(photograph(corners, false)), corners);
    expect(page.height / page.width).toBeCloseTo(Math.SQRT2, 2);
    for (const [x, y] of [
      [3, 3],
      [page.width - 4, 3],
      [3, page.height - 4],
      [page.width - 4, page.height - 4],
    ] as const)
      expect(page.data[(y * page.width + x) * 4]).toBeGreaterThan(180);
  });
  test("the whole picture stays as it is", () => {
    const photo = colour(photograph(wholePicture(WIDTH, HEIGHT)));
    const page = straighten(photo, wholePicture(WIDTH, HEIGHT));
    expect([page.width, page.height]).toEqual([WIDTH, HEIGHT]);
    expect(Math.abs((page.data[4 * (500 * WIDTH + 400)] ?? 0) - (photo.data[4 * (500 * WIDTH + 400)] ?? 0))).toBeLessThanOrEqual(1);
  });
  test("a size is never nothing, and never too large", () => {
    expect(pageSize([point(5, 5), point(5, 5), point(5, 5), point(5, 5)])).toEqual({ width: 1, height: 1 });
    const huge = pageSize([point(0, 0), point(9000, 0), point(9000, 6000), point(0, 6000)]);
    expect(Math.max(huge.width, huge.height)).toBe(2200);
  });
  test("in even light a shadow is gone: document is white and ink dark on both sides of it", () => {
    const width = 480;
    const data = new Uint8ClampedArray(width * width * 4);
    for (let y = 0; y < width; y++)
      for (let x = 0; x < width; x++) {
        const light = x < width / 2 ? 1 : 0.55;
        const tone = (y % 24 < 4 ? 60 : 230) * light;
        data.set([tone, tone, tone, 255], (y * width + x) * 4);
      }
    const page = evenLight({ width, height: width, data });
    const at = (x: number, y: number): number => page.data[(y * width + x) * 4] ?? 0;
    for (const x of [60, 420]) {
      expect(at(x, 14)).toBeGreaterThan(235);
      expect(at(x, 2)).toBeLessThan(40);
    }
  });
  test("turned four times it is as before", () => {
    const page: Colour = { width: 2, height: 3, data: Uint8ClampedArray.from({ length: 24 }, (_, i) => i) };
    expect([...turnRight(turnRight(turnRight(turnRight(page)))).data]).toEqual([...page.data]);
    expect(turnRight(page)).toMatchObject({ width: 3, height: 2 });
  });
});
