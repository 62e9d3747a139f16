/** Drops that a part of the page has taken, so that what lies around it leaves them alone. */
const taken = new WeakSet<object>();

/** React wraps the browser's event; both stand for the same drop. */
const native = (event: object): object => ("nativeEvent" in event && typeof event.nativeEvent === "object" && event.nativeEvent) || event;

/** Takes a drop. The event goes on to the drop area around, which has to see that the drag has ended. */
export const takeDrop = (event: object): void => void taken.add(native(event));

/** Whether a part of the page has taken a drop. */
export const isDropTaken = (event: object): boolean => taken.has(native(event));
