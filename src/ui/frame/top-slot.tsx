"use client";
import { createContext, type ReactNode, useContext, useState } from "react";
import { createPortal } from "react-dom";

const SlotContext = createContext<{
  readonly target: HTMLElement | null;
  readonly setTarget: (element: HTMLElement | null) => void;
} | null>(null);

/** Lets each page say where one is, in the top line of the frame. */
export function TopSlotProvider({ children }: { children: ReactNode }) {
  const [target, setTarget] = useState<HTMLElement | null>(null);
  return <SlotContext.Provider value={{ target, setTarget }}>{children}</SlotContext.Provider>;
}

/** The frame's end of the slot. */
export function useTopSlotTarget(): (element: HTMLElement | null) => void {
  const slot = useContext(SlotContext);
  if (!slot) throw new Error("TopSlotProvider is missing above");
  return slot.setTarget;
}

/** A page's end: what stands in the top line while the page shows. */
export function Where({ title, children }: { title: string; children?: ReactNode }) {
  const slot = useContext(SlotContext);
  return slot?.target
    ? createPortal(
        <>
          <h1>{title}</h1>
          {children}
          <title>{`${title} · Amber Clip`}</title>
        </>,
        slot.target,
      )
    : null;
}
