"use client";
import { Children, Fragment, type KeyboardEvent, type PointerEvent, type ReactNode, useRef, useState, useSyncExternalStore } from "react";

interface Side {
  readonly start: number;
  readonly min: number;
  readonly max: number;
}

const none = (): (() => void) => () => {};

/**
 * Columns side by side; all but the growing one can be resized by dragging or with the arrow keys, and remember their width.
 * On a phone only the column of the present step shows.
 */
export function Columns({
  name,
  sides,
  grows,
  step,
  children,
}: {
  name: string;
  sides: Readonly<Record<number, Side>>;
  grows: number;
  step: number;
  children: ReactNode;
}) {
  const parts = Children.toArray(children);
  const stored = useSyncExternalStore(
    none,
    () => localStorage.getItem(`columns.${name}`),
    () => null,
  );
  const [changed, setChanged] = useState<Readonly<Record<number, number>>>({});
  const drag = useRef<{ index: number; x: number; width: number } | null>(null);
  const remembered = parseWidths(stored);
  const widthOf = (index: number): number => {
    const side = sides[index];
    if (!side) return 0;
    return Math.min(side.max, Math.max(side.min, changed[index] ?? remembered[index] ?? side.start));
  };
  const set = (index: number, width: number): void => {
    const next = { ...remembered, ...changed, [index]: width };
    setChanged(next);
    localStorage.setItem(`columns.${name}`, JSON.stringify(next));
  };
  const grip = (index: number, direction: 1 | -1): ReactNode => (
    <button
      type="button"
      className="grip"
      role="separator"
      aria-orientation="vertical"
      aria-label="Column width"
      aria-valuenow={widthOf(index)}
      aria-valuemin={sides[index]?.min}
      aria-valuemax={sides[index]?.max}
      onPointerDown={(e: PointerEvent<HTMLButtonElement>) => {
        drag.current = { index, x: e.clientX, width: widthOf(index) };
        e.currentTarget.setPointerCapture(e.pointerId);
      }}
      onPointerMove={(e) => {
        if (drag.current) set(index, drag.current.width + (e.clientX - drag.current.x) * direction);
      }}
      onPointerUp={() => {
        drag.current = null;
      }}
      onKeyDown={(e: KeyboardEvent) => {
        const by = e.key === "ArrowRight" ? 16 : e.key === "ArrowLeft" ? -16 : 0;
        if (by !== 0) {
          e.preventDefault();
          set(index, widthOf(index) + by * direction);
        }
      }}
    />
  );
  return (
    <div className="columns">
      {parts.map((part, index) => (
        <Fragment key={index}>
          {index > grows ? grip(index, -1) : null}
          <div
            className={`column ${index === grows ? "grows" : ""} ${index === step ? "is-step" : ""}`}
            style={index === grows ? undefined : { width: widthOf(index), flex: "none" }}
            suppressHydrationWarning
          >
            {part}
          </div>
          {index < grows ? grip(index, 1) : null}
        </Fragment>
      ))}
    </div>
  );
}

function parseWidths(text: string | null): Readonly<Record<number, number>> {
  try {
    const value: unknown = JSON.parse(text ?? "{}");
    return typeof value === "object" && value !== null
      ? Object.fromEntries(Object.entries(value).filter((e): e is [string, number] => typeof e[1] === "number"))
      : {};
  } catch {
    return {};
  }
}
