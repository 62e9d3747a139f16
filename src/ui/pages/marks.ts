import type { Box } from "#core/reading/page-lines.ts";

/** Something on a page that is pointed at from beside it: a reason or a reading, with the number it bears in both places. */
export interface PageMark {
  /** 0 for one that bears none. */
  readonly number: number;
  readonly page: number;
  readonly box: Box;
  /** What it says, for those who do not see the page. */
  readonly words: string;
  readonly tone: "for" | "against";
  /** It belongs to the field that one is in. */
  readonly now: boolean;
}

/** Words that a person pointed at on a page. */
export interface PickedWords {
  readonly page: number;
  readonly box: Box;
  readonly text: string;
}

/** Looks up the number that something bears. */
export interface Numbers<T> {
  get(of: T): number | undefined;
}

/** Numbers for what is pointed at, in order; what stands in the same place bears the same number. */
export function numberPlaces<T extends { readonly page?: number | null | undefined; readonly box?: Box | null | undefined }>(
  places: readonly T[],
): ReadonlyMap<T, number> {
  const numbers = new Map<T, number>();
  const taken: { page: number; box: Box; number: number }[] = [];
  for (const place of places) {
    if (place.page == null || place.box == null) continue;
    const { page, box } = place;
    const same = taken.find((t) => t.page === page && overlaps(t.box, box));
    const number = same?.number ?? taken.length + 1;
    if (!same) taken.push({ page, box, number });
    numbers.set(place, number);
  }
  return numbers;
}

/** Whether two boxes share more than half of the smaller one. */
function overlaps(a: Box, b: Box): boolean {
  const width = Math.min(a[0] + a[2], b[0] + b[2]) - Math.max(a[0], b[0]);
  const height = Math.min(a[1] + a[3], b[1] + b[3]) - Math.max(a[1], b[1]);
  if (width <= 0 || height <= 0) return false;
  return width * height > 0.5 * Math.min(a[2] * a[3], b[2] * b[3]);
}
