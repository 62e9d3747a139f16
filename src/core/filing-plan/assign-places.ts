import { numberOf } from "./legal-name.ts";

/** A place as it is written and as it is compared. */
export interface Place {
  readonly path: string;
  /** Connection and path, folded: two places that fold to the same cannot both be. */
  readonly folded: string;
}

/** Something that is to have a place: a record's folder or a document's file. */
export interface PlaceWish {
  readonly id: number;
  /** Where it is now, folded; null when nowhere. */
  readonly current: string | null;
  /** Where it would best be: by the rule as it is, then told apart by its field. At least one. */
  readonly wanted: readonly Place[];
}

/** The place one got. */
export interface AssignedPlace extends Place {
  /** How it was found: as wished, told apart by its field, or by a number. */
  readonly by: "name" | "field" | "number";
}

/**
 * Gives everything a place of its own (promise 4). Who stands where the rule would have it stays; the others come in the order given: the plain
 * name when it is free, else told apart by the field, else with a number. One that has a number already keeps it as long as it needs one, so that
 * nothing moves about for nothing. `isHeld` says whether something outside of `wishes` has a place; `numbered` gives the last place that one wished for
 * with a number behind it, from 2. The same input gives the same answer.
 */
export function assignPlaces(
  wishes: readonly PlaceWish[],
  isHeld: (folded: string) => boolean,
  numbered: (id: number, number: number) => Place,
): ReadonlyMap<number, AssignedPlace> {
  const given = new Map<number, AssignedPlace>();
  const taken = new Set<string>();
  const give = (wish: PlaceWish, place: Place, by: AssignedPlace["by"]): void => {
    taken.add(place.folded);
    given.set(wish.id, { ...place, by });
  };
  for (const wish of wishes) {
    const first = wish.wanted[0];
    if (first && wish.current === first.folded && !taken.has(first.folded)) give(wish, first, "name");
  }
  for (const wish of wishes) {
    if (given.has(wish.id)) continue;
    const isFree = (place: Place): boolean => !taken.has(place.folded) && (place.folded === wish.current || !isHeld(place.folded));
    const at = wish.wanted.findIndex(isFree);
    const place = wish.wanted[at];
    if (place) {
      give(wish, place, at === 0 ? "name" : "field");
      continue;
    }
    const has = numberOf(wish.current ?? "") ?? 0;
    const own = has >= 2 ? numbered(wish.id, has) : null;
    if (own && own.folded === wish.current && !taken.has(own.folded)) {
      give(wish, own, "number");
      continue;
    }
    for (let number = 2; ; number++) {
      const candidate = numbered(wish.id, number);
      if (!isFree(candidate)) continue;
      give(wish, candidate, "number");
      break;
    }
  }
  return given;
}
