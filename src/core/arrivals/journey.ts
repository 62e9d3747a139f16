/**
 * The way of an arrival, in one table. Each state lists where it may go; whatever moves an arrival asks `mayGo` and
 * states the move in its update (`where state = …`), so that two people never do the same.
 */
export const arrivalStates = ["waiting", "reading", "ready", "failed", "filed", "setAside", "split", "joined"] as const;
export type ArrivalState = (typeof arrivalStates)[number];

export const journey: Readonly<Record<ArrivalState, readonly ArrivalState[]>> = {
  /** Taken in; nothing has looked at it yet. A person may file it by hand all the same. */
  waiting: ["reading", "filed", "setAside", "split", "joined"],
  reading: ["ready", "failed", "waiting", "filed", "setAside", "split", "joined"],
  ready: ["waiting", "filed", "setAside", "split", "joined"],
  /** Could not be read; says why. Can be tried again, filed by hand or set aside. */
  failed: ["waiting", "filed", "setAside", "split", "joined"],
  filed: ["ready"],
  setAside: ["ready", "waiting", "failed"],
  /** Taken apart, or put together with others, on the bench; can be put back while none of what was made is filed. */
  split: ["ready", "failed"],
  joined: ["ready", "failed"],
};

/** States in which an arrival still waits for somebody. */
export const openStates = ["waiting", "reading", "ready", "failed"] as const satisfies readonly ArrivalState[];

/** Whether an arrival may go from one state to another. */
export function mayGo(from: ArrivalState, to: ArrivalState): boolean {
  return journey[from].includes(to);
}
