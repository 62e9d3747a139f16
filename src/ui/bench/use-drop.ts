import { dropTargetForElements } from "@atlaskit/pragmatic-drag-and-drop/element/adapter";
import { type RefObject, useEffect, useRef, useState } from "react";

/** Page keys that a drag carries. */
export function keysOf(value: unknown): ReadonlySet<string> {
  return new Set(Array.isArray(value) ? value.filter((v): v is string => typeof v === "string") : []);
}

/** A place that pages can be dropped on, and whether some are held over it. */
export function useDrop(onDrop: (keys: ReadonlySet<string>) => void): readonly [RefObject<HTMLDivElement | null>, boolean] {
  const target = useRef<HTMLDivElement>(null);
  const [over, setOver] = useState(false);
  const current = useRef(onDrop);
  useEffect(() => {
    current.current = onDrop;
  });
  useEffect(() => {
    const element = target.current;
    if (!element) return;
    return dropTargetForElements({
      element,
      canDrop: ({ source }) => Array.isArray(source.data["pages"]),
      onDragEnter: () => setOver(true),
      onDragLeave: () => setOver(false),
      onDrop: ({ source }) => {
        setOver(false);
        current.current(keysOf(source.data["pages"]));
      },
    });
  }, []);
  return [target, over];
}
