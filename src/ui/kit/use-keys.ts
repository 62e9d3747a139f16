"use client";
import { useEffect, useRef } from "react";

/** Keys and what they do. Names as the browser gives them: "j", "Enter", "/", "ArrowDown"; with "ctrl+" before it where meant. */
export type KeyActions = Readonly<Record<string, () => void>>;

/** Listens for single keys while nobody types in a field and no dialog is open. */
export function useKeys(actions: KeyActions, enabled = true): void {
  const current = useRef(actions);
  useEffect(() => {
    current.current = actions;
  });
  useEffect(() => {
    if (!enabled) return;
    const listen = (event: KeyboardEvent): void => {
      if (event.defaultPrevented || event.altKey || event.metaKey || document.querySelector(".modal.show")) return;
      if (isTyping(event.target)) {
        // Escape leaves a field, so that the keys work again without reaching for the mouse.
        if (event.key === "Escape" && event.target instanceof HTMLElement) event.target.blur();
        if (!(event.ctrlKey && event.key === "Enter")) return;
      }
      const name = `${event.ctrlKey ? "ctrl+" : ""}${event.key.length === 1 ? event.key.toLowerCase() : event.key}`;
      const act = current.current[name];
      // Enter and blank on a button belong to the button.
      if (
        !act ||
        ((name === "Enter" || name === " ") && event.target instanceof HTMLElement && event.target.closest("button, a, [role=option]"))
      )
        return;
      event.preventDefault();
      act();
    };
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  }, [enabled]);
}

/** Whether an event comes from something one types in. */
export function isTyping(target: EventTarget | null): boolean {
  return (
    target instanceof HTMLElement &&
    (target.isContentEditable || ["INPUT", "TEXTAREA", "SELECT"].includes(target.tagName)) &&
    !(target instanceof HTMLInputElement && ["checkbox", "radio", "button"].includes(target.type))
  );
}
