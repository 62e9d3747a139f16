/** Words for the state of a placement or a folder. */
export const placeStateWords: Readonly<Record<string, string>> = {
  placed: "placed",
  waiting: "being placed",
  moving: "moving",
  adrift: "adrift",
  failed: "not placed",
  empty: "empty",
};

/** The chip's tone for a state. */
export function placeStateTone(state: string): string {
  return state === "placed" ? "moss" : state === "adrift" || state === "failed" ? "rust" : state === "empty" ? "" : "amber";
}
