import { type Corners, findCorners, wholePicture } from "#core/pages/find-corners.ts";
import type { Grey } from "#core/pages/grey.ts";
import { type Colour, evenLight, straighten, turnRight } from "#core/pages/straighten-photo.ts";

/** What is asked of the worker: where the page is, or the page itself. */
export type Asked =
  | { readonly id: number; readonly kind: "find"; readonly photo: Colour }
  | {
      readonly id: number;
      readonly kind: "make";
      readonly photo: Colour;
      readonly corners: Corners;
      readonly even: boolean;
      readonly turns: number;
    };
export type Answered =
  | { readonly id: number; readonly kind: "find"; readonly corners: Corners; readonly isFound: boolean }
  | { readonly id: number; readonly kind: "make"; readonly page: Colour };

/** The heavy part of capture, without a browser: in a worker, and in tests. */
export function doWork(asked: Asked): Answered {
  const { id, photo } = asked;
  if (asked.kind === "find") {
    const found = findCorners(greyOf(photo));
    return { id, kind: "find", corners: found ?? wholePicture(photo.width, photo.height), isFound: found !== null };
  }
  let page = straighten(photo, asked.corners);
  for (let i = 0; i < asked.turns % 4; i++) page = turnRight(page);
  return { id, kind: "make", page: asked.even ? evenLight(page) : page };
}

function greyOf(photo: Colour): Grey {
  const data = new Uint8Array(photo.width * photo.height);
  for (let i = 0; i < data.length; i++)
    data[i] = (photo.data[i * 4] ?? 0) * 0.299 + (photo.data[i * 4 + 1] ?? 0) * 0.587 + (photo.data[i * 4 + 2] ?? 0) * 0.114;
  return { width: photo.width, height: photo.height, data };
}
