import { foldName, foldPath } from "./legal-name.ts";

/** Keeps something for each place of a repository; places whose names fold to the same are one. For many places of one piece of work. */
export interface FoldedPlaces<T> {
  get(connection: string, segments: readonly string[]): T | undefined;
  /** Keeps a value unless there is one for that place already, and answers the one that was there. */
  keep(connection: string, segments: readonly string[], value: T): T | undefined;
}

/** A folder by its names as they were given, so that the folders above are folded once and not for each place in them. */
interface Step<T> {
  readonly below: Map<string, Step<T>>;
  /** What stands in it, by folded names. The same for folders that are one when folded. */
  inside: Map<string, T> | null;
}

/** Makes an empty one. */
export function foldedPlaces<T>(): FoldedPlaces<T> {
  const top: Step<T> = { below: new Map(), inside: null };
  const folders = new Map<string, Map<string, T>>();
  const stepBelow = (step: Step<T>, name: string): Step<T> => {
    let below = step.below.get(name);
    if (!below) step.below.set(name, (below = { below: new Map(), inside: null }));
    return below;
  };
  const insideOf = (connection: string, segments: readonly string[]): Map<string, T> => {
    let step = stepBelow(top, connection);
    for (let i = 0; i < segments.length - 1; i++) step = stepBelow(step, segments[i] ?? "");
    if (!step.inside) {
      const parent = `${connection}/${foldPath(segments.slice(0, -1))}`;
      let inside = folders.get(parent);
      if (!inside) folders.set(parent, (inside = new Map()));
      step.inside = inside;
    }
    return step.inside;
  };
  return {
    get: (connection, segments) => insideOf(connection, segments).get(foldName(segments.at(-1) ?? "")),
    keep(connection, segments, value) {
      const inside = insideOf(connection, segments);
      const name = foldName(segments.at(-1) ?? "");
      const there = inside.get(name);
      if (there === undefined) inside.set(name, value);
      return there;
    },
  };
}
