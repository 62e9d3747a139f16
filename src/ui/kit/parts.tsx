import type { ReactNode } from "react";
import { fullTime, whenText } from "./words.ts";

/** An instant, short, with the full time on hover. */
export function When({ at }: { at: string }) {
  return (
    <time dateTime={at} title={fullTime(at)} suppressHydrationWarning>
      {whenText(at)}
    </time>
  );
}

/** What an empty screen says: what belongs there, and the first step. */
export function Empty({ icon, title, children }: { icon: ReactNode; title: string; children?: ReactNode }) {
  return (
    <div className="empty">
      {icon}
      <h2 className="mb-1">{title}</h2>
      <div>{children}</div>
    </div>
  );
}

/** Rows of the size that is to come, while it loads. */
export function Skeletons({ rows, height = 64 }: { rows: number; height?: number }) {
  return (
    <div role="progressbar" aria-busy="true" aria-label="Loading">
      {Array.from({ length: rows }, (_, i) => (
        <div key={i} className="px-3 py-2 border-bottom" style={{ height }}>
          <div className="skeleton w-50 mb-2" />
          <div className="skeleton w-75" />
        </div>
      ))}
    </div>
  );
}

/** An error in the place of what could not be loaded. */
export function Trouble({ title, next, again }: { title: string; next: string; again?: () => void }) {
  return (
    <div className="empty" role="alert">
      <h2 className="problem mb-1">{title}</h2>
      <div>{next}</div>
      {again ? (
        <button type="button" className="btn btn-plain mt-3" onClick={again}>
          Try again
        </button>
      ) : null}
    </div>
  );
}

/** The emblem: one loop of a clip. */
export function Loop({ size = 24 }: { size?: number }) {
  return (
    <svg
      width={size}
      height={size}
      viewBox="4.5 1.5 15 21"
      fill="none"
      stroke="currentColor"
      strokeWidth="1.7"
      strokeLinecap="round"
      aria-hidden="true"
    >
      <path d="M7 8v8.2a5 5 0 0 0 10 0V6.4a3.5 3.5 0 0 0-7 0v9.6a2 2 0 0 0 4 0V8.6" />
    </svg>
  );
}
