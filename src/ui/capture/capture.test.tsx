import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { type Corners, wholePicture } from "#core/pages/find-corners.ts";
import type { Colour } from "#core/pages/straighten-photo.ts";
import { CornerFrame } from "./corner-frame.tsx";
import { doWork } from "./work.ts";

afterEach(cleanup);

/** A light page on a dark table, as dots. */
function photo(width = 300, height = 400): Colour {
  const data = new Uint8ClampedArray(width * height * 4);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const tone = x > 40 && x < 260 && y > 40 && y < 350 ? 220 : 60;
      data.set([tone, tone, tone, 255], (y * width + x) * 4);
    }
  return { width, height, data };
}

describe("The work beside the page", () => {
  test("finds the page, and makes it as it was asked: turned, in even light", () => {
    const found = doWork({ id: 1, kind: "find", photo: photo() });
    expect(found).toMatchObject({ id: 1, kind: "find", isFound: true });
    const corners = found.kind === "find" ? found.corners : wholePicture(1, 1);
    expect(Math.abs(corners[0].x - 40)).toBeLessThan(4);
    const made = doWork({ id: 2, kind: "make", photo: photo(), corners, even: true, turns: 1 });
    if (made.kind !== "make") throw new Error("not made");
    expect(made.page.width).toBeGreaterThan(made.page.height);
    expect(made.page.data[4 * 50]).toBeGreaterThan(240);
  });
  test("where no page is found it is all of the picture", () => {
    const flat: Colour = { width: 20, height: 20, data: new Uint8ClampedArray(1600).fill(90) };
    expect(doWork({ id: 3, kind: "find", photo: flat })).toMatchObject({ isFound: false, corners: wholePicture(20, 20) });
  });
});

describe("The four corners", () => {
  test("are moved with the arrow keys and by dragging, and never leave the picture", () => {
    let corners: Corners = wholePicture(200, 100);
    const draw = () => <CornerFrame url="data:," width={200} height={100} corners={corners} onChange={(next) => (corners = next)} />;
    const page = render(draw());
    fireEvent.keyDown(screen.getByLabelText("Top left corner"), { key: "ArrowRight" });
    expect(corners[0]).toEqual({ x: 2, y: 0 });
    page.rerender(draw());
    fireEvent.keyDown(screen.getByLabelText("Top left corner"), { key: "ArrowUp" });
    expect(corners[0]).toEqual({ x: 2, y: 0 });
    fireEvent.keyDown(screen.getByLabelText("Top left corner"), { key: "x" });
    expect(corners[0]).toEqual({ x: 2, y: 0 });
  });
});
