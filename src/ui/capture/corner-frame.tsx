"use client";
import { type KeyboardEvent, type PointerEvent, useRef } from "react";
import type { Corners, Point } from "#core/pages/find-corners.ts";

const names = ["Top left", "Top right", "Bottom right", "Bottom left"] as const;
/** One press of an arrow key moves a corner so far, share of the picture. */
const STEP = 0.01;

/** A photograph with the four corners of its page; each can be dragged, or moved with the arrow keys. */
export function CornerFrame({
  url,
  width,
  height,
  corners,
  onChange,
}: {
  url: string;
  width: number;
  height: number;
  corners: Corners;
  onChange: (corners: Corners) => void;
}) {
  const box = useRef<HTMLDivElement>(null);
  const held = useRef<number | null>(null);
  const move = (at: number, to: Point): void => {
    const inside = { x: Math.max(0, Math.min(width - 1, to.x)), y: Math.max(0, Math.min(height - 1, to.y)) };
    const next: [Point, Point, Point, Point] = [...corners];
    next[at] = inside;
    onChange(next);
  };
  const point = (event: PointerEvent): Point => {
    const rect = box.current?.getBoundingClientRect();
    return rect
      ? { x: ((event.clientX - rect.left) / rect.width) * width, y: ((event.clientY - rect.top) / rect.height) * height }
      : { x: 0, y: 0 };
  };
  const key = (event: KeyboardEvent, at: number): void => {
    const corner = corners[at];
    const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (!corner || !by) return;
    event.preventDefault();
    move(at, { x: corner.x + (by[0] ?? 0) * width * STEP, y: corner.y + (by[1] ?? 0) * height * STEP });
  };
  return (
    <div
      ref={box}
      className="corner-frame"
      style={{ aspectRatio: `${width} / ${height}` }}
      onPointerMove={(e) => {
        if (held.current !== null) move(held.current, point(e));
      }}
      onPointerUp={() => {
        held.current = null;
      }}
    >
      <img src={url} alt="The photograph" draggable={false} />
      <svg viewBox={`0 0 ${width} ${height}`} preserveAspectRatio="none" aria-hidden="true">
        <polygon points={corners.map((c) => `${c.x},${c.y}`).join(" ")} vectorEffect="non-scaling-stroke" />
      </svg>
      {corners.map((corner, at) => (
        <button
          key={names[at]}
          type="button"
          aria-label={`${names[at]} corner`}
          style={{ left: `${(corner.x / width) * 100}%`, top: `${(corner.y / height) * 100}%` }}
          onPointerDown={(e) => {
            held.current = at;
            box.current?.setPointerCapture(e.pointerId);
          }}
          onKeyDown={(e) => key(e, at)}
        />
      ))}
    </div>
  );
}
