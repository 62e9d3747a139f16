"use client";
import { useEffect } from "react";

/** Has the browser ask before the page is left while something on it is not saved. */
export function useWarnBeforeLeaving(isChanged: boolean): void {
  useEffect(() => {
    const warn = (e: BeforeUnloadEvent): void => {
      if (isChanged) e.preventDefault();
    };
    window.addEventListener("beforeunload", warn);
    return () => window.removeEventListener("beforeunload", warn);
  }, [isChanged]);
}
