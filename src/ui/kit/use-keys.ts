"use client";
import { useEffect, useRef } from "react";

/** Keys and what they do. Names as the browser gives them: "j", "Enter", "/", "ArrowDown"; with "ctrl+" before it where meant. They are told whether the key is only held down. */
export type KeyActions = Readonly<Record<string, (isHeld: boolean) => void>>;

/** Those who listen, in the order they came. Whoever came last is asked first: a screen's own keys go before those that hold everywhere. */
const listeners: ((event: KeyboardEvent) => void)[] = [];

function tell(event: KeyboardEvent): void {
  for (const listener of listeners.toReversed()) {
    if (event.defaultPrevented) return;
    listener(event);
  }
}

/** Listens for single keys while nobody types in a field and no dialog is open. */
export function useKeys(actions: KeyActions, enabled = true): void {
  const current = useRef(actions);
  useEffect(() => {
    current.current = actions;
  });
  useEffect(() => {
    if (!enabled) return;
    const listen = (event: KeyboardEvent): void => {
      if (event.altKey || event.metaKey || document.querySelector(".modal.show")) return;
      if (isTyping(event.target)) {
        // Escape leaves a field, so that the keys work again without reaching for the mouse.
        if (event.key === "Escape" && event.target instanceof HTMLElement) event.target.blur();
        if (!(event.ctrlKey && event.key === "Enter")) return;
      }
      const name = `${event.ctrlKey ? "ctrl+" : ""}${event.key.length === 1 ? event.key.toLowerCase() : event.key}`;
      const act = current.current[name];
      // Enter and blank on a button belong to the button, unless it is a row that leaves Enter to its page.
      if (
        !act ||
        ((name === "Enter" || name === " ") &&
          event.target instanceof HTMLElement &&
          event.target.closest("button, a, [role=option]") &&
          !(name === "Enter" && event.target.closest("[data-keys=page]")))
      )
        return;
      event.preventDefault();
      act(event.repeat);
    };
    if (listeners.length === 0) window.addEventListener("keydown", tell);
    listeners.push(listen);
    return () => {
      listeners.splice(listeners.indexOf(listen), 1);
      if (listeners.length === 0) window.removeEventListener("keydown", tell);
    };
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
