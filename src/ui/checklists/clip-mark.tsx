import type { ItemState } from "#core/checklists/checklist-state.ts";

/** Words of an item's state. */
export const itemStateWords: Readonly<Record<ItemState, string>> = {
  outstanding: "outstanding",
  received: "received",
  complete: "complete",
  expired: "expired",
  waived: "waived",
};

/** Shape first, colour second: an open loop, one on a half tile, a heavy one on a full tile, a broken and a dotted one. */
const strokes: Readonly<Record<ItemState, { readonly width: number; readonly dash?: string }>> = {
  outstanding: { width: 1.7 },
  received: { width: 1.7 },
  complete: { width: 2.3 },
  expired: { width: 1.9, dash: "8 3.6 3 3.6" },
  waived: { width: 1.9, dash: "1.6 3" },
};

/** The clip mark of an item's state. With a label it is an image of its own; without one the words stand beside it. */
export function ClipMark({ state, size = 20, label }: { state: ItemState; size?: number; label?: string }) {
  const stroke = strokes[state];
  return (
    <svg
      className={`clip-mark is-${state}`}
      width={size}
      height={size}
      viewBox="0 0 24 24"
      fill="none"
      stroke="currentColor"
      strokeWidth={stroke.width}
      strokeDasharray={stroke.dash}
      strokeLinecap="round"
      {...(label === undefined ? { "aria-hidden": true } : { role: "img", "aria-label": label })}
    >
      {state === "complete" ? <rect className="tile" x="3" y="0.5" width="18" height="23" rx="4" stroke="none" /> : null}
      {state === "received" ? <rect className="tile" x="3" y="12" width="18" height="11.5" rx="4" stroke="none" /> : null}
      <path d="M7 8v8.2a5 5 0 0 0 10 0V6.4a3.5 3.5 0 0 0-7 0v9.6a2 2 0 0 0 4 0V8.6" />
    </svg>
  );
}
