"use client";
import { useCallback, useEffect, useRef } from "react";

/** Windows of one browser that show the same thing tell each other when they changed it. Answers what tells the others. */
export function useInStep(about: string, onChanged: () => void): () => void {
  const channel = useRef<BroadcastChannel | null>(null);
  const changed = useRef(onChanged);
  useEffect(() => {
    changed.current = onChanged;
  });
  useEffect(() => {
    const opened = new BroadcastChannel("amber-in-step");
    channel.current = opened;
    opened.onmessage = (e) => {
      if (e.data === about) changed.current();
    };
    return () => {
      channel.current = null;
      opened.close();
    };
  }, [about]);
  return useCallback(() => channel.current?.postMessage(about), [about]);
}
