/** Words for the state of a placement or a folder. */
export const placeStateWords: Readonly<Record<string, string>> = {
  stored: "stored",
  waiting: "waiting",
  moving: "moving",
  outOfSync: "out of sync",
  failed: "failed",
  empty: "empty",
};

/** The chip's tone for a state. */
export function placeStateTone(state: string): string {
  return state === "stored" ? "moss" : state === "outOfSync" || state === "failed" ? "rust" : state === "empty" ? "" : "amber";
}
