/** A page as grey dots, row by row from the top left; 0 is black, 255 white. */
export interface Grey {
  readonly width: number;
  readonly height: number;
  readonly data: Uint8Array;
}

/** The same picture with `factor` × `factor` dots averaged into one. Grain vanishes, strokes stay. A rest at the edges is left out. */
export function shrink(grey: Grey, factor: number): Grey {
  const width = Math.max(1, Math.floor(grey.width / factor));
  const height = Math.max(1, Math.floor(grey.height / factor));
  const dots = grey.data;
  const data = new Uint8Array(width * height);
  const across = Math.min(factor, grey.width);
  const down = Math.min(factor, grey.height);
  // Row by row, as the dots lie in memory: millions of them in a page.
  const sums = new Uint32Array(width);
  for (let y = 0; y < height; y++) {
    sums.fill(0);
    for (let dy = 0; dy < down; dy++) {
      let at = (y * factor + dy) * grey.width;
      for (let x = 0; x < width; x++) {
        let sum = 0;
        for (const end = at + across; at < end; at++) sum += dots[at] ?? 0;
        sums[x] = (sums[x] ?? 0) + sum;
      }
    }
    for (let x = 0; x < width; x++) data[y * width + x] = (sums[x] ?? 0) / (across * down);
  }
  return { width, height, data };
}

/** How light the document itself is: nine tenths of the dots are no lighter. */
export function paperTone(grey: Grey): number {
  const counts = new Uint32Array(256);
  for (const dot of grey.data) counts[dot] = (counts[dot] ?? 0) + 1;
  let left = grey.data.length * 0.1;
  for (let tone = 255; tone > 0; tone--) {
    left -= counts[tone] ?? 0;
    if (left <= 0) return tone;
  }
  return 0;
}
