/** Chooses a few of many that are offered one after the other; the others are not kept. */
export interface Chooser<T> {
  /** @param score What counts for `highest`; the others do not look at it. */
  offer(item: T, score: number): void;
  chosen(): readonly T[];
}

/** Those with the highest scores, highest first; of equal ones those that were offered first. */
export function topBy<T>(count: number): Chooser<T> {
  const best: { readonly item: T; readonly score: number }[] = [];
  return {
    offer(item, score) {
      if (best.length === count && score <= (best.at(-1)?.score ?? 0)) return;
      best.push({ item, score });
      best.sort((a, b) => b.score - a.score);
      if (best.length > count) best.pop();
    },
    chosen: () => best.map((b) => b.item),
  };
}

/** Any of them, each as likely as another; the same seed chooses the same ones out of the same many, so that "others" can be asked for. */
export function reservoirSample<T>(count: number, seed: number): Chooser<T> {
  const kept: T[] = [];
  let offered = 0;
  let state = (seed * 2654435761) >>> 0 || 1;
  const next = (): number => (state = (Math.imul(state, 1664525) + 1013904223) >>> 0) / 2 ** 32;
  return {
    offer(item) {
      // The n-th takes the place of one of those kept with the likelihood count/n.
      const place = offered < count ? offered : Math.floor(next() * (offered + 1));
      if (place < count) kept[place] = item;
      offered++;
    },
    chosen: () => kept,
  };
}

/** Those that are wanted, the first of them up to a number. */
export function those<T>(count: number, isWanted: (item: T) => boolean): Chooser<T> {
  const kept: T[] = [];
  return {
    offer(item) {
      if (kept.length < count && isWanted(item)) kept.push(item);
    },
    chosen: () => kept,
  };
}
