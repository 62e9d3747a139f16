type Box = readonly [x: number, y: number, width: number, height: number];
export type Quarter = 0 | 90 | 180 | 270;

/** A box on a page that is turned clockwise by quarters: where it stands afterwards. `width` and `height` are the page's before. */
export function turnBox(box: Box, turn: Quarter, width: number, height: number): Box {
  const [x, y, w, h] = box;
  if (turn === 90) return [height - y - h, x, h, w];
  if (turn === 180) return [width - x - w, height - y - h, w, h];
  if (turn === 270) return [y, width - x - w, h, w];
  return box;
}

/** The sum of two turns. */
export function addTurns(a: number, b: number): Quarter {
  return ((((((a + b) / 90) % 4) + 4) % 4) * 90) as Quarter;
}

/**
 * A box found on a straightened picture, on the picture as it was. The picture was turned by `-degrees` about its middle, onto a larger one that
 * holds all of it; the answer is the upright box around the turned one. Any one unit throughout.
 */
export function slantBox(
  box: Box,
  degrees: number,
  straight: { readonly width: number; readonly height: number },
  original: { readonly width: number; readonly height: number },
): Box {
  if (degrees === 0) return box;
  const angle = (degrees * Math.PI) / 180;
  const [cos, sin] = [Math.cos(angle), Math.sin(angle)];
  const corners = [
    [box[0], box[1]],
    [box[0] + box[2], box[1]],
    [box[0], box[1] + box[3]],
    [box[0] + box[2], box[1] + box[3]],
  ].map(([x = 0, y = 0]) => {
    const [dx, dy] = [x - straight.width / 2, y - straight.height / 2];
    return [original.width / 2 + dx * cos - dy * sin, original.height / 2 + dx * sin + dy * cos] as const;
  });
  const [xs, ys] = [corners.map((c) => c[0]), corners.map((c) => c[1])];
  const [left, top] = [Math.min(...xs), Math.min(...ys)];
  return [left, top, Math.max(...xs) - left, Math.max(...ys) - top];
}
